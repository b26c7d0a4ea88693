import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { newId } from '../../src/server/db';
import { openWorld, provisionFor, type Made, type World } from './setup/world';

interface Key {
  readonly name: string;
  readonly table: string;
  readonly columns: readonly string[];
}
interface Reference extends Key {
  readonly toTable: string;
  readonly toColumns: readonly string[];
}

/** Columns in indexes whose values are our own words: they are never anybody's name. */
const OUR_WORDS = ['job.name', 'ground_change.noted_by'];

/** What the database itself keeps apart, read off the database: it holds for every table there is and will be. */
describe('tenants in the database', () => {
  let world: World;
  let owned: string[] = [];
  let keys: Key[] = [];
  let references: Reference[] = [];
  let svg: Made;
  let mhp: Made;

  beforeAll(async () => {
    world = await openWorld('integrity');
    svg = await provisionFor(world, 'SVG', 'office', 8, 'KQ');
    mhp = await provisionFor(world, 'MHP', 'office', 8, 'KQ');
    await world.living.moveTo(Date.UTC(2026, 10, 19, 10));
    await world.living.job('sessions');
    const { db } = world.app;
    owned = (
      await db.rows<{ name: string }>(
        "SELECT TABLE_NAME AS name FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE() AND COLUMN_NAME = 'customer_id' ORDER BY 1",
      )
    ).map((row) => row.name);
    keys = grouped(
      await db.rows<Column>(
        `SELECT INDEX_NAME AS name, TABLE_NAME AS \`table\`, COLUMN_NAME AS \`column\` FROM information_schema.STATISTICS
         WHERE TABLE_SCHEMA = DATABASE() AND NON_UNIQUE = 0 ORDER BY TABLE_NAME, INDEX_NAME, SEQ_IN_INDEX`,
      ),
    );
    references = (
      await db.rows<Column & { toTable: string; toColumn: string }>(
        `SELECT CONSTRAINT_NAME AS name, TABLE_NAME AS \`table\`, COLUMN_NAME AS \`column\`,
           REFERENCED_TABLE_NAME AS toTable, REFERENCED_COLUMN_NAME AS toColumn
         FROM information_schema.KEY_COLUMN_USAGE WHERE TABLE_SCHEMA = DATABASE() AND REFERENCED_TABLE_NAME IS NOT NULL
         ORDER BY TABLE_NAME, CONSTRAINT_NAME, ORDINAL_POSITION`,
      )
    ).reduce<Reference[]>((all, row) => {
      const last = all.at(-1);
      if (last?.name === row.name && last.table === row.table)
        all[all.length - 1] = {
          ...last,
          columns: [...last.columns, row.column],
          toColumns: [...last.toColumns, row.toColumn],
        };
      else
        all.push({
          name: row.name,
          table: row.table,
          columns: [row.column],
          toTable: row.toTable,
          toColumns: [row.toColumn],
        });
      return all;
    }, []);
  });
  afterAll(() => world.close());

  interface Column {
    readonly name: string;
    readonly table: string;
    readonly column: string;
  }
  const grouped = (rows: readonly Column[]): Key[] =>
    rows.reduce<Key[]>((all, row) => {
      const last = all.at(-1);
      if (last?.name === row.name && last.table === row.table)
        all[all.length - 1] = { ...last, columns: [...last.columns, row.column] };
      else all.push({ name: row.name, table: row.table, columns: [row.column] });
      return all;
    }, []);

  /** Hints only, kept for half an hour; and who reaches whom, which is the operator's own. */
  const LOOSE = ['live_event', 'operator_customer'];

  it('every table that a customer owns has a key that begins with the customer', () => {
    expect(owned.length).toBeGreaterThan(12);
    for (const table of owned.filter((one) => !LOOSE.includes(one))) {
      const own = keys.filter((key) => key.table === table && key.columns[0] === 'customer_id');
      expect([table, own.length > 0]).toEqual([table, true]);
    }
  });

  it('what refers to something owned does so by the customer too, so that no row can point into another’s', () => {
    const ofOwned = references.filter(
      (one) => owned.includes(one.table) && owned.includes(one.toTable) && !LOOSE.includes(one.table),
    );
    expect(ofOwned.length).toBeGreaterThan(8);
    for (const one of ofOwned) {
      // What joins the MSP's names the MSP by the database's own CHECK: `networks.test.ts` tries to get past it.
      // A template is the customer's own or the MSP's, which is CHECKed too.
      // A part of a run over several belongs to its own customer, and the run to the MSP.
      const checked = ['joins_customer_id', 'template_owner', 'owner_id'];
      const owner = checked.find((column) => column === one.columns[0]) ?? 'customer_id';
      expect([one.table, one.name, one.columns[0]]).toEqual([one.table, one.name, owner]);
      expect(one.toColumns[0]).toBe('customer_id');
    }
  });

  it('a column that names an owned thing is a reference, or is told why not', () => {
    // What a run is about may be any kind of thing; a trail outlives what it tells of; who acts may be Laager itself.
    const told = [
      'run.subject_id',
      'trail.run_id',
      'trail.actor_id',
      'run.actor_id',
      'parent_run.actor_id',
      'desk_link.ask_id',
      'held_proposal.actor_id',
      'live_event.subject_id',
    ];
    const tables = ['environment', 'resource', 'run', 'step'];
    const named = [
      ...new Set(references.flatMap((one) => one.columns.map((column) => `${one.table}.${column}`))),
    ];
    return world.app.db
      .rows<{ name: string }>(
        `SELECT CONCAT(TABLE_NAME, '.', COLUMN_NAME) AS name FROM information_schema.COLUMNS
         WHERE TABLE_SCHEMA = DATABASE() AND COLUMN_NAME RLIKE '^(${tables.join('|')}|wanted|needs|subject|actor)_id$'`,
      )
      .then((columns) => {
        expect(columns.length).toBeGreaterThan(8);
        for (const { name } of columns)
          expect([name, named.includes(name) || told.includes(name)]).toEqual([name, true]);
      });
  });

  const refused = (sql: string, values: readonly (string | number)[]): Promise<number> =>
    world.app.db.write(sql, values).then(
      () => 0,
      (error: { errno?: number }) => error.errno ?? -1,
    );
  /** Cannot add or update a child row: a foreign key constraint fails. */
  const NO_PARENT = 1452;

  it.each([
    { table: 'intent', column: 'environment_id', parent: 'environment' },
    { table: 'resource', column: 'environment_id', parent: 'environment' },
    { table: 'allocation', column: 'resource_id', parent: 'resource' },
    { table: 'run', column: 'environment_id', parent: 'environment' },
    { table: 'step', column: 'run_id', parent: 'run' },
    { table: 'step', column: 'resource_id', parent: 'resource' },
    { table: 'meter_interval', column: 'environment_id', parent: 'environment' },
    { table: 'present_resource', column: 'environment_id', parent: 'environment' },
    { table: 'present_resource', column: 'resource_id', parent: 'resource' },
  ])(
    '$table cannot be moved by $column into another customer’s $parent',
    async ({ table, column, parent }) => {
      const [ours, theirs] = await Promise.all(
        ['SVG', 'MHP'].map(async (code) => (await world.inside(code)).customer.id),
      );
      const foreign = await world.app.db.row<{ id: string }>(
        `SELECT id FROM ${parent} WHERE customer_id = ? LIMIT 1`,
        [theirs ?? ''],
      );
      expect(foreign).toBeDefined();
      expect(
        await refused(`UPDATE ${table} SET ${column} = ? WHERE customer_id = ? LIMIT 1`, [
          foreign?.id ?? '',
          ours ?? '',
        ]),
      ).toBe(NO_PARENT);
    },
  );

  it('a name, an account and an address block are held once', async () => {
    const { id } = (await world.inside('SVG')).customer;
    const taken = await world.app.db.row<{ space: string; value: string; resource_id: string }>(
      "SELECT space, value, resource_id FROM allocation WHERE customer_id = ? AND space LIKE 'name%' LIMIT 1",
      [id],
    );
    const twice = 1062;
    expect(
      await refused('INSERT INTO allocation (space, value, customer_id, resource_id) VALUES (?, ?, ?, ?)', [
        taken?.space ?? '',
        taken?.value ?? '',
        id,
        taken?.resource_id ?? '',
      ]),
    ).toBe(twice);
    expect(
      await refused(
        `INSERT INTO resource (customer_id, id, environment_id, holder, site_code, kind, resource_key, name, attributes,
           needs, wanted, created_at)
         SELECT customer_id, ?, environment_id, holder, site_code, kind, resource_key, name, attributes, needs, wanted,
           created_at FROM resource WHERE id = ?`,
        [newId(), taken?.resource_id ?? ''],
      ),
    ).toBe(twice);
    const person = await world.app.db.row<{ account: string }>(
      'SELECT account FROM person WHERE customer_id = ? LIMIT 1',
      [id],
    );
    expect(
      await refused(
        "INSERT INTO person (customer_id, id, account, given, family, mail, find_text) VALUES (?, ?, ?, 'x', 'x', 'x', 'x')",
        [id, newId(), person?.account ?? ''],
      ),
    ).toBe(twice);
    // In capitals it would be another one: it is not taken at all.
    expect(
      await refused(
        "INSERT INTO person (customer_id, id, account, given, family, mail, find_text) VALUES (?, ?, UPPER(?), 'x', 'x', 'x', 'x')",
        [id, newId(), person?.account ?? ''],
      ),
    ).toBe(4025);
    expect(
      await refused(
        `INSERT INTO environment (customer_id, id, name, site_code, template_code, revision, wanted, people, created_at)
         SELECT customer_id, ?, name, site_code, template_code, revision, wanted, people, created_at
         FROM environment WHERE id = ?`,
        [newId(), svg.environment],
      ),
    ).toBe(twice);
  });

  it('the same names serve two customers side by side', async () => {
    const rows = await world.app.db.rows<{ name: string }>(
      "SELECT name FROM environment WHERE name = 'office' AND retired_at IS NULL",
    );
    expect(rows).toHaveLength(2);
    expect(svg.environment).not.toBe(mhp.environment);
  });

  it('money and instants are whole numbers, never floating', async () => {
    const floating = await world.app.db.rows<{ name: string }>(
      `SELECT CONCAT(TABLE_NAME, '.', COLUMN_NAME) AS name FROM information_schema.COLUMNS
       WHERE TABLE_SCHEMA = DATABASE() AND DATA_TYPE IN ('float', 'double')`,
    );
    expect(floating).toEqual([]);
  });

  it('are compared byte by byte wherever something is found or joined by a name', async () => {
    const tolerant = await world.app.db.rows<{ name: string; collation: string }>(
      `SELECT DISTINCT CONCAT(c.TABLE_NAME, '.', c.COLUMN_NAME) AS name, c.COLLATION_NAME AS collation
       FROM information_schema.STATISTICS s JOIN information_schema.COLUMNS c
         USING (TABLE_SCHEMA, TABLE_NAME, COLUMN_NAME)
       WHERE c.TABLE_SCHEMA = DATABASE() AND c.COLLATION_NAME NOT LIKE '%bin' AND c.DATA_TYPE <> 'enum'
         AND c.TABLE_NAME NOT IN ('sign_in_tries', 'migration')`,
    );
    expect(tolerant.map(({ name }) => name).filter((name) => !OUR_WORDS.includes(name))).toEqual([]);
    const known = await world.app.db.rows<{ name: string; collation: string }>(
      `SELECT CONCAT(TABLE_NAME, '.', COLUMN_NAME) AS name, COLLATION_NAME AS collation FROM information_schema.COLUMNS
       WHERE TABLE_SCHEMA = DATABASE() AND (COLUMN_NAME IN ('account', 'mail', 'former', 'held_account')
         AND TABLE_NAME <> 'provider')`,
    );
    expect(known.length).toBeGreaterThan(8);
    // Blanks at the end count too.
    expect(new Set(known.map(({ collation }) => collation))).toEqual(new Set(['utf8mb4_nopad_bin']));
  });
});
