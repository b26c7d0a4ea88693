// ./laager demo, fleet and dev: everything on loopback, with the demo scenario, with five hundred customers, or with nothing
// but a lead; dev runs the sources, and watches them.
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  checkDisk,
  command,
  endLeftovers,
  freePort,
  HOME,
  logFile,
  Refusal,
  refuseIfUsed,
  say,
  startMariaDb,
  takeLock,
} from './lib.mjs';
import { BUILT, LAYOUT, LARGE, printDesk, printEmpty, printSignIns, startParts, WATCHED } from './parts.mjs';

const PASSWORD = 'lantern-on-the-quay';

const isDev = process.argv.includes('--watch');
/** Each scenario's data stands by itself. */
const SCENARIOS = {
  eight: { own: HOME, loading: 'Loading the demo: 90 days are being lived …', database: [] },
  fleet: {
    own: join(HOME, 'fleet'),
    loading: 'Loading the fleet: five hundred customers are taken on; this takes some minutes …',
    database: LARGE,
  },
  empty: { own: join(HOME, 'empty'), loading: 'Making an empty Laager …', database: [] },
};
/** @type {import('./parts.mjs').Scenario[]} */
const OTHERS = ['fleet', 'empty'];
const scenario = OTHERS.find((one) => process.argv.includes(`--${one}`)) ?? 'eight';
const { own: OWN, loading: LOADING, database: args } = SCENARIOS[scenario];
const NOTE = join(HOME, 'processes.json');

/** Cut off while it was written, it says nothing: the data are loaded again. */
function readKept(file) {
  try {
    return existsSync(file) ? JSON.parse(readFileSync(file, 'utf8')) : {};
  } catch (error) {
    if (error instanceof SyntaxError) return {};
    throw error;
  }
}

/** @throws Refusal */
function webPort(text = '4700') {
  const port = Number(text);
  // The stand-ins listen at ports after it.
  if (text.trim() === '' || !Number.isInteger(port) || port < 1 || port > 64_600)
    throw new Refusal(`PORT has to be a port from 1 to 64600, and is ${text}.`);
  return port;
}

await command(
  async (processes, end) => {
    const port = webPort(process.env.PORT);
    const release = takeLock();
    process.once('exit', release);
    const left = await endLeftovers(NOTE);
    if (left.length > 0) say(`Ended what an earlier Laager had left: ${left.join(', ')}.`);
    checkDisk(HOME);
    mkdirSync(join(OWN, 'logs'), { recursive: true });
    // Written when all is loaded: without it, a load was cut off, and its data is worth nothing.
    const file = join(OWN, 'demo.json');
    const kept = readKept(file);
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
      args,
      log: logFile(join(OWN, 'logs', 'mariadb.log')),
      onExit,
      again,
    });
    say(existsSync(file) ? 'Starting …' : LOADING);
    const parts = await startParts(processes, {
      databasePort,
      prefix: 'laager',
      webPort: port,
      logs: join(OWN, 'logs'),
      scenario,
      how: isDev ? WATCHED : BUILT,
      env: { LAAGER_PROCESSES: join(process.cwd(), NOTE) },
      onLoaded: ({ loaded, token }) => {
        if (loaded) writeFileSync(file, JSON.stringify({ token, layout: LAYOUT }), { mode: 0o600 });
      },
      onExit,
      again,
    });
    if (scenario === 'empty') printEmpty(parts, PASSWORD);
    else {
      printSignIns(parts.address, PASSWORD);
      if (scenario === 'eight') printDesk(parts);
      say(`  API token of ida (docs/api.md): ${JSON.parse(readFileSync(file, 'utf8')).token}`);
    }
    if (isDev) say(`  A change of a file shows by itself. What the parts say: ${join(OWN, 'logs')}`);
    say('  Ctrl-C stops everything; the data stays. "./laager reset" starts over.');
    say('');
  },
  { note: NOTE, stopped: 0 },
);
