// ./laager chaos [MINUTES]: people at work while everything fails around them, on databases of its own, on loopback.
import { execa } from 'execa';
import { command, Refusal } from './lib.mjs';

const minutes = Number(process.argv[2] ?? 20);

await command(async (_processes, end) => {
  if (!(minutes > 0 && minutes <= 120))
    throw new Refusal('Say for how many minutes: up to 120, 20 unless said.');
  const { exitCode } = await execa('node_modules/.bin/vitest', ['run', '--project', 'chaos'], {
    stdio: 'inherit',
    reject: false,
    env: { LAAGER_CHAOS_MINUTES: String(minutes) },
  });
  await end(exitCode ?? 1);
});
