import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { transaction } from '../../src/server/db';
import { readFeed, readSessions } from '../../src/server/present';
import type { PresentResource } from '../../src/server/providers';
import { openWorld, provisionFor, type World } from './setup/world';

/** What a provider says is taken in as whose it is, whatever it says afterwards. */
describe('what is there', () => {
  let world: World;
  const provider = 'coast';
  beforeAll(async () => void (world = await openWorld('present')));
  afterAll(() => world.close());

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
    const read = (code: string, ids: readonly string[]): Promise<void> =>
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
          world.clock.at,
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

  it('tells of others how much of a node they take together, and nothing finer', async () => {
    const { present } = (
      await world.call('ida', 'GET', '/customers/SVG/facts?site=KQ&template=shared-office')
    ).body.site as { present: { customer: string; node: string }[] };
    const others = present.filter((one) => one.customer !== 'SVG');
    expect(others.length).toBeGreaterThan(0);
    expect(new Set(others.map((one) => one.node)).size).toBe(others.length);
  });
});
