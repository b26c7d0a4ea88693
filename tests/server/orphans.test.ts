import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Orphan } from '../../src/contract';
import { SYSTEM } from '../../src/server/access';
import { OutsideError } from '../../src/server/outside';
import { readSites } from '../../src/server/providers';
import { openWorld, provisionFor, type Made, type World } from './setup/world';

/** What stands at a provider and nothing wants: found, priced, and shown to those only whom it concerns. */
describe('orphans', () => {
  let world: World;
  let made: Made;
  beforeAll(async () => {
    world = await openWorld('orphans');
    made = await provisionFor(world, 'SVG', 'office', 10, 'KQ');
  });
  afterAll(() => world.close());

  const orphans = async (who: 'ida' | 'jonah' | 'petra'): Promise<Orphan[]> => {
    await world.living.job('feed');
    const { status, body } = await world.call(who, 'GET', '/orphans');
    expect(status).toBe(200);
    return body.orphans as Orphan[];
  };

  it('are none where everything that stands is wanted', async () => {
    expect(await orphans('ida')).toEqual([]);
  });

  it('made past us are listed with what their provider asks for them in an average month', async () => {
    await world
      .port()
      .make({ kind: 'share', site: 'KQ', name: 'scans', attributes: { gib: 250 }, tags: {} }, 'k1');
    // 250 GiB at 0.06 a month, as the provider's price list has it.
    expect(await orphans('ida')).toEqual([
      expect.objectContaining({
        provider: 'coast',
        kind: 'share',
        name: 'scans',
        site: 'KQ',
        customer: null,
        monthly: { minor: 15_00, currency: 'EUR' },
      }),
    ]);
  });

  it('that are nobody’s are the MSP’s: who reaches a few customers does not see them', async () => {
    expect(await orphans('jonah')).toEqual([]);
    expect(await orphans('petra')).toHaveLength(1);
  });

  it('that carry a customer’s tags are told to who reaches that customer, with the way to mend them', async () => {
    await world.port().make(
      {
        kind: 'share',
        site: 'KQ',
        name: 'second',
        attributes: { gib: 100 },
        tags: { customer: 'SVG', environment: made.environment, pool: 'desks' },
      },
      'k2',
    );
    expect(await orphans('jonah')).toEqual([
      expect.objectContaining({
        name: 'second',
        customer: 'SVG',
        environment: 'office',
        environmentId: made.environment,
        monthly: { minor: 6_00, currency: 'EUR' },
      }),
    ]);
    const { body } = await world.call(
      'ida',
      'GET',
      `/customers/SVG/environments/${made.environment}/differences`,
    );
    expect(body.differences).toEqual([expect.objectContaining({ name: 'second', what: 'extra' })]);
  });

  it('keep the price that was told last, and the sites are read, while a provider tells no prices', async () => {
    const connected = await world.app.providers.named('coast');
    const silent = {
      ...connected,
      port: {
        ...connected.port,
        prices: async () => {
          throw new OutsideError('provider coast', 'has no price list', 'lasting');
        },
      },
    };
    world.clock.at += 60_000;
    await readSites(world.app, silent, SYSTEM);
    const [site] = (await world.call('ida', 'GET', '/sites')).body.sites as { readAt: number }[];
    expect(site?.readAt).toBe(world.clock.at);
    expect((await orphans('ida')).map((one) => one.monthly?.minor)).toEqual([15_00, 6_00]);
  });

  it('are gone from the list when they are gone', async () => {
    const [stray] = (await orphans('ida')).filter((one) => one.customer === null);
    const there = await world.port().resource(stray?.ref ?? '');
    await world.port().remove(there?.ref ?? '', there?.version ?? 0, 'k3');
    await world.living.moveTo(world.clock.at + 600_000);
    expect((await orphans('ida')).map((one) => one.name)).toEqual(['second']);
  });
});
