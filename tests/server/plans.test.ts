import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { NO_LIMITS } from '../../src/core/plans';
import { begin, change, openWorld, provisionFor, raise, type Called, type World } from './setup/world';

const DAY = 86_400_000;

/** What was sold, to whom, and what holds when it is passed. */
describe('plans', () => {
  let world: World;
  beforeAll(async () => void (world = await openWorld('plans')));
  afterAll(() => world.close());

  const lead = (method: string, path: string, body?: object): Promise<Called> =>
    world.call('bram', method, path, body ? { body } : {});
  const planOf = async (code: string) => (await lead('GET', `/customers/${code}/plan`)).body;
  const versions = async (code: string) => {
    const { plans } = (await lead('GET', '/plans')).body as unknown as {
      plans: { code: string; versions: { version: number; customers: string[]; others: number }[] }[];
    };
    return plans.find((one) => one.code === code)?.versions ?? [];
  };
  const keep = (code: string, more: object = {}) =>
    lead('PUT', `/plans/${code}`, { name: 'Punt', most: { ...NO_LIMITS, hosts: 3, people: 30 }, ...more });

  it('come in versions: who is on one stays on it', async () => {
    expect((await keep('punt')).body).toEqual({ plan: 'punt', version: 1 });
    await lead('POST', '/customers/QFB/plan', { plan: 'punt' });
    expect((await keep('punt', { most: { ...NO_LIMITS, hosts: 2 } })).body.version).toBe(2);
    expect((await versions('punt')).map(({ version, customers }) => [version, customers])).toEqual([
      [2, []],
      [1, ['QFB']],
    ]);
    expect(await planOf('QFB')).toMatchObject({ plan: 'punt', version: 1, most: { hosts: 3 } });
  });

  it('tell of customers out of reach only how many they are', async () => {
    const { body } = await world.call('jonah', 'GET', '/plans');
    expect(JSON.stringify(body)).not.toContain('QFB');
    expect(JSON.stringify(body)).toContain('"others":1');
  });

  it.each([
    [{ from: 1 }, 'from', 'is over: what was sold then was sold as it was'],
    [{ sizes: ['s1x1'] }, 'sizes', 'no site has a size s1x1'],
    [{ sites: ['XX'] }, 'sites', 'there is no site XX'],
    [{ fees: [{ currency: 'QQQ', monthly: '1' }] }, 'fees.0.currency', 'is no currency of ISO 4217'],
    [{ fees: [{ currency: 'EUR', monthly: '1,50' }] }, 'fees.0.monthly', 'write it like 120.00'],
    [{ most: { ...NO_LIMITS, hosts: -1 } }, 'most.hosts', 'must be greater than or equal to 0'],
  ])('are not made of what cannot be: %j', async (over, field, says) => {
    const { status, body } = await keep('bad', over);
    expect([status, body.fields]).toEqual([422, { [field]: says }]);
    expect(await versions('bad')).toEqual([]);
  });

  it('a version that begins later can be had later, and the next comes after it', async () => {
    const from = world.clock.at + 10 * DAY;
    await keep('later', { from });
    const early = await lead('POST', '/customers/QFB/plan/proposal', { plan: 'later' });
    expect([early.status, early.body.fields]).toEqual([422, { version: 'cannot be had then' }]);
    expect((await lead('POST', '/customers/QFB/plan/proposal', { plan: 'later', from })).status).toBe(200);
    expect((await keep('later')).body.fields).toEqual({
      from: 'version 1 begins later; this one has to begin after it',
    });
  });

  it('are made and changed by leads alone', async () => {
    for (const [method, path, body] of [
      ['PUT', '/plans/punt', { name: 'Punt', most: NO_LIMITS }],
      ['POST', '/customers/FPS/plan', { plan: 'harbour' }],
      [
        'POST',
        '/customers/FPS/allowances',
        { limit: 'hosts', most: 99, until: world.clock.at + DAY, reason: 'xxx' },
      ],
    ] as const)
      expect((await world.call('ida', method, path, { body })).status).toBe(403);
  });

  it('give the last host to one of three who ask for it at the same moment', async () => {
    const made = await provisionFor(world, 'MHP', 'tower', 4, 'KQ');
    const { body } = await world.call('ida', 'GET', `/customers/MHP/environments/${made.environment}`);
    const hosts = Number((body as unknown as { hosts: number }).hosts);
    await keep('exact', { most: { ...NO_LIMITS, hosts: hosts + 1 } });
    expect((await lead('POST', '/customers/MHP/plan', { plan: 'exact' })).status).toBe(201);
    const path = `/customers/MHP/environments/${made.environment}/changes/add-hosts`;
    const input = { pool: 'desks', hosts: 1 };
    const proposal = await world.call('ida', 'POST', `${path}/proposal`, { body: { input } });
    const ask = (who: 'ida' | 'bram') =>
      world.call(who, 'POST', path, {
        body: { input, fingerprint: proposal.body.fingerprint, reason: '' },
      });
    const said = await Promise.all([ask('ida'), ask('bram'), ask('ida')]);
    expect(said.filter(({ status }) => status === 201)).toHaveLength(1);
    for (const { status, body: refused } of said.filter((one) => one.status !== 201)) {
      expect(status).toBe(422);
      expect(refused.detail).toBe(`Plan limits: ${hosts + 2} hosts; plan Punt allows ${hosts + 1}`);
    }
    expect(((await planOf('MHP')).takes as { hosts: number }).hosts).toBe(hosts + 1);
  });

  it('are passed by a lead’s word alone, for a reason, until a day', async () => {
    const path = '/customers/MHP/allowances';
    const until = world.clock.at + 3 * DAY;
    const good = { limit: 'hosts', most: 40, until, reason: 'the regatta' };
    for (const [over, field, says] of [
      [{ until: world.clock.at }, 'until', 'has to be later than now'],
      [{ most: 1 }, 'most', expect.stringContaining('are allowed already')],
      [{ limit: 'vcpu' }, 'limit', 'plan Punt has no limit there'],
      [{ reason: '' }, 'reason', 'say why: it is on the trail and on the customer’s page'],
    ] as const) {
      const { status, body } = await lead('POST', path, { ...good, ...over });
      expect([status, body.fields]).toEqual([422, { [field]: says }]);
    }
    const { status, body } = await lead('POST', path, good);
    expect(status).toBe(201);
    expect((await planOf('MHP')).allowances).toMatchObject([
      { limit: 'hosts', most: 40, reason: 'the regatta' },
    ]);
    const { entries } = (await lead('GET', '/customers/MHP/trail?find=raise%20limit')).body;
    expect(entries).toMatchObject([{ action: 'raise limit', reason: 'the regatta', actor: 'Bram Oyelaran' }]);
    const environments = await world.call('ida', 'GET', '/customers/MHP/environments');
    const [{ id }] = environments.body.entries as [{ id: string }];
    await begin(world, 'MHP', 'add-hosts', { pool: 'desks', hosts: 1 }, { environment: id });
    await world.living.untilQuiet();
    // It ends by itself: what stands stays, and someone is told; nothing more is built.
    const says = async (): Promise<string[]> => {
      await world.app.db.write('UPDATE summary SET stale = TRUE');
      for (let n = 0; n < 3; n++) await world.living.job('summary');
      const { customers } = (await lead('GET', '/watch')).body as unknown as {
        customers: { code: string; attention: { kind: string; says: string }[] }[];
      };
      const own = customers.find((one) => one.code === 'MHP')?.attention ?? [];
      return own.filter(({ kind }) => kind === 'plan').map((one) => one.says);
    };
    expect(await says()).toEqual([expect.stringMatching(/^Hosts beyond plan Punt only until 2026-11-21$/)]);
    await world.living.moveTo(until);
    expect(await says()).toEqual([expect.stringMatching(/hosts; plan Punt allows/)]);
    const more = await change(world, 'MHP', 'add-hosts', { pool: 'desks', hosts: 1 }, { environment: id });
    expect(more.status).toBe(422);
    expect((await lead('DELETE', `${path}/${String(body.id)}`)).status).toBe(409);
  });

  it('that do not fit are in the way of a move, unless what does not fit is allowed for a while', async () => {
    await keep('tight', { most: { ...NO_LIMITS, hosts: 1, people: 5 }, name: 'Coracle' });
    const proposal = await lead('POST', '/customers/MHP/plan/proposal', { plan: 'tight' });
    expect(
      (proposal.body as unknown as { findings: { limit: string }[] }).findings.map((one) => one.limit),
    ).toEqual(['people', 'hosts']);
    const refused = await lead('POST', '/customers/MHP/plan', { plan: 'tight' });
    expect(refused.status).toBe(422);
    expect(refused.body.detail).toContain('42 people; plan Coracle allows 5');
    const moved = await lead('POST', '/customers/MHP/plan', {
      plan: 'tight',
      allowUntil: world.clock.at + 30 * DAY,
    });
    expect(moved.status).toBe(201);
    const now = await planOf('MHP');
    expect(now).toMatchObject({ plan: 'tight', beyond: [] });
    expect((now.allowances as { limit: string; most: number }[]).map(({ limit }) => limit)).toEqual([
      'people',
      'hosts',
    ]);
  });

  it('allow nothing that would have ended before the move', async () => {
    await keep('wide', { most: NO_LIMITS });
    const from = world.clock.at + 5 * DAY;
    const { status, body } = await lead('POST', '/customers/MHP/plan', {
      plan: 'wide',
      from,
      allowUntil: from,
    });
    expect([status, body.fields]).toEqual([422, { allowUntil: 'has to be later than the move' }]);
  });

  it('that have not a site where something stands are in the way of a move for good', async () => {
    await keep('inland', { sites: ['TF'], most: NO_LIMITS });
    const refused = await lead('POST', '/customers/MHP/plan', {
      plan: 'inland',
      allowUntil: world.clock.at + DAY,
    });
    expect([refused.status, refused.body.detail]).toEqual([
      422,
      'tower stands at KQ; plan Punt has no such site',
    ]);
  });

  it('are not sold in a currency that they have no fee in', async () => {
    await keep('euro', { fees: [{ currency: 'EUR', monthly: '10' }] });
    const proposal = await lead('POST', '/customers/HSB/plan/proposal', { plan: 'euro' });
    expect(proposal.body.monthly).toBeNull();
    const refused = await lead('POST', '/customers/HSB/plan', { plan: 'euro' });
    expect([refused.status, refused.body.fields]).toEqual([422, { plan: 'is not sold in GBP' }]);
  });

  it('are charged by the second, each for as long as someone was on it', async () => {
    // November has 30 days; Jetty is 140 a month, and they are on it since the 18th, 9:00 (in Dublin as in UTC).
    world.clock.at = Date.UTC(2026, 10, 22, 12);
    await keep('first', { fees: [{ currency: 'EUR', monthly: '900' }] });
    await keep('second', { fees: [{ currency: 'EUR', monthly: '90' }] });
    expect((await lead('POST', '/customers/APT/plan', { plan: 'first' })).status).toBe(201);
    world.clock.at = Date.UTC(2026, 10, 25);
    expect((await lead('POST', '/customers/APT/plan', { plan: 'second' })).status).toBe(201);
    const lines = async () =>
      (
        (await lead('GET', '/customers/APT/costs?month=2026-11')).body.lines as {
          size: string;
          charge: { minor: number };
        }[]
      ).map(({ size, charge }) => [size, charge.minor]);
    world.clock.at = Date.UTC(2026, 10, 28);
    // In cents: 4.125 days of 140 a month, two days and a half at 30 a day, three at 3.
    expect(await lines()).toEqual([
      ['Jetty 1', 1_925],
      ['Punt 1', 7_500],
      ['Punt 1', 900],
    ]);
  });

  it('raise nothing for whom they are not', async () => {
    expect((await raise(world, 'NOBODY', 'hosts', 4)).status).toBe(404);
  });

  it('move several customers to a version of theirs: who would not fit stays, and is named', async () => {
    const ask = (path: string, query: Record<string, string> = {}) =>
      lead('GET', `${path}?${new URLSearchParams(query).toString()}`);
    expect((await keep('fleet', { most: { ...NO_LIMITS, hosts: 60, people: 90 } })).body.version).toBe(1);
    for (const code of ['APT', 'HSB', 'WAP'])
      await lead('POST', `/customers/${code}/plan`, { plan: 'fleet' });
    expect((await ask('/plans/fleet/moves')).body.customers).toEqual([]);
    await provisionFor(world, 'WAP', 'press', 12, 'TF');
    await keep('fleet', { most: { ...NO_LIMITS, hosts: 1, people: 30 } });

    const proposed = await ask('/plans/fleet/moves');
    const { customers } = proposed.body as unknown as { customers: { code: string; findings: string[] }[] };
    expect(customers.map(({ code, findings }) => [code, findings.length])).toEqual([
      ['APT', 0],
      ['HSB', 0],
      ['WAP', 1],
    ]);
    expect((await ask('/plans/nowhere/moves')).status).toBe(404);
    expect((await ask('/plans/fleet/moves', { version: '9' })).body.fields).toEqual({
      version: 'cannot be had then',
    });
    // Of those out of reach nothing is told.
    const own = await world.call('jonah', 'GET', '/plans/fleet/moves');
    expect(own.body.customers).toEqual([]);

    const move = (over: object = {}) =>
      lead('POST', '/plans/fleet/moves', {
        version: 2,
        customers: ['APT', 'HSB', 'WAP'],
        count: 3,
        ...over,
      });
    expect((await move({ count: 2 })).body.fields).toEqual({
      count: 'is not how many customers are named: those are 3',
    });
    expect((await move({ customers: ['APT', 'NOBODY'], count: 2 })).status).toBe(404);
    expect((await planOf('APT')).version).toBe(1);
    const engineer = await world.call('ida', 'POST', '/plans/fleet/moves', {
      body: { version: 2, customers: ['APT'], count: 1 },
    });
    expect(engineer.status).toBe(403);

    // The second time nobody is moved twice.
    for (const said of [/^moved from Punt v1$/, /^is on it$/]) {
      const { status, body } = await move();
      expect(status).toBe(201);
      await world.living.untilQuiet();
      const { state, list } = (await lead('GET', `/parent-runs/${String(body.run)}`)).body as unknown as {
        state: string;
        list: readonly { customer: string; state: string; says: string }[];
      };
      expect(state).toBe('stopped');
      expect(list.map((one) => [one.customer, one.state, one.says])).toEqual([
        ['APT', 'done', expect.stringMatching(said)],
        ['HSB', 'done', expect.stringMatching(said)],
        ['WAP', 'failed', expect.stringMatching(/hosts; plan Punt allows 1/)],
      ]);
    }
    expect((await planOf('APT')).version).toBe(2);
    const stays = (await planOf('APT')).stays as unknown as { plan: string; version: number }[];
    expect(stays.filter((one) => one.plan === 'fleet' && one.version === 2)).toHaveLength(1);
    expect((await planOf('WAP')).version).toBe(1);
  });

  it('include what is taken off the bill again, and what a move costs is reckoned with it', async () => {
    const fees = [{ currency: 'EUR', monthly: '30' }];
    await keep('inside', { most: NO_LIMITS, fees, included: [{ meter: 'share', quantity: 50 }] });
    const twice = [
      { meter: 'share', quantity: 1 },
      { meter: 'share', quantity: 2 },
    ];
    expect((await keep('bad', { included: twice })).status).toBe(422);
    expect((await keep('bad', { included: [{ meter: 'host', quantity: 1 }] })).status).toBe(422);
    // Of the twelve people's 120 GiB 50 are in the fee of 30: at 0.11, that is 24.50 more than a plan without fees.
    const proposed = await lead('POST', '/customers/WAP/plan/proposal', { plan: 'inside' });
    expect(proposed.body.monthly).toEqual({ minor: 2_450, currency: 'EUR' });
    world.clock.at = Date.UTC(2026, 10, 29);
    expect((await lead('POST', '/customers/WAP/plan', { plan: 'inside' })).status).toBe(201);
    world.clock.at = Date.UTC(2026, 10, 30);
    const costs = (await lead('GET', '/customers/WAP/costs?month=2026-11')).body as unknown as {
      total: { minor: number };
      lines: { size: string | null; meter: string; quantity: number; charge: { minor: number } }[];
      days: { cost: { minor: number } }[];
    };
    const off = costs.lines.find((line) => line.size === 'in Punt 1');
    // A day of November's thirty: 50 × 0.11 / 30.
    expect([off?.meter, off?.charge.minor]).toEqual(['share', -18]);
    const sum = (all: readonly { minor: number }[]): number =>
      all.reduce((total, one) => total + one.minor, 0);
    expect(sum(costs.lines.map((line) => line.charge))).toBe(costs.total.minor);
    expect(sum(costs.days.map((day) => day.cost))).toBe(costs.total.minor);
    // What is built within it costs nothing more.
    await keep('roomy', { most: NO_LIMITS, fees, included: [{ meter: 'share', quantity: 1_000 }] });
    await lead('POST', '/customers/WAP/plan', { plan: 'roomy' });
    const input = { environment: 'annex', template: 'shared-office', site: 'TF', people: 4 };
    const { body } = await lead('POST', '/customers/WAP/changes/provision/proposal', { input });
    const { cost } = body.proposal as unknown as { cost: { meter: string }[] };
    expect(cost.map(({ meter }) => meter)).not.toContain('share');
    expect(cost.map(({ meter }) => meter)).toContain('disk');
  });
});
