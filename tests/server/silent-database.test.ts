import { connect, createServer, type AddressInfo, type Server, type Socket } from 'node:net';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { migrate, openDatabase, transaction, type Database } from '../../src/server/db';
import { settingsFor } from './setup/world';

/** The way to a database, which can be held up: what is sent then arrives at neither end. */
class Way {
  private readonly sockets = new Set<Socket>();
  private isHeld = false;
  private readonly server: Server;

  constructor(to: number) {
    this.server = createServer((near) => {
      const far = connect(to, '127.0.0.1');
      for (const [one, other] of [
        [near, far],
        [far, near],
      ] as const) {
        this.sockets.add(one);
        one.on('data', (data) => other.write(data));
        one.on('close', () => {
          this.sockets.delete(one);
          other.destroy();
        });
        one.on('error', () => other.destroy());
        if (this.isHeld) one.pause();
      }
    });
  }

  open(): Promise<number> {
    return new Promise((resolve) =>
      this.server.listen(0, '127.0.0.1', () => resolve((this.server.address() as AddressInfo).port)),
    );
  }

  hold(): void {
    this.isHeld = true;
    for (const one of this.sockets) one.pause();
  }

  free(): void {
    this.isHeld = false;
    for (const one of this.sockets) one.resume();
  }

  close(): Promise<unknown> {
    for (const one of this.sockets) one.destroy();
    return new Promise((resolve) => this.server.close(resolve));
  }
}

const SILENT = { isLost: true, message: 'no answer for 0.4 s' };

/** A database that stands still, with one connection to it. */
describe('a database that gives no answer', { timeout: 30_000 }, () => {
  let way: Way;
  let db: Database;
  let plain: Database;

  beforeAll(async () => {
    const settings = settingsFor('silent');
    await migrate(settings);
    plain = openDatabase(settings);
    await plain.write('CREATE TABLE thing (id INT PRIMARY KEY)');
    way = new Way(settings.port);
    db = openDatabase({ ...settings, port: await way.open(), connections: 1, answerMs: 400 });
  });
  beforeEach(async () => {
    way.free();
    await plain.write('DELETE FROM thing');
  });
  afterAll(async () => {
    way.free();
    await db.close();
    await plain.close();
    await way.close();
  });
  const kept = async (): Promise<number[]> =>
    (await plain.rows<{ id: number }>('SELECT id FROM thing ORDER BY id')).map(({ id }) => id);

  it('keeps nobody waiting, and is asked again once it answers', async () => {
    expect(await db.row('SELECT 1 AS one')).toEqual({ one: 1 });
    way.hold();
    await expect(db.row('SELECT 1 AS one')).rejects.toMatchObject(SILENT);
    // A connection that is new gets no answer either.
    await expect(db.row('SELECT 1 AS one')).rejects.toMatchObject(SILENT);
    way.free();
    expect(await db.row('SELECT 2 AS two')).toEqual({ two: 2 });
  });

  it('gets nothing from a transaction that it fell silent in', async () => {
    await expect(
      transaction(db, async (tx) => {
        await tx.write('INSERT INTO thing VALUES (1)');
        way.hold();
        await tx.write('INSERT INTO thing VALUES (2)');
      }),
    ).rejects.toMatchObject(SILENT);
    way.free();
    await db.write('INSERT INTO thing VALUES (3)');
    // The server undoes it as soon as it hears that the connection is gone.
    await expect.poll(kept).toEqual([3]);
  });

  it('gets nothing from who waited for a connection, and was told that there was no answer', async () => {
    await db.row('SELECT 1');
    way.hold();
    const first = db.row('SELECT SLEEP(0)');
    const second = transaction(db, (tx) => tx.write('INSERT INTO thing VALUES (4)'));
    const third = db.write('INSERT INTO thing VALUES (5)');
    const outcomes = await Promise.allSettled([first, second, third]);
    expect(outcomes.map((one) => one.status)).toEqual(['rejected', 'rejected', 'rejected']);
    way.free();
    await db.write('INSERT INTO thing VALUES (6)');
    expect(await kept()).toEqual([6]);
  });

  it('may take as long as it likes in all, when it answers each time', async () => {
    const before = performance.now();
    await transaction(db, async (tx) => {
      for (let n = 0; n < 4; n++) await tx.row('SELECT SLEEP(0.15)');
      await tx.write('INSERT INTO thing VALUES (7)');
    });
    expect(performance.now() - before).toBeGreaterThan(400);
    expect(await kept()).toEqual([7]);
  });
});
