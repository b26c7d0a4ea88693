// ./laager test: every check, in the order in which they are quick to fail; or only those, or those files, that are named.
import { execa } from 'execa';
import pLimit from 'p-limit';
import { command, Refusal, say } from './lib.mjs';

const bin = (name) => `node_modules/.bin/${name}`;

/** @typedef {[name: string, program: string, args: string[]]} Check */

/**
 * Quick to fail, and none needs the other: two at a time.
 * @type {Check[]}
 */
const READING = [
  ['format', bin('prettier'), ['--check', '--log-level=warn', '.']],
  ['lint', bin('eslint'), ['src', 'tests', 'bench', 'scripts']],
  ['types', bin('astro'), ['check', '--minimumSeverity=error']],
  ['types of the commands', bin('tsc'), ['-p', 'tsconfig.scripts.json']],
  ['arrows', bin('depcruise'), ['src', '--config', '.dependency-cruiser.cjs', '--output-type', 'err']],
];
/**
 * Most of its time goes by in waiting for what was killed: it runs beside the others, and tells when it has ended.
 * @type {Check}
 */
const BESIDE = ['processes', bin('vitest'), ['run', '--project', 'processes']];
/** @type {Check[]} */
const CHECKS = [
  ...READING,
  BESIDE,
  ['core', bin('vitest'), ['run', '--project', 'core']],
  ['server', bin('vitest'), ['run', '--project', 'server']],
  ['end to end', bin('playwright'), ['test']],
];

/** @type {(name: string, program: string, args: string[]) => Check} */
const check = (name, program, args) => [name, program, args];

/**
 * What is to be run: everything, or what was named.
 * @param {string[]} named
 * @returns {Check[]}
 */
function wanted(named) {
  const files = named.filter((one) => one.includes('/') || one.endsWith('.ts'));
  const checks = named.filter((one) => !files.includes(one));
  const unknown = checks.find((one) => !CHECKS.some(([name]) => name === one));
  if (unknown !== undefined)
    throw new Refusal(
      `There is no check "${unknown}". There are ${CHECKS.map(([name]) => name).join(', ')}; or name files.`,
    );
  if (files.length === 0)
    return checks.length === 0 ? CHECKS : CHECKS.filter(([name]) => checks.includes(name));
  const isPage = (file) => file.endsWith('.spec.ts');
  // Those that open ports run by themselves: their ports go by the number of their process, which is each project's own.
  const opensPorts = (file) => /tests\/(server|standins)\//.test(file);
  const pages = files.filter(isPage);
  const others = files.filter((file) => !isPage(file) && !opensPorts(file));
  const server = files.filter((file) => !isPage(file) && opensPorts(file));
  return [
    ...(others.length > 0 ? [check('tests', bin('vitest'), ['run', ...others])] : []),
    ...(server.length > 0 ? [check('tests of the server', bin('vitest'), ['run', ...server])] : []),
    ...(pages.length > 0 ? [check('end to end', bin('playwright'), ['test', ...pages])] : []),
  ];
}

await command(async (_processes, end) => {
  const args = process.argv.slice(2);
  const env = { ASTRO_TELEMETRY_DISABLED: '1', CI: process.env.CI ?? '1', npm_config_loglevel: 'silent' };
  if (args.includes('--watch')) {
    const files = args.filter((one) => one !== '--watch');
    await execa(bin('vitest'), ['watch', ...files], { stdio: 'inherit', reject: false });
    return end(0);
  }
  /** @param {Check} one @param {'inherit' | 'pipe'} stdio */
  const run = async ([name, program, given], stdio = 'inherit') => {
    const began = Date.now();
    say(`— ${name}`);
    const { exitCode, all } = await execa(program, given, {
      stdio,
      all: stdio === 'pipe',
      reject: false,
      env,
    });
    if (all) say(all);
    if (exitCode !== 0) throw new Refusal(`${name} failed.`);
    say(`  ${name} passed in ${Math.round((Date.now() - began) / 1000)} s`);
  };
  const checks = wanted(args);
  const two = pLimit(2);
  await Promise.all(checks.filter((one) => READING.includes(one)).map((one) => two(() => run(one))));
  const others = checks.filter((one) => !READING.includes(one) && one !== BESIDE);
  const inOrder = async () => {
    for (const one of others) await run(one);
  };
  // Both are waited for, whatever comes of one: what a check began, it ends.
  const ended = await Promise.allSettled([
    ...(checks.includes(BESIDE) ? [run(BESIDE, others.length > 0 ? 'pipe' : 'inherit')] : []),
    inOrder(),
  ]);
  const failed = ended.find((one) => one.status === 'rejected');
  if (failed) throw failed.reason;
  if (args.length === 0) say('All checks passed.');
  return end(0);
});
