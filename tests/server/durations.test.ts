import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { durationsAt } from '../../src/server/runs';
import { changePath, openWorld, provisionFor, raise, type World } from './setup/world';

/** How long steps take is learnt from those that were done, site by site. */
describe('how long steps take', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('durations');
    await raise(world, 'SVG', 'hosts', 200);
  });
  afterAll(() => world.close());

  const impact = async (site: string): Promise<{ seconds: number; late?: number }> => {
    const input = { environment: 'next', people: 12, template: 'shared-office', site };
    const path = `${changePath('SVG', 'provision')}/proposal`;
    const { body } = await world.call('ida', 'POST', path, { body: { input } });
    return (body.proposal as unknown as { impact: { seconds: number; late?: number } }).impact;
  };

  it('is as usual at first', async () => {
    await world.living.job('durations');
    expect(await durationsAt(world.app.db, 'KQ')).toEqual({});
    expect((await impact('KQ')).late).toBeUndefined();
  });

  it('is what was measured once ten were done, at that site alone', async () => {
    await provisionFor(world, 'SVG', 'many', 96, 'KQ');
    await world.living.job('durations');
    const learnt = await durationsAt(world.app.db, 'KQ');
    const made = Object.entries(learnt).find(([key]) => key.startsWith('host make'));
    const rows = await world.app.db.rows<{ ms: number }>(
      "SELECT ended_at - began_at AS ms FROM step WHERE kind = 'host' AND action = 'make' ORDER BY ms",
    );
    expect(rows.length).toBeGreaterThanOrEqual(10);
    expect(made?.[1].count).toBe(rows.length);
    expect(made?.[1].median).toBe((rows[Math.ceil(rows.length * 0.5) - 1]?.ms ?? 0) / 1000);
    expect(made?.[1].late).toBe((rows[Math.ceil(rows.length * 0.9) - 1]?.ms ?? 0) / 1000);
    expect(await durationsAt(world.app.db, 'NL')).toEqual({});
    const [here, there] = [await impact('KQ'), await impact('NL')];
    expect(there.late).toBeUndefined();
    expect(here.seconds).not.toBe(there.seconds);
  });

  it('learns again without counting twice', async () => {
    const before = await durationsAt(world.app.db, 'KQ');
    await world.living.job('durations');
    expect(await durationsAt(world.app.db, 'KQ')).toEqual(before);
  });
});
