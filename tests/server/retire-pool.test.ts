import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DESKS_AND_LAB } from '../../src/demo/templates';
import { notOnce } from '../chaos/audit';
import { begin, change, openWorld, type Made, type World } from './setup/world';

/** One pool of two goes; the other, and who works on it, notice nothing. */
describe('a pool that is retired', { timeout: 120_000 }, () => {
  let world: World;
  let made: Made;

  beforeAll(async () => {
    world = await openWorld('retirepool');
    const text = DESKS_AND_LAB;
    const kept = await world.call('ida', 'POST', '/templates/desks-and-lab/revisions', {
      body: { text, note: '' },
    });
    // It may be one of the scenario's already.
    expect(kept.status).toBeLessThan(500);
    made = await begin(world, 'SVG', 'provision', {
      environment: 'works',
      people: 8,
      template: 'desks-and-lab',
      site: 'KQ',
    });
    await world.living.untilQuiet();
  });
  afterAll(() => world.close());

  const there = async (): Promise<string[]> =>
    (await world.port().resources({ customer: 'SVG', environment: made.environment })).map(
      ({ kind, name }) => `${kind} ${name}`,
    );
  /** What the pool still has of names, addresses and places on nodes. */
  const held = async (): Promise<number> =>
    (
      await world.app.db.row<{ n: number }>(
        "SELECT COUNT(*) AS n FROM resource WHERE environment_id = ? AND resource_key LIKE '%:lab%' AND returned_at IS NULL",
        [made.environment],
      )
    )?.n ?? 0;

  it('goes with its hosts, names and profiles, and nothing else', async () => {
    const before = await there();
    const lab = before.filter((one) => /lab/i.test(one));
    expect(lab.length).toBeGreaterThan(3);
    expect(await held()).toBe(lab.length);
    await begin(world, 'SVG', 'retire-pool', { pool: 'lab' }, made);
    await world.living.untilQuiet();
    expect((await there()).sort()).toEqual(before.filter((one) => !lab.includes(one)).sort());
    expect(
      await notOnce({ app: world.app, provider: () => world.port(), inside: world.inside }, 'SVG'),
    ).toEqual([]);
    expect(await held()).toBe(0);
  });

  it('is never the last one', async () => {
    const { status, body } = await change(world, 'SVG', 'retire-pool', { pool: 'desks' }, made);
    expect([status, JSON.stringify(body)]).toEqual([422, expect.stringContaining('retire the environment')]);
  });
});
