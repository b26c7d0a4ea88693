import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Shelf, Shelves } from '../../src/contract';
import { Living } from '../../src/demo/living';
import { NO_LIMITS } from '../../src/core/plans';
import { MSP } from '../../src/server/access';
import { begin, change, openWorld, type Called, type Made, type World } from './setup/world';

const MINUTE = 60_000;
const OFFICE = { people: 8, template: 'shared-office', site: 'KQ' };

/** Hosts that are built in advance, handed out by a plan or by hand, and filled up again by themselves. */
describe('the ready shelf', () => {
  let world: World;
  let shelf: Made;

  beforeAll(async () => {
    world = await openWorld('shelf');
    // FPS is on a plan that gives two of them.
    const plan = await world.call('bram', 'PUT', '/plans/quick', {
      body: { name: 'Quick', most: NO_LIMITS, fees: [{ currency: 'EUR', monthly: '10.00' }], readyHosts: 2 },
    });
    expect([plan.status, plan.text.slice(0, 300)]).toEqual([200, expect.any(String)]);
    const moved = await world.call('bram', 'POST', '/customers/FPS/plan', { body: { plan: 'quick' } });
    expect(moved.status).toBe(201);
    shelf = await begin(
      world,
      'MSP',
      'stock-shelf',
      { site: 'KQ', image: 'Ostrel 12 multi-user', size: 's4x16', diskGiB: 128, hosts: 3, most: null },
      { who: 'bram' },
    );
    await quiet();
  });
  afterAll(() => world.close());

  const quiet = async (): Promise<void> => {
    await world.living.untilQuiet();
    await world.living.moveTo(world.clock.at + MINUTE);
    await world.living.job('feed');
  };
  const shelves = async (who: 'bram' | 'jonah' = 'bram'): Promise<Shelves> =>
    (await world.call(who, 'GET', '/ground/shelf')).body as unknown as Shelves;
  const own = async (): Promise<Shelf> => {
    const [first] = (await shelves()).shelves;
    if (!first) throw new Error('there is no shelf');
    return first;
  };
  const ready = async (): Promise<string[]> =>
    (await own()).hosts.flatMap((one) => (one.state === 'ready' ? [one.name] : []));
  const provision = (code: string, environment: string, who: 'ida' | 'bram' = 'ida'): Promise<Called> =>
    change(world, code, 'provision', { ...OFFICE, environment }, { who });
  const hostsOf = async (code: string) =>
    (await world.port().resources({ customer: code })).filter((one) => one.kind === 'host');
  /** The MSP's seconds of hosts that were on, as they were metered. */
  const intervals = () =>
    world.app.db.rows<{ customer_id: string; ref: string; from_at: number; to_at: number | null }>(
      "SELECT customer_id, ref, from_at, to_at FROM meter_interval WHERE meter = 'host' AND state = 'on' ORDER BY from_at",
    );

  it('is built, costs the MSP from then on, and nobody signs in to it', async () => {
    expect(await ready()).toEqual(['READY-KQ-0001', 'READY-KQ-0002', 'READY-KQ-0003']);
    const { each, soFar, currency } = await own();
    expect(each?.currency).toBe(currency);
    expect(each?.minor).toBeGreaterThan(0);
    expect(soFar?.minor).toBeGreaterThan(0);
    expect(new Set((await intervals()).map((one) => one.customer_id))).toEqual(new Set([MSP.id]));
    const hosts = await hostsOf('MSP');
    expect(hosts.map((one) => one.attributes.joined)).toEqual([null, null, null]);
  });

  it('has the first person in within a minute', async () => {
    const quick = new Living(world.app, world.clock, world.simulations, 500);
    const before = world.clock.at;
    const made = await provision('FPS', 'office');
    expect(made.status).toBe(201);
    const run = `/customers/FPS/runs/${String(made.body.run)}`;
    type Step = {
      kind: string;
      action: string;
      state: string;
      endedAt: number | null;
      resource: string | null;
    };
    await quick.untilQuiet();
    const { graph, state } = (await world.call('ida', 'GET', run)).body as unknown as {
      graph: Step[];
      state: string;
    };
    expect(state).toBe('done');
    const published = graph.find((one) => one.kind === 'publication');
    expect((published?.endedAt ?? Infinity) - before).toBeLessThan(MINUTE);
    await quiet();
    const fps = await hostsOf('FPS');
    expect(fps.filter((one) => typeof one.attributes.from === 'string')).toHaveLength(2);
    expect(
      fps.every((one) => one.attributes.joined === 'fps.example' && one.attributes.accepting === true),
    ).toBe(true);
  });

  it('hands each host over to the second: what the MSP paid ends where the customer’s begins', async () => {
    const rows = await intervals();
    const of = (name: string): string | undefined =>
      rows.find((one) => one.ref === name && one.customer_id === MSP.id)?.ref;
    const taken = (await hostsOf('FPS')).flatMap(({ ref, attributes: { from } }) =>
      typeof from === 'string' ? [{ ref, from }] : [],
    );
    expect(taken).toHaveLength(2);
    for (const { ref, from } of taken) {
      expect(of(from)).toBe(from);
      const ours = rows.find((one) => one.ref === from);
      const theirs = rows.find((one) => one.ref === ref);
      expect(ours?.to_at).not.toBeNull();
      expect(theirs?.from_at).toBe(ours?.to_at);
    }
  });

  it('is filled up again by itself, and tells who got what', async () => {
    await world.living.job('shelf');
    const { handed } = await shelves();
    expect(handed.map(({ host, customer, to }) => [host.slice(0, 9), customer, to.slice(0, 4)])).toEqual([
      ['READY-KQ-', 'FPS', 'FPS-'],
      ['READY-KQ-', 'FPS', 'FPS-'],
    ]);
    await quiet();
    expect(await ready()).toHaveLength(3);
    await world.living.job('shelf');
    await quiet();
    expect((await own()).hosts).toHaveLength(3);
  });

  it('gives one host to one only, whoever asks at the same moment', async () => {
    const answers = await Promise.all([provision('FPS', 'second'), provision('FPS', 'third')]);
    const begun = answers.filter((one) => one.status === 201);
    expect(begun.length).toBeGreaterThan(0);
    // Who came second is shown what it would be now.
    for (const one of answers) expect([201, 409]).toContain(one.status);
    await quiet();
    const rows = await world.app.db.rows<{ value: string; n: number }>(
      "SELECT value, COUNT(*) AS n FROM allocation WHERE space = 'ready KQ' GROUP BY value",
    );
    expect(rows.every((one) => one.n === 1)).toBe(true);
    const origins = (await hostsOf('FPS'))
      .map((one) => one.attributes.from)
      .filter((one) => one !== undefined);
    expect(new Set(origins).size).toBe(origins.length);
  });

  it('builds of the image where the one that was promised is gone by then', async () => {
    await world.living.job('shelf');
    await quiet();
    const proposed = await provision('FPS', 'fourth');
    expect(proposed.status).toBe(201);
    for (const one of await hostsOf('MSP'))
      await world.port().remove(one.ref, one.version, `by hand ${one.ref}`);
    await quiet();
    const run = await world.call('ida', 'GET', `/customers/FPS/runs/${String(proposed.body.run)}`);
    expect(run.body.state).toBe('done');
  });

  it('keeps to its budget', async () => {
    const { each } = await own();
    const two = ((each?.minor ?? 0) * 2.5) / 100;
    const input = { hosts: 5, most: two.toFixed(2) };
    const at = { environment: shelf.environment, who: 'bram' } as const;
    expect((await change(world, 'MSP', 'change-stock', input, at)).status).toBe(201);
    await quiet();
    expect(await own()).toMatchObject({ wanted: 5, affords: 2 });
    const before = (await own()).hosts.length;
    await world.living.job('shelf');
    await quiet();
    expect((await own()).hosts.length).toBeLessThanOrEqual(Math.max(before, 2));
  });

  it('takes a server made by hand, tells what it lacks, and hands it out after that', async () => {
    const make = {
      kind: 'host',
      site: 'KQ',
      name: 'OLD-SERVER',
      attributes: {
        size: 's4x16',
        image: 'Ostrel 12 multi-user',
        diskGiB: 128,
        node: 'kq-a1',
        address: '10.99.0.9',
        lacks: ['updates', 'office set'],
      },
      tags: {},
    };
    await world.port().make(make, 'by hand OLD-SERVER');
    await world.living.moveTo(world.clock.at + 20 * MINUTE);
    await world.living.job('feed');
    const [stray] = (await shelves()).strays.filter((one) => one.name === 'OLD-SERVER');
    expect(stray).toMatchObject({ lacks: ['updates', 'office set'], shelf: shelf.environment });
    expect((await shelves('jonah')).strays).toEqual([]);
    const at = { environment: shelf.environment };
    const { run } = await begin(world, 'MSP', 'shelve', { server: stray?.ref ?? '' }, at);
    expect((await own()).hosts.filter((one) => one.byHand).map((one) => one.state)).toEqual(['being built']);
    await quiet();
    const { graph, state } = (await world.call('ida', 'GET', `/customers/MSP/runs/${run}`))
      .body as unknown as {
      graph: { action: string; says: string }[];
      state: string;
    };
    expect(state).toBe('done');
    const says = Object.fromEntries(graph.map((one) => [one.action, one.says]));
    expect(says.look).toBe('lacks the agent, updates, office set');
    expect(says['bring-up']).toBe('no office set on it');
    expect(says.restart).toBe('restarted');
    expect((await own()).hosts.filter((one) => one.byHand)).toMatchObject([
      { state: 'ready', lacks: ['office set'] },
    ]);
    const twice = await change(world, 'MSP', 'shelve', { server: stray?.ref ?? '' }, at);
    expect(twice.status).toBe(422);
  });

  it('is a lead’s to decide, and no customer’s to see the cost of', async () => {
    const input = { hosts: 1, most: null };
    const refused = await change(world, 'MSP', 'change-stock', input, { environment: shelf.environment });
    expect(refused.status).toBe(403);
    const { handed } = await shelves('jonah');
    expect(handed.every((one) => ['FPS', 'SVG'].includes(one.customer))).toBe(true);
  });
});
