// ./laager reset: removes this checkout's demo data.
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { command, endLeftovers, HOME, refuseIfUsed, say, takeLock } from './lib.mjs';

await command(async (_processes, end) => {
  const release = takeLock();
  await endLeftovers(join(HOME, 'processes.json'));
  for (const data of ['data', 'fleet/data', 'bench', 'tests/demo/data'])
    refuseIfUsed(join(process.cwd(), HOME, data));
  rmSync(HOME, { recursive: true, force: true });
  release();
  say('The demo data is gone. "./laager demo" starts over.');
  await end(0);
});
