// ./laager reset: removes this checkout's demo data.
import { rmSync } from 'node:fs';
import { command, HOME, say, takeLock } from './lib.mjs';

await command(async (_processes, end) => {
  const release = takeLock();
  rmSync(HOME, { recursive: true, force: true });
  release();
  say('The demo data is gone. "./laager demo" starts over.');
  await end(0);
});
