// What the commands share: clear refusals, free ports, MariaDB on loopback, processes that are started and ended.
import { spawn, spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';

export const HOME = '.laager';

/** Ends the command with one clear line. */
export class Refusal extends Error {}

export function checkNode(version = process.versions.node) {
  const [major = 0, minor = 0] = version.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    throw new Refusal(`Node ${version} is too old: install Node 20.19 or newer.`);
}

export function checkDisk(folder = '.', leastMb = 600) {
  const { bavail, bsize } = statfsSync(folder);
  const free = Math.floor((bavail * bsize) / 1_000_000);
  if (free < leastMb) throw new Refusal(`The disk is full: ${free} MB are free, ${leastMb} MB are needed.`);
}

const isRoot = () => process.getuid?.() === 0;
const has = (program) => spawnSync('sh', ['-c', `command -v ${program}`]).status === 0;

/** Installs Debian packages for programs that are missing; without root it says which command to run. */
export function needPrograms(programs, root = isRoot()) {
  const packages = Object.entries(programs)
    .filter(([program]) => !has(program))
    .map(([, name]) => name);
  if (packages.length === 0) return;
  const command = `apt-get install -y ${packages.join(' ')}`;
  if (!root) throw new Refusal(`Missing: ${packages.join(', ')}. Run: sudo ${command}`);
  if (!has('apt-get'))
    throw new Refusal(`Missing: ${packages.join(', ')}. Install them with your system's packages.`);
  say(`Installing ${packages.join(', ')} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  spawnSync('apt-get', ['update', '-qq'], { stdio: 'ignore', env });
  const done = spawnSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], {
    encoding: 'utf8',
    env,
  });
  if (done.status !== 0) throw new Refusal(`"${command}" failed: ${lastLine(done.stderr)}`);
}

const lastLine = (text) => (text ?? '').trim().split('\n').at(-1) ?? '';

/** Runs npm ci when node_modules is not what package-lock.json says. */
export function needModules() {
  const lock = createHash('sha256').update(readFileSync('package-lock.json')).digest('hex');
  const mark = 'node_modules/.laager-lock';
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  say('Installing packages (npm ci) …');
  const done = spawnSync('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { encoding: 'utf8' });
  if (done.status !== 0) throw new Refusal(`npm ci failed: ${lastLine(done.stderr)}`);
  writeFileSync(mark, lock);
}

/** Builds when the sources have changed since the last build. */
export function needBuild() {
  const sources = createHash('sha256');
  for (const file of filesUnder('src').concat([
    'package-lock.json',
    'astro.config.mjs',
    'scripts/build.mjs',
  ])) {
    sources.update(file);
    sources.update(readFileSync(file));
  }
  const digest = sources.digest('hex');
  const mark = 'dist/.sources';
  if (existsSync(mark) && readFileSync(mark, 'utf8') === digest) return;
  say('Building …');
  const done = spawnSync('node', ['scripts/build.mjs'], { encoding: 'utf8' });
  if (done.status !== 0) throw new Refusal(`The build failed:\n${done.stderr || done.stdout}`);
  writeFileSync(mark, digest);
}

function filesUnder(folder) {
  return readdirSync(folder, { withFileTypes: true })
    .flatMap((entry) => {
      const path = join(folder, entry.name);
      return entry.isDirectory() ? filesUnder(path) : [path];
    })
    .sort();
}

export const say = (line) => process.stdout.write(`${line}\n`);

/** The port that was wanted, or when it is taken the next free one. */
export async function freePort(wanted) {
  for (let port = wanted; port < wanted + 200; port++) if (await isFree(port)) return port;
  throw new Refusal(`No free port from ${wanted} to ${wanted + 199}.`);
}

const isFree = (port) =>
  new Promise((resolve) => {
    const probe = createServer();
    probe.once('error', () => resolve(false));
    probe.listen(port, '127.0.0.1', () => probe.close(() => resolve(true)));
  });

/** This checkout's own secret: made once, readable by its owner only. */
export function ownSecret(name) {
  mkdirSync(HOME, { recursive: true });
  const file = join(HOME, `${name}.secret`);
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString('base64url'), { mode: 0o600 });
  return readFileSync(file, 'utf8').trim();
}

/** Only one command at a time may use a checkout's data. */
export function takeLock(file = join(HOME, 'running.pid')) {
  mkdirSync(HOME, { recursive: true });
  if (existsSync(file)) {
    const pid = Number(readFileSync(file, 'utf8'));
    if (pid && isAlive(pid))
      throw new Refusal(`Laager is running here already (process ${pid}). Stop it first.`);
  }
  writeFileSync(file, String(process.pid));
  return () => rmSync(file, { force: true });
}

export function isAlive(pid) {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}

/** Processes that end with the command, the last begun first. */
export class Processes {
  #members = [];
  #ended = false;

  /** Starts a program; its output goes to a file. `onExit` is called when it ends before it is told to. */
  start(name, command, args, { env, log, onExit }) {
    const child = spawn(command, args, {
      env: { ...process.env, ...env },
      stdio: ['ignore', 'pipe', 'pipe'],
      // Ctrl-C reaches only us: we end the others, in order.
      detached: true,
    });
    const lines = [];
    const keep = (chunk) => {
      lines.push(String(chunk));
      if (lines.length > 200) lines.shift();
      log?.write(chunk);
    };
    child.stdout.on('data', keep);
    child.stderr.on('data', keep);
    const member = { name, child, tail: () => lines.join('').trim().split('\n').slice(-3).join(' | ') };
    member.exited = new Promise((resolve) => {
      child.once('error', (error) => {
        lines.push(error.message);
        resolve(-1);
      });
      child.once('exit', (code) => resolve(code ?? -1));
    });
    void member.exited.then((code) => {
      member.gone = true;
      if (!this.#ended && !member.leaving) onExit?.(member, code);
    });
    this.#members.push(member);
    return member;
  }

  async stop(member, patienceMs = 15_000) {
    member.leaving = true;
    if (member.gone) return;
    member.child.kill('SIGTERM');
    const ended = await Promise.race([member.exited, pause(patienceMs, 'late', { ref: false })]);
    if (ended === 'late') member.child.kill('SIGKILL');
    await member.exited;
  }

  async stopAll() {
    this.#ended = true;
    for (const member of [...this.#members].reverse()) await this.stop(member);
  }
}

/** Starts MariaDB on loopback with a data folder of its own, and waits until it answers. */
export async function startMariaDb(processes, folder, port, { log, args = [] } = {}) {
  const data = join(process.cwd(), folder);
  if (!existsSync(join(data, 'mysql'))) {
    if (existsSync(data) && readdirSync(data).length > 0)
      throw new Refusal(`The data folder ${folder} is damaged. "./laager reset" starts over.`);
    mkdirSync(data, { recursive: true });
    const made = spawnSync(
      'mariadb-install-db',
      [
        '--no-defaults',
        `--datadir=${data}`,
        ...userArgs(),
        '--auth-root-authentication-method=normal',
        '--skip-test-db',
      ],
      { encoding: 'utf8' },
    );
    if (made.status !== 0) {
      rmSync(data, { recursive: true, force: true });
      throw new Refusal(`MariaDB's data folder could not be made: ${lastLine(made.stderr)}`);
    }
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
    { log, onExit: () => (failed = true) },
  );
  const { default: mysql } = await import('mysql2/promise');
  for (let tries = 0; tries < 300; tries++) {
    if (failed || member.gone)
      throw new Refusal(`MariaDB did not start; the data folder ${folder} may be damaged: ${reason(member)}`);
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

/** Runs a built program to its end. @returns what it printed */
export async function runProgram(processes, name, file, env, log) {
  const member = processes.start(name, 'node', [file], { env, log });
  let printed = '';
  member.child.stdout.on('data', (chunk) => (printed += chunk));
  const code = await member.exited;
  if (code !== 0) throw new Refusal(`${name} failed: ${member.tail()}`);
  return printed;
}

/** Runs a command's main part: a refusal becomes one line and exit 1; what was started is ended in any case. */
export async function command(main) {
  const processes = new Processes();
  let ending;
  const end = (code) => {
    ending ??= processes.stopAll().then(() => process.exit(code));
    return ending;
  };
  process.on('SIGINT', () => void end(0));
  process.on('SIGTERM', () => void end(0));
  try {
    await main(processes, end);
  } catch (error) {
    if (ending) return;
    process.stderr.write(`${error instanceof Refusal ? error.message : (error?.stack ?? String(error))}\n`);
    await end(1);
  }
}
