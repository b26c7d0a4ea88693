// What the commands check before anything is installed: clear refusals, programs, packages, the build. Uses no package.
import { spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statfsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

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

export const isRoot = () => process.getuid?.() === 0;
const has = (program) => spawnSync('sh', ['-c', `command -v ${program}`]).status === 0;

let canBind;
/**
 * A command that the kernel ends when we are gone, however we went (prctl(2), PR_SET_PDEATHSIG).
 * @param {string} program @param {string[]} args @returns {[string, string[]]}
 */
export function boundToUs(program, args) {
  canBind ??= has('setpriv');
  return canBind ? ['setpriv', ['--pdeathsig', 'TERM', program, ...args]] : [program, args];
}

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
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive', RUNLEVEL: '1' };
  spawnSync('apt-get', ['update', '-qq'], { stdio: 'ignore', env });
  const done = spawnSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], {
    encoding: 'utf8',
    env,
  });
  if (done.status !== 0) throw new Refusal(`"${command}" failed: ${lastLine(done.stderr)}`);
}

export const lastLine = (text) => (text ?? '').trim().split('\n').at(-1) ?? '';

/** Runs npm ci when node_modules is not what package-lock.json says. */
export function needModules() {
  const lock = createHash('sha256').update(readFileSync('package-lock.json')).digest('hex');
  const mark = 'node_modules/.laager-lock';
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  say('Installing packages (npm ci) …');
  const done = spawnSync(...boundToUs('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']), {
    encoding: 'utf8',
  });
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
  const done = spawnSync(...boundToUs('node', ['scripts/build.mjs']), { encoding: 'utf8' });
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

/** This checkout's own secret: made once, readable by its owner only. */
export function ownSecret(name) {
  mkdirSync(HOME, { recursive: true });
  const file = join(HOME, `${name}.secret`);
  if (!existsSync(file)) writeFileSync(file, randomBytes(32).toString('base64url'), { mode: 0o600 });
  return readFileSync(file, 'utf8').trim();
}
