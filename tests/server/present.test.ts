import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { transaction } from '../../src/server/db';
import { readFeed, readSessionChanges, readSessions } from '../../src/server/present';
import type { SessionChange } from '../../src/server/providers';
import type { PresentResource } from '../../src/server/providers';
import { openWorld, provisionFor, type World } from './setup/world';

/** What a provider says is taken in as whose it is, whatever it says afterwards. */
describe('what is there', () => {
  let world: World;
  const provider = 'coast';
  beforeAll(async () => void (world = await openWorld('present')));
  afterAll(() => world.close());

  const clocked = (): { now: number; wall: number } => ({ now: world.clock.at, wall: world.clock.at });
  const host = (customer: string, environment: string): PresentResource => ({
    ref: 'moved-1',
    kind: 'host',
    site: 'KQ',
    name: 'MOVED01',
    state: 'on',
    version: 1,
    attributes: { size: 's2x8', diskGiB: 64, node: 'kq-a1', power: 'on' },
    tags: { customer, environment, resource: 'none' },
    createdAt: world.clock.at,
    goneAt: null,
    busyWith: null,
  });
  const told = (present: PresentResource, seq: number): Promise<void> =>
    transaction(world.app.db, (connection) =>
      readFeed(world.app, connection, provider, {
        entries: [{ seq, at: world.clock.at + seq, present }],
        more: false,
      }),
    );

  it('stays with its customer, with what it costs, when someone changes its tags at the provider', async () => {
    const fps = await provisionFor(world, 'FPS', 'office', 6, 'KQ');
    const mhp = await provisionFor(world, 'MHP', 'office', 6, 'KQ');
    const code = async (): Promise<string[]> =>
      (
        await world.app.db.rows<{ code: string }>(
          `SELECT c.code FROM present_resource p JOIN customer c ON c.id = p.customer_id WHERE p.ref = 'moved-1'
           UNION ALL SELECT c.code FROM meter_interval i JOIN customer c ON c.id = i.customer_id WHERE i.ref = 'moved-1'`,
        )
      ).map((row) => row.code);
    await told(host('FPS', fps.environment), 1);
    expect(new Set(await code())).toEqual(new Set(['FPS']));
    const [noted] = await world.app.db.rows<{ id: string }>(
      "SELECT id FROM resource WHERE environment_id = ? AND kind = 'host'",
      [mhp.environment],
    );
    const moved = host('MHP', mhp.environment);
    await told(
      {
        ...moved,
        attributes: { ...moved.attributes, size: 's4x16' },
        tags: { ...moved.tags, resource: noted?.id ?? '' },
      },
      2,
    );
    expect((await code()).length).toBeGreaterThan(2);
    expect(new Set(await code())).toEqual(new Set(['FPS']));
    const differences = await world.call(
      'ida',
      'GET',
      `/customers/MHP/environments/${mhp.environment}/differences`,
    );
    expect(differences.text).not.toContain('MOVED01');
  });

  it('keeps apart the sessions of two providers that happen to have the same name', async () => {
    await provisionFor(world, 'SVG', 'near', 4, 'KQ');
    await provisionFor(world, 'SVG', 'far', 4, 'NL');
    await world.living.job('feed');
    const hosts = await world.app.db.rows<{ ref: string; provider_code: string }>(
      `SELECT MIN(p.ref) AS ref, p.provider_code FROM present_resource p JOIN customer c ON c.id = p.customer_id
       WHERE c.code = 'SVG' AND p.kind = 'host' GROUP BY p.provider_code ORDER BY p.provider_code`,
    );
    expect(hosts.map((one) => one.provider_code)).toEqual(['coast', 'northern']);
    const read = (code: string, ids: readonly string[]): Promise<boolean> =>
      transaction(world.app.db, (connection) =>
        readSessions(
          connection,
          code,
          ids.map((id) => ({
            id,
            host: hosts.find((one) => one.provider_code === code)?.ref ?? '',
            account: `of ${code}`,
            state: 'active',
            since: world.clock.at,
          })),
          clocked(),
        ),
      );
    const accounts = async (): Promise<string[]> =>
      (
        await world.app.db.rows<{ account: string }>(
          "SELECT account FROM session WHERE id = 'same' ORDER BY account",
        )
      ).map((row) => row.account);
    await read('coast', ['same']);
    await read('northern', ['same']);
    expect(await accounts()).toEqual(['of coast', 'of northern']);
    await read('coast', []);
    expect(await accounts()).toEqual(['of northern']);
  });

  it('takes an id that a provider gives again, to another customer or person, for another session', async () => {
    await provisionFor(world, 'HSB', 'first', 4, 'KQ');
    await provisionFor(world, 'APT', 'second', 4, 'KQ');
    await world.living.job('feed');
    const hostOf = async (code: string): Promise<string> =>
      (
        await world.app.db.row<{ ref: string }>(
          `SELECT MIN(p.ref) AS ref FROM present_resource p JOIN customer c ON c.id = p.customer_id
           WHERE c.code = ? AND p.kind = 'host'`,
          [code],
        )
      )?.ref ?? '';
    const [hsb, apt] = [await hostOf('HSB'), await hostOf('APT')];
    const all = (): Promise<unknown[]> =>
      world.app.db.rows(
        `SELECT c.code, s.account FROM session s JOIN customer c ON c.id = s.customer_id WHERE s.id = 'again'`,
      );
    const staleOf = async (): Promise<string[]> =>
      (
        await world.app.db.rows<{ code: string }>(
          "SELECT c.code FROM summary s JOIN customer c ON c.id = s.customer_id WHERE s.stale AND c.code IN ('HSB', 'APT') ORDER BY c.code",
        )
      ).map((row) => row.code);
    const one = (host: string, account: string) =>
      ({ id: 'again', host, account, state: 'active', since: world.clock.at }) as const;
    const wholly = (host: string, account: string): Promise<boolean> =>
      transaction(world.app.db, (connection) =>
        readSessions(connection, 'coast', [one(host, account)], clocked()),
      );
    const byChange = (seq: number, host: string, account: string): Promise<number | undefined> =>
      transaction(world.app.db, (connection) =>
        readSessionChanges(connection, 'coast', [{ seq, ...one(host, account) }], clocked()),
      );
    await wholly(hsb, 'maren');
    await world.app.db.write('UPDATE summary SET stale = FALSE');
    await wholly(apt, 'otto');
    expect(await all()).toEqual([{ code: 'APT', account: 'otto' }]);
    expect(await staleOf()).toEqual(['APT', 'HSB']);
    await wholly(apt, 'runa');
    expect(await all()).toEqual([{ code: 'APT', account: 'runa' }]);
    await world.app.db.write('UPDATE summary SET stale = FALSE');
    await byChange(1, hsb, 'maren');
    expect(await all()).toEqual([{ code: 'HSB', account: 'maren' }]);
    expect(await staleOf()).toEqual(['APT', 'HSB']);
    await byChange(2, hsb, 'bo');
    expect(await all()).toEqual([{ code: 'HSB', account: 'bo' }]);
    await wholly(hsb, 'bo');
    expect(await all()).toEqual([{ code: 'HSB', account: 'bo' }]);
    // On a host of which nothing is known: whose it is now nobody can say, and that it is over for who had it is sure.
    await wholly('not-known-yet', 'someone');
    expect(await all()).toEqual([]);
    await wholly(hsb, 'bo');
    await transaction(world.app.db, (connection) => readSessions(connection, 'coast', [], clocked()));
    expect(await all()).toEqual([]);
  });

  it('reads who comes and goes as changes: each once, none lost, none before its host is known', async () => {
    await provisionFor(world, 'QFB', 'desk', 6, 'KQ');
    const mine = (): Promise<{ id: string; state: string }[]> =>
      world.app.db.rows(
        `SELECT s.id, s.state FROM session s JOIN customer c ON c.id = s.customer_id WHERE c.code = 'QFB' ORDER BY s.id`,
      );
    const host = await world.app.db.row<{ ref: string }>(
      `SELECT p.ref FROM present_resource p JOIN customer c ON c.id = p.customer_id
       WHERE c.code = 'QFB' AND p.kind = 'host'`,
    );
    const ref = host?.ref ?? '';
    await world.app.db.write('DELETE FROM session WHERE host_ref = ?', [ref]);
    const read = (entries: readonly SessionChange[]): Promise<number | undefined> =>
      transaction(world.app.db, (connection) => readSessionChanges(connection, 'coast', entries, clocked()));
    const came = (seq: number, id: string, on = ref): SessionChange => ({
      seq,
      id,
      host: on,
      state: 'active',
      account: id,
      since: 5,
    });
    const sat = (seq: number, id: string): SessionChange => ({
      seq,
      id,
      host: ref,
      state: 'idle',
      account: id,
      since: 5,
    });
    const went = (seq: number, id: string): SessionChange => ({ seq, id, host: ref, state: 'ended' });
    const day = [came(1, 'one'), came(2, 'two'), sat(3, 'two'), went(4, 'one')];
    expect(await read(day)).toBe(4);
    expect(await mine()).toEqual([{ id: 'two', state: 'idle' }]);
    expect(await read(day)).toBe(4);
    expect(await mine()).toEqual([{ id: 'two', state: 'idle' }]);
    expect(await read([went(5, 'two'), came(6, 'three', 'not-yet'), came(7, 'four')])).toBe(5);
    expect(await mine()).toEqual([]);
    expect(await read([came(6, 'three', 'not-yet')])).toBeUndefined();
    expect(await read([])).toBeUndefined();
  });

  it('knows by changes what it would know by reading everyone, also after the record has been cut off', async () => {
    const known = (): Promise<{ id: string; state: string }[]> =>
      world.app.db.rows(
        "SELECT id, state, host_ref, account, since FROM session WHERE provider_code = 'coast' ORDER BY id",
      );
    const place = async (): Promise<string | null | undefined> =>
      (
        await world.app.db.row<{ session_place: string | null }>(
          "SELECT session_place FROM provider WHERE code = 'coast'",
        )
      )?.session_place;
    const wholly = async (): Promise<unknown[]> =>
      (await world.port().allSessions()).sessions
        .map(({ host, ...one }) => ({ ...one, host_ref: host }))
        .sort((a, b) => (a.id < b.id ? -1 : 1));
    for (const hours of [0, 3, 4, 12]) {
      await world.living.moveTo(world.clock.at + hours * 3_600_000);
      await world.living.job('sessions');
      expect(await known()).toEqual(await wholly());
    }
    expect(Number(await place())).toBeGreaterThan(0);
    // A provider that was put back to an earlier day has a shorter record, or one of which the beginning is gone.
    for (const nowhere of ['999999999', 'gibberish']) {
      await world.app.db.write("UPDATE provider SET session_place = ? WHERE code = 'coast'", [nowhere]);
      await world.app.db.write("DELETE FROM session WHERE provider_code = 'coast' LIMIT 1");
      await world.living.job('sessions');
      expect(await known()).toEqual(await wholly());
      expect(await place()).not.toBe(nowhere);
    }
  });

  it('tells of others how much of a node they take together, and nothing finer', async () => {
    const { present } = (
      await world.call('ida', 'GET', '/customers/SVG/facts?site=KQ&template=shared-office')
    ).body.site as { present: { customer: string; node: string }[] };
    const others = present.filter((one) => one.customer !== 'SVG');
    expect(others.length).toBeGreaterThan(0);
    expect(new Set(others.map((one) => one.node)).size).toBe(others.length);
  });
});
