// What the commands share: free ports, MariaDB on loopback, processes that are started and ended.
import { createHash } from 'node:crypto';
import {
  createWriteStream,
  existsSync,
  openSync,
  mkdirSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { execaSync } from 'execa';
import getPort, { portNumbers } from 'get-port';
import { isRoot, lastLine, Refusal } from './checks.mjs';
import { Processes } from './processes.mjs';

export * from './checks.mjs';
export * from './processes.mjs';

/** Above 1024, ports that neither a browser nor `fetch` connects to (WHATWG Fetch, section 2.9, port blocking). */
const BLOCKED = [
  1719, 1720, 1723, 2049, 3659, 4045, 4190, 5060, 5061, 6000, 6566, 6665, 6666, 6667, 6668, 6669, 6679, 6697,
  10_080,
];

/** The port that was wanted, or when it is taken a free one after it. */
export async function freePort(wanted) {
  const last = Math.min(wanted + 199, 65_535);
  const port = await getPort({ port: portNumbers(wanted, last), host: '127.0.0.1', exclude: BLOCKED });
  if (port < wanted || port > last) throw new Refusal(`No free port from ${wanted} to ${last}.`);
  return port;
}

/** So long a log may grow; the one before it is kept beside it. */
const MOST_LOG_BYTES = 20_000_000;

/**
 * A file for what a program logs, readable by its owner only. When it is full, it becomes `PATH.1` and a new one is begun.
 * One that cannot be written ends nobody: it is dropped, and said once.
 */
export function logFile(path, mostBytes = MOST_LOG_BYTES) {
  let works = true;
  let bytes = existsSync(path) ? statSync(path).size : 0;
  const lost = (error) => {
    if (works) process.stderr.write(`${path} cannot be written (${error.code}): what follows is lost.\n`);
    works = false;
  };
  // Opened at once: a file that is opened by and by could be one that was put aside meanwhile.
  const open = () => {
    try {
      const stream = createWriteStream(path, { fd: openSync(path, 'a', 0o600) });
      stream.on('error', lost);
      return stream;
    } catch (error) {
      lost(error);
      return undefined;
    }
  };
  let stream = open();
  const turn = () => {
    bytes = 0;
    try {
      renameSync(path, `${path}.1`);
    } catch {
      // It grows on: a log that cannot be put aside is still written.
      return;
    }
    // What is still to be written goes to the same file, whatever it is called by now.
    stream?.end();
    stream = open();
  };
  return {
    write: (chunk) => {
      if (!works) return false;
      if (bytes > mostBytes) turn();
      bytes += Buffer.byteLength(chunk);
      return works && stream.write(chunk);
    },
  };
}

/** Starts MariaDB on loopback with a data folder of its own, and waits until it answers. */
export async function startMariaDb(processes, folder, port, { log, args = [], onExit, again } = {}) {
  const data = join(process.cwd(), folder);
  if (!existsSync(join(data, 'mysql'))) {
    if (existsSync(data) && readdirSync(data).length > 0)
      throw new Refusal(`The data folder ${folder} is damaged. "./laager reset" starts over.`);
    makeDataFolder(folder, data);
  }
  let failed;
  const member = processes.start(
    'MariaDB',
    'mariadbd',
    [
      '--no-defaults',
      `--datadir=${data}`,
      `--port=${port}`,
      '--bind-address=127.0.0.1',
      `--socket=${socketFor(data)}`,
      `--pid-file=${join(data, 'mariadbd.pid')}`,
      '--skip-name-resolve',
      '--innodb-buffer-pool-size=256M',
      '--innodb-log-file-size=64M',
      // A process that dies loses nothing; a machine that loses power may lose its last second.
      '--innodb-flush-log-at-trx-commit=2',
      '--character-set-server=utf8mb4',
      '--collation-server=utf8mb4_general_ci',
      '--max-connections=200',
      ...userArgs(),
      ...args,
    ],
    {
      log,
      again,
      onExit: (ended, code) => {
        failed = true;
        onExit?.(ended, code);
      },
    },
  );
  const { default: mysql } = await import('mysql2/promise');
  for (let tries = 0; tries < 300; tries++) {
    if (failed || member.gone)
      throw new Refusal(
        `MariaDB did not start; the data folder ${folder} may be damaged, then "./laager reset" starts over: ${reason(member)}`,
      );
    try {
      const connection = await mysql.createConnection({
        host: '127.0.0.1',
        port,
        user: 'root',
        connectTimeout: 1_000,
      });
      await connection.end();
      return member;
    } catch {
      await pause(100);
    }
  }
  throw new Refusal(`MariaDB does not answer on port ${port}: ${reason(member)}`);
}

/** Two that are made at the same moment can be in each other's way: then it is made again. */
function makeDataFolder(folder, data, tries = 3) {
  mkdirSync(data, { recursive: true });
  const made = execaSync(
    'mariadb-install-db',
    [
      '--no-defaults',
      `--datadir=${data}`,
      ...userArgs(),
      '--auth-root-authentication-method=normal',
      '--skip-test-db',
    ],
    { reject: false },
  );
  if (made.exitCode === 0) return;
  rmSync(data, { recursive: true, force: true });
  if (tries > 1) return makeDataFolder(folder, data, tries - 1);
  throw new Refusal(`MariaDB's data folder could not be made: ${lastLine(made.stderr)}`);
}

const userArgs = () => (isRoot() ? ['--user=root'] : []);
const reason = (member) =>
  member
    .tail()
    .split(' | ')
    .find((line) => /error/i.test(line)) ?? member.tail();

/** A socket's path has at most 107 characters, whatever the checkout's folder is called. */
const socketFor = (data) =>
  `/tmp/laager-${createHash('sha256').update(data).digest('hex').slice(0, 12)}.sock`;

/** Waits until an address answers with a good status, as long as the process behind it lives. */
export async function untilAnswers(
  url,
  member,
  { patienceMs = 30_000, good = (status) => status < 500 } = {},
) {
  const end = Date.now() + patienceMs;
  while (Date.now() < end) {
    if (member.gone) throw new Refusal(`The ${member.name} ended: ${member.tail()}`);
    try {
      if (good((await fetch(url, { signal: AbortSignal.timeout(5_000) })).status)) return;
    } catch {
      // Not up yet.
    }
    await pause(100);
  }
  throw new Refusal(`The ${member.name} does not answer at ${url}: ${member.tail()}`);
}

/** Runs a program to its end. @returns what it printed */
export async function runProgram(processes, name, [program, args], env, log) {
  const member = processes.start(name, program, args, { env, log });
  let printed = '';
  member.child.stdout.on('data', (chunk) => (printed += chunk));
  const code = await member.exited;
  if (code !== 0) throw new Refusal(`${name} failed: ${member.tail()}`);
  return printed;
}

/**
 * Runs a command's main part: a refusal becomes one line and exit 1; what was started is ended in any case.
 * @param note where it is noted which processes run
 * @param stopped what it exits with when it is told to stop once its main part is done: of what runs until then, that is its
 * proper end and 0; all else, also what is still being started, has not done what it was asked for
 */
export async function command(main, { note, stopped } = {}) {
  const processes = new Processes(note);
  let ending;
  const end = (code) => {
    ending ??= processes.stopAll().then(() => process.exit(code));
    return ending;
  };
  let isUp = false;
  const endAs = (code) => void end(isUp && stopped !== undefined ? stopped : code);
  process.on('SIGINT', () => endAs(130));
  process.on('SIGTERM', () => endAs(143));
  try {
    await main(processes, end);
    isUp = true;
  } catch (error) {
    if (ending) return;
    process.stderr.write(`${error instanceof Refusal ? error.message : (error?.stack ?? String(error))}\n`);
    await end(1);
  }
}
