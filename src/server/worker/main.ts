import { setMaxListeners } from 'node:events';
import { closeApp, openApp } from '../app';
import { work } from './index';

const app = await openApp('worker');
const stop = new AbortController();
// Every hand and every job listens for the end.
setMaxListeners(0, stop.signal);
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.once(signal, () => stop.abort());
app.log.info({ pid: process.pid }, 'worker begins');
await work(app, stop.signal);
await closeApp(app);
app.log.info('worker ends');
