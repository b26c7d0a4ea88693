import { createHash } from 'node:crypto';
import {
  appendFileSync,
  cpSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SYSTEM } from '../../src/server/access';
import { apiOf } from '../../src/server/api';
import { closeApp, openAppOn } from '../../src/server/app';
import { wallClock } from '../../src/server/clock';
import { readConfig } from '../../src/server/config';
import { migrate, openDatabase } from '../../src/server/db';
import { createOperator } from '../../src/server/operators';
import { JOBS, ROOMS } from '../../src/server/rooms';
import { layOutJobs } from '../../src/server/worker';
import { settingsFor } from './setup/world';

const FOLDER = 'src/server/db/migrations';
const SUMS = 'tests/server/setup/migrations.sums';

const sumOf = (path: string): string => createHash('sha256').update(readFileSync(path)).digest('hex');

/** A database that has a migration never gets what is written into it later: each change is a file of its own. */
describe('migrations', { timeout: 60_000 }, () => {
  let folder = '';
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'laager-migrations-'));
    cpSync(FOLDER, folder, { recursive: true });
  });
  afterAll(() => rmSync(folder, { recursive: true }));

  it('are unchanged since they were published; a new one gets a line in migrations.sums', () => {
    const known = readFileSync(SUMS, 'utf8').trim().split('\n');
    const now = readdirSync(FOLDER)
      .sort()
      .map((name) => `${sumOf(join(FOLDER, name))}  ${name}`);
    expect(now).toEqual(known);
  });

  it('are listed before they are applied, and applied once', async () => {
    const told: string[] = [];
    const plan = { folder, onPlan: (names: readonly string[]) => void told.push(...names) };
    const done = await migrate(settingsFor('migrations'), plan);
    expect(told).toEqual(readdirSync(FOLDER).sort());
    expect(done).toEqual(told);
    expect(await migrate(settingsFor('migrations'), plan)).toEqual([]);
    expect(told).toEqual(done);
  });

  it('are refused where one was edited after it was applied, before anything is done', async () => {
    const last = readdirSync(folder).sort().at(-1) ?? '';
    const before = readFileSync(join(folder, last));
    appendFileSync(join(folder, last), '\nCREATE TABLE smuggled (id INT);\n');
    await expect(migrate(settingsFor('migrations'), { folder })).rejects.toThrow(
      `Migration ${last} was edited after it was applied here.`,
    );
    const db = openDatabase(settingsFor('migrations'));
    expect(
      await db.row("SELECT 1 FROM information_schema.tables WHERE table_name = 'smuggled'"),
    ).toBeUndefined();
    // As it was when it was applied, it is taken again.
    rmSync(join(folder, last));
    writeFileSync(join(folder, last), before);
    expect(await migrate(settingsFor('migrations'), { folder })).toEqual([]);
    await db.close();
  });

  it('from before checksums were kept are taken as they are', async () => {
    const db = openDatabase(settingsFor('migrations'));
    await db.write('ALTER TABLE migration DROP COLUMN sum');
    expect(await migrate(settingsFor('migrations'), { folder })).toEqual([]);
    const rows = await db.rows<{ sum: string | null }>('SELECT sum FROM migration');
    expect(rows.filter(({ sum }) => sum === null)).toEqual([]);
    await db.close();
  });

  it('wait for another process, and say so when it takes too long', async () => {
    const { createConnection } = await import('mysql2/promise');
    const { host, port, user, password } = settingsFor('migrations');
    const other = await createConnection({ host, port, user, password });
    const name = createHash('sha256').update('migrate migrations').digest('hex').slice(0, 40);
    await other.query('SELECT GET_LOCK(?, 1)', [name]);
    await expect(migrate(settingsFor('migrations'), { folder, lockSeconds: 0 })).rejects.toThrow(
      'Another process is migrating migrations',
    );
    await other.end();
    expect(await migrate(settingsFor('migrations'), { folder, lockSeconds: 5 })).toEqual([]);
  });

  it('run under an account of their own: the rest works without the right to alter tables', async () => {
    const settings = settingsFor('plainaccount');
    await migrate(settings);
    const admin = openDatabase(settings);
    await admin.write("CREATE USER IF NOT EXISTS 'laager_app'@'%' IDENTIFIED BY 'an app password'");
    await admin.write("GRANT SELECT, INSERT, UPDATE, DELETE ON plainaccount.* TO 'laager_app'@'%'");
    const account = { user: 'laager_app', password: 'an app password' };
    const db = openDatabase({ ...settings, ...account });
    await expect(db.write('CREATE TABLE smuggled (id INT)')).rejects.toThrow(/denied/);
    await expect(db.write('ALTER TABLE trail ADD COLUMN x INT')).rejects.toThrow(/denied/);
    const app = openAppOn({
      config: readConfig({
        LAAGER_DB_HOST: settings.host,
        LAAGER_DB_NAME: settings.database,
        LAAGER_SECRET_KEY: 'a key of at least thirty-two characters',
        LAAGER_DIRECTORY_URL: 'http://127.0.0.1:9',
        LAAGER_DIRECTORY_KEY: 'a key of the tests',
        LAAGER_MAIL_URL: 'http://127.0.0.1:9',
      }),
      part: 'test',
      db,
      clock: wallClock,
    });
    const password = 'a password of the tests';
    const lead = {
      name: 'Ida Quist',
      mail: 'ida@terntallow.example',
      role: 'lead',
      customers: null,
      password,
    } as const;
    await createOperator(app, SYSTEM, lead);
    const api = apiOf(app);
    const signedIn = await api.answer(
      new Request('http://laager.test/api/v1/session', {
        method: 'POST',
        headers: { origin: 'http://laager.test', host: 'laager.test', 'content-type': 'application/json' },
        body: JSON.stringify({ mail: 'ida@terntallow.example', password }),
      }),
    );
    expect(signedIn.status).toBe(204);
    await layOutJobs(app, JOBS);
    for (const job of JOBS) {
      const lease = { name: job.name, place: '', fence: 0 };
      await job.run(app, { lease, stop: new AbortController().signal, rooms: ROOMS });
    }
    await closeApp(app);
    await admin.close();
  });
});
