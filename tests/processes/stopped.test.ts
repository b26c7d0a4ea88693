import { execa } from 'execa';
import { resolve } from 'node:path';
import { describe, expect, it } from 'vitest';

/** What a command exits with when it is told to stop while it works. */
describe('a command that is stopped', { timeout: 30_000 }, () => {
  const LIB = resolve('scripts/lib.mjs');

  const stopped = async (
    signal: 'SIGINT' | 'SIGTERM',
    options: string,
    what: 'starting' | 'running' = 'starting',
  ): Promise<number | undefined> => {
    const child = execa(
      'node',
      [
        '--input-type=module',
        '--eval',
        `import { command } from ${JSON.stringify(LIB)};
         await command(async () => {
           console.log('works');
           const going = new Promise((resolve) => setTimeout(resolve, 25_000));
           if (${what === 'starting'}) await going;
         }, ${options});`,
      ],
      { reject: false },
    );
    for await (const line of child) {
      expect(line).toBe('works');
      child.kill(signal);
    }
    return (await child).exitCode;
  };

  it('has not done what it was asked for: nothing that waits for it takes it for passed', async () => {
    expect(await stopped('SIGINT', '{}')).toBe(130);
    expect(await stopped('SIGTERM', '{}')).toBe(143);
  });

  it('has, where it runs until it is stopped', async () => {
    expect(await stopped('SIGINT', '{ stopped: 0 }', 'running')).toBe(0);
    expect(await stopped('SIGTERM', '{ stopped: 0 }', 'running')).toBe(0);
  });

  it('has not, while it still starts', async () => {
    expect(await stopped('SIGINT', '{ stopped: 0 }')).toBe(130);
    expect(await stopped('SIGTERM', '{ stopped: 0 }')).toBe(143);
  });
});
