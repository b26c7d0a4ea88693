import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  insertMany,
  migrate,
  newId,
  openDatabase,
  transaction,
  withoutValues,
  type Database,
} from '../../src/server/db';
import { freePort } from '../../scripts/lib.mjs';
import { readDatabaseSettings } from '../../src/server/config';
import { own } from './setup/ports';
import { settingsFor } from './setup/world';

describe('the database', () => {
  let db: Database;
  beforeAll(async () => {
    await migrate(settingsFor('plain'));
    db = openDatabase(settingsFor('plain'));
    await db.write('CREATE TABLE thing (id INT PRIMARY KEY, n INT NOT NULL)');
  });
  afterAll(() => db.close());

  it.each([
    ["Duplicate entry 'ida@tern.example-it's' for key 'mail'", "Duplicate entry for key 'mail'"],
    [
      "Incorrect integer value: 'ida' for column `plain`.`thing`.`n` at row 1",
      'Incorrect integer value for column `plain`.`thing`.`n` at row 1',
    ],
    ["Unknown column 'x' in 'field list'", "Unknown column 'x' in 'field list'"],
  ])('says what is wrong without the values of people: %s', (message, said) =>
    expect(withoutValues(message)).toBe(said),
  );

  it('says nothing of a value that it refuses', async () => {
    const refused = (statement: string): Promise<string> =>
      db.write(statement).then(
        () => 'taken',
        (error: unknown) => String((error as Error).stack),
      );
    await db.write('CREATE TABLE someone (mail VARCHAR(60) PRIMARY KEY)');
    await db.write("INSERT INTO someone VALUES ('ida@tern.example')");
    const twice = await refused("INSERT INTO someone VALUES ('ida@tern.example')");
    expect(twice).toContain('Duplicate entry');
    expect(twice).not.toContain('ida@');
    const wrong = await refused("INSERT INTO thing VALUES ('ida@tern.example', 1)");
    expect(wrong).toContain('Incorrect integer value');
    expect(wrong).not.toContain('ida@');
  });

  it('is migrated once, however many processes begin at once', async () => {
    const done = await Promise.all([1, 2, 3].map(() => migrate(settingsFor('together'))));
    expect(done.filter((names) => names.length > 0)).toHaveLength(1);
    expect(done.flat()).toEqual([...done.flat()].sort());
    expect(await migrate(settingsFor('together'))).toEqual([]);
  });

  it('is reached at the next server when one is gone, and only then', async () => {
    const settings = settingsFor('plain');
    const closed = await freePort(own(5890));
    const others = [
      { host: '127.0.0.1', port: closed + 1 },
      { host: settings.host, port: settings.port },
    ];
    expect(await migrate({ ...settings, port: closed, others })).toEqual([]);
    const far = openDatabase({ ...settings, port: closed, others });
    expect(await far.row('SELECT 1 AS one')).toEqual({ one: 1 });
    const written = await transaction(far, (connection) =>
      connection.row<{ port: number }>('SELECT @@port AS port'),
    );
    expect(written).toEqual({ port: settings.port });
    await far.close();
    const nowhere = openDatabase({ ...settings, port: closed, others: others.slice(0, 1) });
    await expect(nowhere.row('SELECT 1')).rejects.toMatchObject({ wasNeverSent: true });
    await nowhere.close();
  });

  it('is named in the environment as one server or several', () => {
    const read = (host: string) => readDatabaseSettings({ LAAGER_DB_HOST: host, LAAGER_DB_PORT: '3307' });
    expect(read('db.example')).toMatchObject({ host: 'db.example', port: 3307, others: [] });
    expect(read('db1:3310, db2 ,[2001:db8::1]:3311')).toMatchObject({
      host: 'db1',
      port: 3310,
      others: [
        { host: 'db2', port: 3307 },
        { host: '2001:db8::1', port: 3311 },
      ],
    });
    for (const host of ['', 'db1,,db2', 'db 1', 'db1:abc'])
      expect(() => read(host)).toThrow(/LAAGER_DB_HOST|no address/);
  });

  it('does a transaction again when it was chosen to end a deadlock', async () => {
    await insertMany(
      db,
      'thing',
      ['id', 'n'],
      [
        [1, 0],
        [2, 0],
      ],
    );
    let tries = 0;
    let meet: (() => void) | undefined;
    const met = new Promise<void>((resolve) => (meet = resolve));
    let waiting = 0;
    const addBoth = (first: number, second: number): Promise<void> =>
      transaction(db, async (connection) => {
        tries++;
        await connection.write('UPDATE thing SET n = n + 1 WHERE id = ?', [first]);
        // Both hold their first row before either asks for the other's.
        if (++waiting === 2) meet?.();
        await met;
        await connection.write('UPDATE thing SET n = n + 1 WHERE id = ?', [second]);
      });
    await Promise.all([addBoth(1, 2), addBoth(2, 1)]);
    expect(tries).toBeGreaterThan(2);
    expect(await db.rows('SELECT id, n FROM thing ORDER BY id')).toEqual([
      { id: 1, n: 2 },
      { id: 2, n: 2 },
    ]);
  });

  it('does a statement by itself again when it was chosen to end a deadlock', async () => {
    const ids = Array.from({ length: 60 }, (_, n) => 1_000 + n);
    await insertMany(
      db,
      'thing',
      ['id', 'n'],
      ids.map((id) => [id, 0]),
    );
    const [low = 0, high = 0] = [ids[0], ids.at(-1)];
    let alone: Promise<number> | undefined;
    await transaction(db, async (connection) => {
      // The heavier of the two is not the one that is chosen.
      await connection.write('UPDATE thing SET n = n + 1 WHERE id >= ? AND id < ?', [low, high]);
      alone ??= db.write('UPDATE thing SET n = n + 10 WHERE id IN (?, ?) ORDER BY id DESC', [low, high]);
      await expect
        .poll(
          async () =>
            (
              await db.row<{ n: number }>(
                `SELECT COUNT(*) AS n FROM information_schema.INNODB_TRX
                 WHERE trx_state = 'LOCK WAIT' AND trx_query LIKE 'UPDATE thing SET n = n + 10%'`,
              )
            )?.n,
          // MariaDB tells this table anew only to who has not asked for a tenth of a second.
          { timeout: 10_000, interval: 200 },
        )
        .toBe(1);
      await connection.write('UPDATE thing SET n = n + 1 WHERE id = ?', [high]);
    });
    expect(await alone).toBe(2);
    expect(await db.rows('SELECT n FROM thing WHERE id IN (?, ?)', [low, high])).toEqual([
      { n: 11 },
      { n: 11 },
    ]);
  });

  it('does again what it could not do because the tables were opened anew meanwhile', async () => {
    // As MariaDB says it where tables are being changed (error 1615): here each connection says it the first time.
    await db.write('CREATE TABLE moved (id INT PRIMARY KEY)');
    await db.pool.query(
      `CREATE TRIGGER moving BEFORE INSERT ON moved FOR EACH ROW
       IF @told IS NULL THEN SET @told = 1;
         SIGNAL SQLSTATE 'HY000' SET MYSQL_ERRNO = 1615, MESSAGE_TEXT = 'Prepared statement needs to be re-prepared';
       END IF`,
    );
    await db.write('INSERT INTO moved (id) VALUES (1)');
    await transaction(db, (connection) => connection.write('INSERT INTO moved (id) VALUES (2)'));
    const other = openDatabase(settingsFor('plain'));
    await transaction(other, (connection) => connection.write('INSERT INTO moved (id) VALUES (3)'));
    await other.close();
    expect(await db.row('SELECT COUNT(*) AS n FROM moved')).toEqual({ n: 3 });
  });

  it('does again what it lost its connection over before anything was kept, and only that', async () => {
    await insertMany(db, 'thing', ['id', 'n'], [[500, 0]]);
    const endedIn = async (endings: number): Promise<number> => {
      let tries = 0;
      await transaction(db, async (connection) => {
        await connection.write('UPDATE thing SET n = n + 1 WHERE id = 500');
        if (++tries <= endings) {
          const mine = await connection.row<{ id: number }>('SELECT CONNECTION_ID() AS id');
          await db.pool.query('KILL CONNECTION ?', [mine?.id]);
        }
        await connection.row('SELECT n FROM thing WHERE id = 500');
      });
      return tries;
    };
    expect(await endedIn(1)).toBe(2);
    expect(await db.row('SELECT n FROM thing WHERE id = 500')).toEqual({ n: 1 });
    await expect(endedIn(99)).rejects.toMatchObject({ isLost: true });
    expect(await db.row('SELECT n FROM thing WHERE id = 500')).toEqual({ n: 1 });
    // A statement that reads is asked again; one that writes by itself may have been kept, and is not.
    const killed = async (work: () => Promise<unknown>): Promise<unknown> => {
      const done = work().then(
        () => 'done',
        () => 'lost',
      );
      const asleep =
        "SELECT id FROM information_schema.PROCESSLIST WHERE info LIKE '%SLEEP(1%' AND info NOT LIKE '%PROCESSLIST%'";
      await expect.poll(async () => (await db.rows(asleep)).length).toBe(1);
      const one = await db.row<{ id: number }>(asleep);
      await db.pool.query('KILL CONNECTION ?', [one?.id]);
      return done;
    };
    expect(await killed(() => db.row('SELECT SLEEP(1.5)'))).toBe('done');
    expect(await killed(() => db.write('UPDATE thing SET n = 7 + SLEEP(1.5) WHERE id = 500'))).toBe('lost');
  });

  it('leaves nothing of a transaction that failed', async () => {
    const failing = transaction(db, async (connection) => {
      await connection.write('INSERT INTO thing (id, n) VALUES (9, 9)');
      throw new Error('no');
    });
    await expect(failing).rejects.toThrow('no');
    expect(await db.row('SELECT id FROM thing WHERE id = 9')).toBeUndefined();
  });

  it('passes over rows that another holds, so that a queue is shared', async () => {
    await db.write('DELETE FROM thing');
    await insertMany(
      db,
      'thing',
      ['id', 'n'],
      [1, 2, 3].map((id) => [id, 0]),
    );
    const take = 'SELECT id FROM thing ORDER BY id LIMIT 1 FOR UPDATE SKIP LOCKED';
    const taken: unknown[] = [];
    await transaction(db, async (first) => {
      taken.push(await first.row(take));
      await transaction(db, async (second) => {
        taken.push(await second.row(take));
      });
    });
    expect(taken).toEqual([{ id: 1 }, { id: 2 }]);
  });

  it('inserts thousands of rows, and none', async () => {
    await db.write('DELETE FROM thing');
    await insertMany(
      db,
      'thing',
      ['id', 'n'],
      Array.from({ length: 1_234 }, (_, id) => [id, id * 2]),
    );
    await insertMany(db, 'thing', ['id', 'n'], []);
    expect(await db.row('SELECT COUNT(*) AS n, SUM(n) AS total FROM thing')).toEqual({
      n: 1_234,
      total: String(1_233 * 1_234),
    });
  });

  it.each([
    ['a value that is too long', "INSERT INTO short VALUES ('four')", true],
    ['a value that is none', 'INSERT INTO short VALUES (NULL)', true],
    ['no such column', 'SELECT nothing FROM short', true],
    ['no such table', 'SELECT 1 FROM nowhere', true],
    ['no statement', 'SELECT FROM', true],
    ['what is there already', "INSERT INTO short VALUES ('one')", false],
    ['what took too long', 'SET STATEMENT max_statement_time = 0.05 FOR SELECT SLEEP(5)', false],
  ])('tells what will never work from what may: %s', async (_says, statement, isOurFault) => {
    await db.write('CREATE TABLE IF NOT EXISTS short (text VARCHAR(3) NOT NULL PRIMARY KEY)');
    await db.write("INSERT IGNORE INTO short VALUES ('one')");
    await expect(db.rows(statement)).rejects.toMatchObject({ isOurFault });
  });

  it('refuses what does not fit instead of cutting it off', async () => {
    await expect(
      db.write('INSERT INTO plan (code, name, most_hosts, most_people, sizes) VALUES (?, ?, 1, 1, ?)', [
        'x'.repeat(40),
        'X',
        '[]',
      ]),
    ).rejects.toThrow();
  });

  it('makes ids that sort by the time of their making', () => {
    const ids = Array.from({ length: 2_000 }, () => newId());
    expect(ids).toEqual([...ids].sort());
    expect(new Set(ids).size).toBe(2_000);
    expect(ids.every((id) => /^[0-9A-Z]{26}$/.test(id))).toBe(true);
  });
});
