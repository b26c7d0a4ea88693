// ./laager test: every check, in the order in which they are quick to fail. Ends what it started.
import { spawn } from 'node:child_process';
import { command, Refusal, say } from './lib.mjs';

const bin = (name) => `node_modules/.bin/${name}`;

const CHECKS = [
  ['format', bin('prettier'), ['--check', '--log-level=warn', '.']],
  ['lint', bin('eslint'), ['src', 'tests', 'bench']],
  ['types', bin('astro'), ['check', '--minimumSeverity=error']],
  ['arrows', bin('depcruise'), ['src', '--config', '.dependency-cruiser.cjs', '--output-type', 'err']],
  ['core', bin('vitest'), ['run', '--project', 'core']],
  ['server', bin('vitest'), ['run', '--project', 'server']],
  ['end to end', bin('playwright'), ['test']],
];

await command(async (_processes, end) => {
  const only = process.argv.slice(2);
  for (const [name, program, args] of CHECKS) {
    if (only.length > 0 && !only.includes(name)) continue;
    const began = Date.now();
    say(`— ${name}`);
    const code = await new Promise((resolve) => {
      const child = spawn(program, args, {
        stdio: 'inherit',
        env: {
          ...process.env,
          ASTRO_TELEMETRY_DISABLED: '1',
          CI: process.env.CI ?? '1',
          npm_config_loglevel: 'silent',
        },
      });
      child.once('error', () => resolve(-1));
      child.once('exit', resolve);
    });
    if (code !== 0) throw new Refusal(`${name} failed.`);
    say(`  ${name} passed in ${Math.round((Date.now() - began) / 1000)} s`);
  }
  say('All checks passed.');
  await end(0);
});
