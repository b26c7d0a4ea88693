import { execaSync } from 'execa';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { gunzipSync, gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { migrate, openDatabase } from '../../src/server/db';
import { makeToken, scopeOfMail } from '../../src/server/sign-in';
import {
  begin,
  holdFor,
  openEmptyWorld,
  openWorld,
  provisionFor,
  settingsFor,
  type Called,
  type CallOptions,
  type EmptyWorld,
} from './setup/world';

/** A database as it was on 1 December 2026, after migration 011: every change since is done to it with each test run. */
const DUMP = 'tests/server/setup/kept.sql.gz';

const client = (): string[] => {
  const { host, port, user } = settingsFor('');
  return ['--no-defaults', `--host=${host}`, `--port=${port}`, `--user=${user}`];
};

/** Makes the dump: `LAAGER_KEEP_DUMP=1 ./laager test tests/server/kept-dump.test.ts`. It is made once, and kept. */
async function keepDump(): Promise<void> {
  const world = await openWorld('kept');
  await begin(world, 'MSP', 'provide-services', { site: 'KQ' }, { who: 'bram' });
  await world.living.untilQuiet();
  await provisionFor(world, 'SVG', 'clinic', 8, 'KQ');
  await provisionFor(world, 'FPS', 'studio', 6, 'KQ');
  await begin(
    world,
    'MSP',
    'stock-shelf',
    { site: 'KQ', image: 'Ostrel 12 multi-user', size: 's2x8', diskGiB: 128, hosts: 1, most: null },
    { who: 'bram' },
  );
  await begin(world, 'SVG', 'new-image', {
    code: 'vets',
    name: 'Vets',
    says: '',
    site: 'KQ',
    from: 'Ostrel 12 multi-user',
    recipe: 'steps:\n  - install: Tallybrook 4.2\n',
    keep: 1,
    size: 's4x16',
    diskGiB: 96,
    licences: [],
  });
  await world.living.untilQuiet();
  await world.living.job('sessions');
  const { entries } = (await world.call('ida', 'GET', '/customers/SVG/environments')).body;
  const clinic = (entries as readonly { id: string; name: string }[]).find(({ name }) => name === 'clinic');
  // Open, and never gone on with: its run waits for a worker.
  await begin(world, 'SVG', 'add-hosts', { pool: 'desks', hosts: 1 }, { environment: clinic?.id ?? '' });
  const far = (await world.call('ida', 'GET', '/customers/FPS/environments')).body.entries;
  await holdFor(world, 'FPS', 'add-hosts', { pool: 'desks', hosts: 1 }, (far[0] as { id: string }).id);
  await world.call('ida', 'PUT', '/templates/half-done/draft', {
    body: { text: 'name: Half\npools: [', owner: '', before: 0 },
  });
  await world.call('ida', 'PUT', '/saved-views', {
    body: { page: 'customers', name: 'mine', query: 'plan=jetty' },
  });
  const { stdout } = execaSync(
    'mariadb-dump',
    [...client(), '--hex-blob', '--skip-comments', '--skip-dump-date', 'kept'],
    {
      maxBuffer: 200_000_000,
    },
  );
  writeFileSync(DUMP, gzipSync(stdout, { level: 9 }));
  await world.close();
}

/** Reads of its stored documents what people read: whatever has been done to the schema since. */
describe('a database of an earlier version', { timeout: 180_000 }, () => {
  let world: EmptyWorld;
  let token = '';

  beforeAll(async () => {
    if (process.env.LAAGER_KEEP_DUMP === '1' && !existsSync(DUMP)) await keepDump();
    const settings = settingsFor('keptagain');
    const admin = openDatabase({ ...settings, database: 'mysql' });
    await admin.write('CREATE DATABASE keptagain CHARACTER SET utf8mb4');
    await admin.close();
    execaSync('mariadb', [...client(), 'keptagain'], { input: gunzipSync(readFileSync(DUMP)) });
    // Two processes of the new version begin at once.
    const done = await Promise.all([migrate(settings), migrate(settings)]);
    expect(done.filter((names) => names.length > 0).length).toBeLessThanOrEqual(1);
    world = await openEmptyWorld('keptagain');
    const url = world.simulations;
    await world.app.db.write("UPDATE provider SET url = IF(code = 'coast', ?, ?)", [url.coast, url.northern]);
    const lead = await scopeOfMail(world.app.db, 'bram@terntallow.example');
    if (!lead) throw new Error('the lead is missing');
    token = (await makeToken(world.app, lead, { name: 'again', days: 1 })).token;
  }, 180_000);
  afterAll(() => world.close());

  const call = (method: string, path: string, options: CallOptions = {}): Promise<Called> =>
    world.callWith(token, method, path, options);
  const listed = async <Entry>(path: string): Promise<readonly Entry[]> => {
    const { status, body } = await call('GET', path);
    expect([path, status]).toEqual([path, 200]);
    return body.entries as readonly Entry[];
  };

  it('has its environments of every kind, with their hosts', async () => {
    for (const code of ['SVG', 'FPS', 'MSP'])
      for (const { id } of await listed<{ id: string }>(`/customers/${code}/environments`)) {
        const path = `/customers/${code}/environments/${id}`;
        expect([path, (await call('GET', path)).status]).toEqual([path, 200]);
        expect([path, (await call('GET', `${path}/hosts`)).status]).toEqual([path, 200]);
        expect([path, (await call('GET', `${path}/differences`)).status]).toEqual([path, 200]);
      }
    const kinds = await world.app.db.rows<{ holds: string }>('SELECT DISTINCT holds FROM environment');
    expect(kinds.map(({ holds }) => holds).sort()).toEqual(['desktops', 'image', 'services', 'shelf']);
  });

  it('has its open run, which can be read and stopped', async () => {
    const runs = await listed<{ id: string; kind: string; state: string }>('/customers/SVG/runs');
    const open = runs.find(({ state }) => state !== 'done');
    expect(open?.kind).toBe('add-hosts');
    expect((await call('GET', `/customers/SVG/runs/${open?.id ?? ''}`)).status).toBe(200);
    expect((await call('POST', `/customers/SVG/runs/${open?.id ?? ''}/stop`)).status).toBe(200);
  });

  it('has its held proposal, which is read and can be given back', async () => {
    const { body } = await call('GET', '/customers/FPS/holds');
    const [hold] = body.holds as readonly { id: string }[];
    const path = `/customers/FPS/holds/${hold?.id ?? ''}`;
    expect((await call('GET', path)).status).toBe(200);
    expect((await call('DELETE', path)).status).toBe(204);
  });

  it('has its templates, drafts and saved views', async () => {
    expect((await call('GET', '/templates/shared-office')).status).toBe(200);
    const half = await call('GET', '/templates/half-done');
    expect([half.status, (half.body.draft as { text: string }).text]).toEqual([200, 'name: Half\npools: [']);
    expect(await world.app.db.rows('SELECT name, query FROM saved_view')).toEqual([
      { name: 'mine', query: 'plan=jetty' },
    ]);
  });

  it('has its costs and Watch, which can be read', async () => {
    for (const code of ['SVG', 'FPS'])
      expect([code, (await call('GET', `/customers/${code}/costs`)).status]).toEqual([code, 200]);
    expect((await call('GET', '/watch')).status).toBe(200);
  });
});
