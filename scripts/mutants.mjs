// ./laager mutants: deliberate errors in the core, one after the other. Says what part of them a test sees, and which are
// seen by none and have no reason in docs/mutants.md. It takes an hour or two, and is no part of ./laager test.
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import { execa } from 'execa';
import { command, Refusal, say } from './lib.mjs';

const REPORT = '.laager/mutants/mutants.json';
const REASONS = 'docs/mutants.md';
const WANTED = 92;

await command(async (_processes, end) => {
  mkdirSync('.laager/mutants', { recursive: true });
  const files = process.argv.slice(2);
  const { exitCode } = await execa(
    'node_modules/.bin/stryker',
    ['run', ...(files.length > 0 ? ['--mutate', files.join(',')] : [])],
    { stdio: 'inherit', reject: false, env: { npm_config_loglevel: 'silent' } },
  );
  // 1 is also what it ends with when the score is too low: that is said here.
  if (!existsSync(REPORT)) throw new Refusal(`The mutants could not be tried (${exitCode}).`);
  const mutants = mutantsOf(JSON.parse(readFileSync(REPORT, 'utf8')));
  for (const [area, all] of byArea(mutants))
    say(`  ${area.padEnd(16)} ${score(all).padStart(7)} of ${all.length}`);
  say(
    `  ${'all'.padEnd(16)} ${score(mutants).padStart(7)} of ${mutants.length} (wanted at least ${WANTED} %)`,
  );
  const reasons = reasonsIn(readFileSync(REASONS, 'utf8'));
  const open = mutants.filter((one) => !one.seen && !reasons.has(one.name));
  for (const { name } of open) say(`  no reason: ${name}`);
  if (Number.parseFloat(score(mutants)) < WANTED || open.length > 0)
    throw new Refusal(`${open.length} that no test sees have no reason in ${REASONS}.`);
  await end(0);
});

/** The errors that have a reason: each item of a list names its file first, then `what was → what it became` of each. */
function reasonsIn(text) {
  const items = text.split(/^- /m).slice(1);
  return new Set(
    items.flatMap((item) => {
      const [path, ...errors] = [...item.matchAll(/`([^`]+)`/g)].map(([, quoted]) =>
        quoted.replace(/\s+/g, ' '),
      );
      return errors.filter((one) => one.includes(' → ')).map((one) => `${path}: ${one}`);
    }),
  );
}

/** Every error that was tried, with its name as docs/mutants.md has it, and whether a test saw it. */
function mutantsOf({ files }) {
  return Object.entries(files).flatMap(([path, { source, mutants }]) => {
    const lines = source.split('\n');
    return mutants
      .filter(({ status }) => ['Killed', 'Timeout', 'Survived', 'NoCoverage'].includes(status))
      .map(({ status, location, replacement }) => ({
        area: path.split('/')[2] ?? path,
        seen: status === 'Killed' || status === 'Timeout',
        name: `${path.replace('src/core/', '')}: ${short(textAt(lines, location))} → ${short(replacement ?? '')}`,
      }));
  });
}

function textAt(lines, { start, end }) {
  const within = lines.slice(start.line - 1, end.line);
  if (within.length === 1) return within[0].slice(start.column - 1, end.column - 1);
  return [
    within[0].slice(start.column - 1),
    ...within.slice(1, -1),
    within.at(-1).slice(0, end.column - 1),
  ].join(' ');
}

/** On one line, and short enough for a list. */
function short(text) {
  const line = text.replace(/\s+/g, ' ').replaceAll('`', "'").trim();
  return line.length > 90 ? `${line.slice(0, 88)} …` : line;
}

function byArea(mutants) {
  const areas = new Map();
  for (const one of mutants) areas.set(one.area, [...(areas.get(one.area) ?? []), one]);
  return [...areas].sort();
}

function score(mutants) {
  return `${((100 * mutants.filter((one) => one.seen).length) / Math.max(1, mutants.length)).toFixed(1)} %`;
}
