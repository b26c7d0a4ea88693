import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { begin, change, changePath, openWorld, raise, type Called, type World } from './setup/world';

const MINUTE = 60_000;

/** Proposals that are held: two cannot count on the last room, and what is kept comes back by itself. */
describe('a proposal that is held', () => {
  let world: World;

  beforeAll(async () => {
    world = await openWorld('holds');
    for (const code of ['SVG', 'FPS', 'MHP']) await raise(world, code, 'hosts', 500);
  });
  afterAll(() => world.close());

  const office = (environment: string, people: number, site = 'TF') => ({
    environment,
    people,
    template: 'shared-office',
    site,
  });
  const propose = (code: string, input: object, environment?: string): Promise<Called> =>
    world.call('ida', 'POST', `${changePath(code, 'provision', environment)}/proposal`, { body: { input } });
  const hold = async (
    code: string,
    input: object,
    { minutes = 60, kind = 'provision', environment = undefined as string | undefined } = {},
  ): Promise<Called> => {
    const path = changePath(code, kind, environment);
    const { body } = await world.call('ida', 'POST', `${path}/proposal`, { body: { input } });
    return world.call('ida', 'POST', `${path}/hold`, {
      body: { input, fingerprint: body.fingerprint, reason: 'they think it over', minutes },
    });
  };
  const checksOf = (called: Called): Record<string, string> =>
    Object.fromEntries(
      (
        called.body.proposal as unknown as { checks: { key: string; state: string; says: string }[] }
      ).checks.map((one) => [one.key, `${one.state}: ${one.says}`]),
    );
  const namesOf = (called: Called): string[] =>
    called.body.proposal.tasks.filter((one) => one.kind === 'host').map((one) => one.name);
  const fits = async (code: string, people: number): Promise<boolean> =>
    checksOf(await propose(code, office('x', people)))['capacity']?.startsWith('passes') === true;

  /** The most people whose hosts Tor Field still has room for. */
  const mostThatFit = async (code: string): Promise<number> => {
    let most = 1;
    for (let people = 5; people < 400; people += 5) if (await fits(code, people)) most = people;
    return most;
  };

  it('keeps the last room: a second one sees that it is full, and of whom it is it is not told', async () => {
    const last = await mostThatFit('SVG');
    expect(last).toBeGreaterThan(5);
    expect(await fits('FPS', last)).toBe(true);
    const held = await hold('SVG', office('last', last));
    expect([held.status, held.body.hold]).toEqual([201, expect.any(String)]);
    const second = await propose('FPS', office('last', last));
    expect(checksOf(second)['capacity']).toMatch(/^blocks/);
    expect(second.text).not.toContain('SVG');
    expect((await change(world, 'FPS', 'provision', office('last', last))).status).toBe(422);
    // Held by two at once: one of them is told that it has changed, or is full.
    expect((await hold('FPS', office('last', last))).status).toBe(422);
  });

  it('is begun as it was held, by someone else too, and what was kept is taken by what it makes', async () => {
    const { holds } = (await world.call('bram', 'GET', '/customers/SVG/holds')).body as unknown as {
      holds: { id: string; title: string; actor: string }[];
    };
    expect(holds.map((one) => [one.title, one.actor])).toEqual([['Provision last', 'Ida Quist']]);
    const path = `/customers/SVG/holds/${holds[0]?.id ?? ''}`;
    const seen = (await world.call('bram', 'GET', path)).body as unknown as {
      same: boolean;
      now: { fingerprint: string };
    };
    expect(seen.same).toBe(true);
    const other = await world.call('bram', 'POST', `${path}/begin`, {
      body: { fingerprint: 'other', reason: '' },
    });
    expect(other.status).toBe(409);
    const begun = await world.call('bram', 'POST', `${path}/begin`, {
      body: { fingerprint: seen.now.fingerprint, reason: 'they want it' },
    });
    expect([begun.status, begun.body.run]).toEqual([201, expect.any(String)]);
    await world.living.untilQuiet();
    const run = (await world.call('bram', 'GET', `/customers/SVG/runs/${String(begun.body.run)}`)).body;
    expect([run.state, run.actor]).toEqual(['done', 'Bram Oyelaran']);
    expect((await world.call('bram', 'GET', path)).status).toBe(404);
    expect(await world.app.db.rows('SELECT id FROM held_proposal')).toEqual([]);
  });

  it('keeps names, subnet and block: what is proposed meanwhile gets others', async () => {
    const first = await propose('MHP', office('one', 8, 'KQ'));
    const held = await hold('MHP', office('one', 8, 'KQ'));
    expect(held.status).toBe(201);
    const attributes = (called: Called, kind: string): string[] =>
      (called.body.proposal.tasks as unknown as { kind: string; attributes: { cidr?: string } }[])
        .filter((one) => one.kind === kind)
        .map((one) => one.attributes.cidr ?? '');
    const second = await propose('MHP', office('two', 8, 'KQ'));
    expect(attributes(second, 'subnet')).not.toEqual(attributes(first, 'subnet'));
    expect(attributes(second, 'network')).toEqual(attributes(first, 'network'));
    const same = await propose('MHP', office('one', 8, 'KQ'));
    expect(namesOf(same).filter((name) => namesOf(first).includes(name))).toEqual([]);
    const elsewhere = await propose('FPS', office('one', 8, 'KQ'));
    expect(attributes(elsewhere, 'network')).not.toEqual(attributes(first, 'network'));
    await world.call('ida', 'DELETE', `/customers/MHP/holds/${String(held.body.hold)}`);
    expect(namesOf(await propose('MHP', office('one', 8, 'KQ')))).toEqual(namesOf(first));
  });

  it('is given back by itself when its time is over, on the trail', async () => {
    const held = await hold('FPS', office('brief', 6, 'KQ'), { minutes: 15 });
    const path = `/customers/FPS/holds/${String(held.body.hold)}`;
    await world.living.moveTo(world.clock.at + 14 * MINUTE);
    await world.living.job('holds');
    expect((await world.call('ida', 'GET', path)).status).toBe(200);
    await world.living.moveTo(world.clock.at + 2 * MINUTE);
    // From then on, whether anyone has cleared it away or not.
    expect((await world.call('ida', 'GET', path)).status).toBe(404);
    const late = await world.call('ida', 'POST', `${path}/begin`, { body: { fingerprint: 'x', reason: '' } });
    expect(late.status).toBe(404);
    await world.living.job('holds');
    expect(await world.app.db.rows('SELECT id FROM held_proposal')).toEqual([]);
    const { entries } = (await world.call('ida', 'GET', '/customers/FPS/trail')).body as unknown as {
      entries: { action: string; actor: string }[];
    };
    expect(entries.filter((one) => /hold/.test(one.action)).map((one) => one.action)).toEqual([
      'end hold',
      'hold proposal',
    ]);
  });

  it('counts against the plan: the last host of a plan is not held twice', async () => {
    const before = await begin(world, 'QFB', 'provision', office('bench', 4, 'KQ'));
    await world.living.untilQuiet();
    const { plan } = (await world.call('ida', 'GET', '/customers/QFB/facts?site=KQ&template=shared-office'))
      .body.customer as unknown as { plan: { most: { hosts: number } } };
    const there = (await world.port().resources({ customer: 'QFB' })).filter(
      (one) => one.kind === 'host',
    ).length;
    const left = plan.most.hosts - there;
    expect(left).toBeGreaterThan(0);
    const asked = { kind: 'add-hosts', environment: before.environment };
    expect((await hold('QFB', { pool: 'desks', hosts: left }, asked)).status).toBe(201);
    const more = await change(
      world,
      'QFB',
      'add-hosts',
      { pool: 'desks', hosts: 1 },
      { environment: before.environment },
    );
    expect([more.status, more.body.detail]).toEqual([422, expect.stringContaining('Plan limits')]);
  });

  it('is nobody else’s to see, to begin or to give back', async () => {
    const held = await hold('MHP', office('private', 4, 'KQ'));
    const id = String(held.body.hold);
    for (const [method, path] of [
      ['GET', `/customers/SVG/holds/${id}`],
      ['DELETE', `/customers/SVG/holds/${id}`],
      ['GET', `/customers/MHP/holds/${id}`],
      ['DELETE', `/customers/MHP/holds/${id}`],
    ] as const)
      expect((await world.call('jonah', method, path)).status).toBe(404);
    expect((await world.call('petra', 'DELETE', `/customers/MHP/holds/${id}`)).status).toBe(403);
    expect((await world.call('ida', 'GET', `/customers/MHP/holds/${id}`)).status).toBe(200);
  });

  it('is held for a while, not for ever', async () => {
    const refused = await hold('MHP', office('long', 4, 'KQ'), { minutes: 60 * 24 * 30 });
    expect([refused.status, JSON.stringify(refused.body.fields)]).toEqual([
      422,
      expect.stringContaining('10080'),
    ]);
  });
});
