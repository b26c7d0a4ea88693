import { execFile } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { checkDisk, checkNode, freePort, identityOf, needPrograms } from '../../scripts/lib.mjs';
import { LAYOUT } from '../../scripts/parts.mjs';
import { own } from './setup/ports';

interface Ended {
  readonly code: number;
  readonly stderr: string;
}

/** What someone sees who starts a command where it cannot work: one clear line, exit not 0, nothing half-started. */
describe('commands that cannot work', () => {
  let folder: string;
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'laager-command-'));
  });
  afterEach(() => rmSync(folder, { recursive: true, force: true }));

  const run = (
    file: string,
    args: readonly string[],
    cwd: string,
    env: Record<string, string> = {},
  ): Promise<Ended> =>
    new Promise((done) => {
      execFile(
        file,
        [...args],
        { cwd, env: { ...process.env, ...env }, timeout: 30_000 },
        (error, _stdout, stderr) =>
          done({ code: typeof error?.code === 'number' ? error.code : error ? -1 : 0, stderr }),
      );
    });
  const demo = (): Promise<Ended> => run('node', [resolve('scripts/demo.mjs')], folder);
  const oneLine = (text: string): boolean => text.trim().split('\n').length === 1;

  it('says that the data folder is damaged, and touches nothing in it', async () => {
    mkdirSync(join(folder, '.laager/data'), { recursive: true });
    writeFileSync(join(folder, '.laager/demo.json'), JSON.stringify({ token: 'x', layout: LAYOUT }));
    writeFileSync(join(folder, '.laager/data/ibdata1'), 'not a tablespace');
    const { code, stderr } = await demo();
    expect(code).toBe(1);
    expect(stderr).toContain('The data folder .laager/data is damaged. "./laager reset" starts over.');
    expect(oneLine(stderr)).toBe(true);
    expect(readdirSync(join(folder, '.laager/data'))).toEqual(['ibdata1']);
  });

  it('says that it runs already', async () => {
    mkdirSync(join(folder, '.laager'), { recursive: true });
    writeFileSync(join(folder, '.laager/running.pid'), JSON.stringify(identityOf(process.pid)));
    const { code, stderr } = await demo();
    expect(code).toBe(1);
    expect(stderr).toContain(`Laager is running here already (process ${process.pid}).`);
    expect(oneLine(stderr)).toBe(true);
  });

  it('says which settings a start lacks', async () => {
    const { code, stderr } = await run('node', [resolve('scripts/start.mjs')], folder, {
      LAAGER_DB_HOST: 'x',
      LAAGER_DB_USER: '',
      LAAGER_DB_NAME: '',
      LAAGER_SECRET_KEY: '',
    });
    expect(code).toBe(1);
    expect(stderr).toBe(
      'Set LAAGER_DB_USER, LAAGER_DB_NAME, LAAGER_SECRET_KEY; docs/operations.md tells what they are.\n',
    );
  });

  it('knows its commands', async () => {
    const { code, stderr } = await run('./laager', ['fly'], process.cwd());
    expect(code).toBe(2);
    expect(stderr).toContain('There is no command "fly"');
  });

  it('refuses an old Node, a full disk, and missing programs without root', () => {
    expect(() => checkNode('18.20.0')).toThrow('Node 18.20.0 is too old: install Node 20.19 or newer.');
    expect(() => checkNode('20.19.0')).not.toThrow();
    expect(() => checkDisk('.', 1e9)).toThrow(/^The disk is full: \d+ MB are free/);
    expect(() => needPrograms({ 'no-such-program': 'some-package' }, false)).toThrow(
      'Missing: some-package. Run: sudo apt-get install -y some-package',
    );
  });

  it('takes no port that a browser refuses to connect to', async () => {
    await expect(fetch('http://127.0.0.1:5061/')).rejects.toMatchObject({
      cause: expect.objectContaining({ message: 'bad port' }) as Error,
    });
    expect(await freePort(5060)).toBeGreaterThan(5061);
    expect(await freePort(6665)).toBeGreaterThan(6669);
  });

  it.each(['abc', '-1', '0', '65535', '4700.5', ' '])('says of PORT=%j that it is none', async (PORT) => {
    const { code, stderr } = await run('node', [resolve('scripts/demo.mjs')], folder, { PORT });
    expect(code).toBe(1);
    expect(stderr).toBe(`PORT has to be a port from 1 to 64600, and is ${PORT}.\n`);
  });

  it('takes the next port when one is taken', async () => {
    const port = await freePort(own(5800));
    const server = createServer();
    await new Promise<void>((listening) => server.listen(port, '127.0.0.1', listening));
    expect(await freePort(port)).toBeGreaterThan(port);
    await new Promise((closed) => server.close(closed));
  });
});
