import { cp, mkdtemp, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { migrate, openDatabase, type Database } from '../../src/server/db';
import { settingsFor } from './setup/world';

const FOLDER = 'src/server/db/migrations';
const id = (text: string): string => text.padEnd(26, '0').toUpperCase();

/** A database as it was before a migration, with rows of that time, and then brought to the newest. */
describe('desktops of before they were known by their person', () => {
  let db: Database;
  const pool = (role: string, hosts: object[]): object => ({ role, ownDiskGiB: 0, hosts });
  const host = (slot: number, more: object = {}): object => ({ slot, power: 'on', accepting: true, ...more });
  const documents = [
    { pools: [pool('draw', [host(1, { person: 'ren' })])] },
    {
      pools: [
        pool('desks', [host(1), host(2)]),
        pool('draw', [
          host(1, { person: 'kim' }),
          host(2, { person: 'ola', leftAt: 5_000 }),
          host(4),
          host(5, { person: 'ren' }),
          host(7, { person: 'gus' }),
        ]),
      ],
    },
  ];

  beforeAll(async () => {
    const before = await mkdtemp(join(tmpdir(), 'migrations-'));
    for (const name of await readdir(FOLDER))
      if (name < '010') await cp(join(FOLDER, name), join(before, name));
    await migrate(settingsFor('upgrade'), { folder: before });
    await rm(before, { recursive: true });
    db = openDatabase({ ...settingsFor('upgrade'), connections: 1 });
    await db.write('SET FOREIGN_KEY_CHECKS = 0');
    const person = (name: string, account: string, leftAt: number | null): Promise<number> =>
      db.write(
        `INSERT INTO person (customer_id, id, account, given, family, mail, find_text, left_at) VALUES (?, ?, ?, '', '', '', '', ?)`,
        [id('svg'), id(name), account, leftAt],
      );
    await person('ren', 'ren', null);
    // Whether the desktop is hers or still that of who had the account before, nobody can tell.
    await person('kim', 'kim', null);
    await person('kim of old', 'kim', 900);
    // Two who had the account one after the other; a third has it now.
    await person('ola first', 'ola', 1_000);
    await person('ola second', 'ola', 4_990);
    await person('ola now', 'ola', null);
    await db.write(
      `INSERT INTO environment (customer_id, id, name, site_code, template_code, revision, people, version, created_at)
       VALUES (?, ?, 'studio', 'KQ', 'draw', 1, 3, 2, 0)`,
      [id('svg'), id('studio')],
    );
    for (const [n, document] of documents.entries())
      await db.write('INSERT INTO intent VALUES (?, ?, ?, ?, 0)', [
        id('svg'),
        id('studio'),
        n + 1,
        JSON.stringify(document),
      ]);
    for (const [slot, account] of [
      [1, 'kim'],
      [2, 'ola'],
      [4, ''],
      [5, 'ren'],
      [7, 'gus'],
    ] as const)
      await db.write(
        `INSERT INTO resource (customer_id, id, environment_id, site_code, resource_key, kind, name, attributes, needs, wanted, created_at)
         VALUES (?, ?, ?, 'KQ', ?, 'host', '', ?, '[]', TRUE, 0)`,
        [id('svg'), id(`r${slot}`), id('studio'), `host:draw:${slot}`, JSON.stringify({ person: account })],
      );
    for (const account of ['kim', 'ren'])
      await db.write(
        `INSERT INTO resource (customer_id, id, environment_id, site_code, resource_key, kind, name, attributes, needs, wanted, created_at)
         VALUES (?, ?, ?, 'KQ', ?, 'personal-disk', '', ?, '[]', TRUE, 0)`,
        [
          id('svg'),
          id(`d${account}`),
          id('studio'),
          `personal-disk:${account}`,
          JSON.stringify({ person: account }),
        ],
      );
    await migrate(settingsFor('upgrade'));
  });
  afterAll(() => db.close());

  it('say whose they are, in every version; one that is kept is that of who left then', async () => {
    const rows = await db.rows<{ document: string }>('SELECT document FROM intent ORDER BY version');
    const owners = rows.map(({ document }) =>
      (JSON.parse(document) as { pools: { hosts: { slot: number; personId?: string }[] }[] }).pools.flatMap(
        ({ hosts }) => hosts.map(({ slot, personId }) => `${slot} ${personId ?? '-'}`),
      ),
    );
    expect(owners).toEqual([
      [`1 ${id('ren')}`],
      ['1 -', '2 -', '1 -', `2 ${id('ola second')}`, '4 -', `5 ${id('ren')}`, '7 -'],
    ]);
  });

  it('let in whose they are, and nobody while they are kept or where it cannot be told', async () => {
    const rows = await db.rows<{ resource_key: string; attributes: string }>(
      'SELECT resource_key, attributes FROM resource ORDER BY resource_key',
    );
    expect(rows.map(({ attributes }) => JSON.parse(attributes) as object)).toEqual([
      { person: 'kim' },
      { person: 'ola', personId: id('ola second'), kept: true },
      { person: '' },
      { person: 'ren', personId: id('ren') },
      { person: 'gus' },
      { person: 'kim' },
      { person: 'ren', personId: id('ren') },
    ]);
  });

  it('and an account that was somebody else’s counts from when they left', async () => {
    const rows = await db.rows<{ id: string; account_since: number }>(
      'SELECT id, account_since FROM person WHERE left_at IS NULL ORDER BY id',
    );
    expect(rows).toEqual([
      { id: id('kim'), account_since: 900 },
      { id: id('ola now'), account_since: 4_990 },
      { id: id('ren'), account_since: 0 },
    ]);
  });
});

describe('hosts of before there were overrides', () => {
  let db: Database;
  const attributes = (more: object): string =>
    JSON.stringify({ power: 'on', accepting: true, size: 's', ...more });
  /** Each host as it was wanted, and whose; the paused customer's pause had switched `asleep` off. */
  const HOSTS: readonly (readonly [name: string, customer: string, attributes: string])[] = [
    ['plain', 'svg', attributes({})],
    ['off', 'svg', attributes({ power: 'off' })],
    ['drained', 'svg', attributes({ accepting: false })],
    [
      'care',
      'svg',
      attributes({ power: 'off', accepting: false, picture: 3, restarts: 2, anew: 1, returns: 1 }),
    ],
    ['given up', 'svg', attributes({ picture: 0 })],
    ['kept', 'svg', attributes({ power: 'off', kept: true, person: 'kim' })],
    ['asleep', 'apt', attributes({ power: 'off' })],
    ['off before', 'apt', attributes({ power: 'off' })],
  ];

  beforeAll(async () => {
    const before = await mkdtemp(join(tmpdir(), 'migrations-'));
    for (const name of await readdir(FOLDER))
      if (name < '012') await cp(join(FOLDER, name), join(before, name));
    await migrate(settingsFor('overriding'), { folder: before });
    await rm(before, { recursive: true });
    db = openDatabase({ ...settingsFor('overriding'), connections: 1 });
    await db.write("SET FOREIGN_KEY_CHECKS = 0, check_constraint_checks = 0, sql_mode = ''");
    for (const [code, state] of [
      ['svg', 'active'],
      ['apt', 'paused'],
    ] as const)
      await db.write("INSERT INTO customer (id, code, state, kind) VALUES (?, ?, ?, 'customer')", [
        id(code),
        code.toUpperCase(),
        state,
      ]);
    for (const [name, customer, wanted] of HOSTS)
      await db.write(
        `INSERT INTO resource (customer_id, id, environment_id, site_code, resource_key, kind, name, attributes, needs, wanted, created_at)
         VALUES (?, ?, ?, 'KQ', ?, 'host', '', ?, '[]', TRUE, 0)`,
        [id(customer), id(name.replace(' ', '')), id('studio'), `host:${name}`, wanted],
      );
    await db.write('INSERT INTO paused_host VALUES (?, ?)', [id('apt'), id('asleep')]);
    await migrate(settingsFor('overriding'));
  });
  afterAll(() => db.close());

  it('are off and drained by hand from then on, but for what a pause or a leaver had switched off', async () => {
    const rows = await db.rows<{ host: string | null; what: string }>(
      `SELECT r.resource_key AS host, CONCAT(o.cause, ': ', o.attribute, ' ', o.value) AS what FROM host_override o
       LEFT JOIN resource r ON (r.customer_id, r.id) = (o.customer_id, o.resource_id) ORDER BY r.resource_key, o.attribute`,
    );
    expect(rows.map(({ host, what }) => `${host ?? 'all'}: ${what}`)).toEqual([
      'all: customer paused: power off',
      'host:care: by hand: power off',
      'host:care: by hand: accepting false',
      'host:care: by hand: picture true',
      'host:drained: by hand: accepting false',
      'host:off: by hand: power off',
      'host:off before: by hand: power off',
    ]);
  });

  it('are wanted as they were, and count nothing any more', async () => {
    const rows = await db.rows<{ host: string; attributes: string }>(
      'SELECT resource_key AS host, attributes FROM resource',
    );
    const now = new Map(rows.map((row) => [row.host, JSON.parse(row.attributes) as unknown]));
    expect(now.get('host:care')).toEqual({ power: 'off', accepting: false, size: 's', picture: true });
    expect(now.get('host:given up')).toEqual({ power: 'on', accepting: true, size: 's' });
    expect(now.get('host:plain')).toEqual({ power: 'on', accepting: true, size: 's' });
    expect(now.get('host:kept')).toMatchObject({ power: 'off', kept: true, person: 'kim' });
  });
});
