import { setMaxListeners } from 'node:events';
import { ROOMS } from '../server/rooms';
import { work } from '../server/worker';
import { openPatiently } from './app';

const stop = new AbortController();
// Every hand and every job listens for the end.
setMaxListeners(0, stop.signal);
for (const signal of ['SIGTERM', 'SIGINT'] as const) process.once(signal, () => stop.abort());
const { app, jobs, close } = await openPatiently('worker', stop.signal);
app.log.info({ pid: process.pid }, 'worker begins');
await work(app, { jobs, rooms: ROOMS }, stop.signal);
await close();
app.log.info('worker ends');
