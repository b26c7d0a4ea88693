// ./laager demo, fleet and dev: everything on loopback, with the demo scenario or with five hundred customers; dev runs the
// sources, and watches them.
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  checkDisk,
  command,
  endLeftovers,
  freePort,
  HOME,
  logFile,
  refuseIfUsed,
  say,
  startMariaDb,
  takeLock,
} from './lib.mjs';
import { BUILT, LAYOUT, LARGE, printSignIns, startParts, WATCHED } from './parts.mjs';

const PASSWORD = 'lantern-on-the-quay';

const isDev = process.argv.includes('--watch');
const isFleet = process.argv.includes('--fleet');
/** Each scenario's data stands by itself. */
const OWN = isFleet ? join(HOME, 'fleet') : HOME;
const LOADING = isFleet
  ? 'Loading the fleet: five hundred customers are taken on; this takes some minutes …'
  : 'Loading the demo: 90 days are being lived …';
const NOTE = join(HOME, 'processes.json');

await command(async (processes, end) => {
  const release = takeLock();
  process.once('exit', release);
  const left = await endLeftovers(NOTE);
  if (left.length > 0) say(`Ended what an earlier Laager had left: ${left.join(', ')}.`);
  checkDisk(HOME);
  mkdirSync(join(OWN, 'logs'), { recursive: true });
  // Written when all is loaded: without it, a load was cut off, and its data is worth nothing.
  const file = join(OWN, 'demo.json');
  const kept = existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : {};
  if (kept.layout !== LAYOUT) {
    rmSync(file, { force: true });
    refuseIfUsed(join(process.cwd(), OWN, 'data'));
    rmSync(join(OWN, 'data'), { recursive: true, force: true });
  }
  const onExit = (member, code) => {
    process.stderr.write(`The ${member.name} does not stay up (${code}): ${member.tail()}\n`);
    void end(1);
  };
  const again = (member, code) => say(`The ${member.name} ended by itself (${code}); it is started again.`);
  const databasePort = await freePort(4730);
  await startMariaDb(processes, join(OWN, 'data'), databasePort, {
    args: isFleet ? LARGE : [],
    log: logFile(join(OWN, 'logs', 'mariadb.log')),
    onExit,
    again,
  });
  say(existsSync(file) ? 'Starting …' : LOADING);
  const parts = await startParts(processes, {
    databasePort,
    prefix: 'laager',
    webPort: Number(process.env.PORT ?? 4700),
    logs: join(OWN, 'logs'),
    scenario: isFleet ? 'fleet' : 'eight',
    how: isDev ? WATCHED : BUILT,
    env: { LAAGER_PROCESSES: join(process.cwd(), NOTE) },
    onLoaded: ({ token }) => {
      if (token) writeFileSync(file, JSON.stringify({ token, layout: LAYOUT }), { mode: 0o600 });
    },
    onExit,
    again,
  });
  printSignIns(parts.address, PASSWORD);
  if (existsSync(file))
    say(`  API token of ida (docs/api.md): ${JSON.parse(readFileSync(file, 'utf8')).token}`);
  if (isDev) say(`  A change of a file shows by itself. What the parts say: ${join(OWN, 'logs')}`);
  say('  Ctrl-C stops everything; the data stays. "./laager reset" starts over.');
  say('');
}, NOTE);
