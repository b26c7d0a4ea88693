import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { monthOf } from '../../src/core/calendar';
import { openWorld, provisionFor, START, type Made, type World } from './setup/world';

const HOUR = 3_600_000;

interface Line {
  readonly meter: string;
  readonly charge: { readonly minor: number; readonly currency: string };
}

describe('one life, through the API', () => {
  let world: World;
  let made: Made;
  const svg = (path = ''): string => `/customers/SVG${path}`;
  const environment = (path = ''): string => svg(`/environments/${made.environment}${path}`);
  const get = async (path: string) => (await world.call('ida', 'GET', path)).body;

  beforeAll(async () => {
    world = await openWorld('slice');
  });
  afterAll(() => world.close());

  it('proposes without changing anything, and signs in to the provider for real', async () => {
    const wish = {
      environment: 'office',
      people: 20,
      profile: 'standard',
      template: 'shared-office',
      site: 'KQ',
    };
    const { status, body } = await world.call('ida', 'POST', svg('/proposals'), { body: wish });
    expect(status).toBe(200);
    expect(body.proposal.hosts.length).toBeGreaterThan(2);
    expect((await get(svg('/environments'))).entries).toEqual([]);
    expect((await get('/runs')).entries).toEqual([]);
  });

  it('builds nothing but what was seen', async () => {
    const wish = {
      environment: 'office',
      people: 20,
      profile: 'standard',
      template: 'shared-office',
      site: 'KQ',
    };
    const refused = await world.call('ida', 'POST', svg('/environments'), {
      body: { ...wish, stamp: 'another', reason: '' },
    });
    expect(refused.status).toBe(409);
    expect(refused.body.proposal).toBeDefined();
    expect((await get(svg('/environments'))).entries).toEqual([]);
  });

  it('names the checks that block', async () => {
    const wish = {
      environment: 'office',
      people: 200,
      profile: 'standard',
      template: 'shared-office',
      site: 'KQ',
    };
    const qfb = await world.call('ida', 'POST', '/customers/QFB/environments', {
      body: { ...wish, stamp: 'x', reason: '' },
    });
    expect(qfb.status).toBe(422);
    expect(qfb.body.detail).toContain('Plan limits');
  });

  it('provisions in the order of needs and puts every host to work', async () => {
    made = await provisionFor(world, 'SVG', 'office', 20, 'KQ');
    const run = await get(svg(`/runs/${made.run}`));
    expect(run.state).toBe('done');
    const steps = run.graph as unknown as { id: string; needs: string[]; beganAt: number; endedAt: number }[];
    const ended = new Map(steps.map((step) => [step.id, step.endedAt]));
    for (const step of steps)
      for (const need of step.needs) expect(step.beganAt).toBeGreaterThanOrEqual(ended.get(need) ?? Infinity);
    const hosts = (await get(environment('/hosts'))).entries as unknown as {
      standing: string;
      drift: string[];
    }[];
    expect(hosts.length).toBeGreaterThan(2);
    expect(hosts.every((host) => host.standing === 'serving' && host.drift.length === 0)).toBe(true);
  });

  it('takes about as long as it said', async () => {
    const run = await get(svg(`/runs/${made.run}`));
    const took = (Number(run.endedAt) - Number(run.begunAt)) / 1000;
    expect(took / Number(run.expectedSeconds)).toBeGreaterThan(0.6);
    expect(took / Number(run.expectedSeconds)).toBeLessThan(1.4);
  });

  it('lets people in as their day has it, and sees them', async () => {
    await world.living.moveTo(START + 2 * HOUR);
    await world.living.duty('sessions');
    await world.living.duty('tally');
    const { entries } = await get(svg('/sessions'));
    expect(entries.length).toBeGreaterThan(5);
    const watch = await get('/watch');
    const tally = (watch.customers as unknown as { code: string; peopleIn: number }[]).find(
      (one) => one.code === 'SVG',
    );
    expect(tally?.peopleIn).toBe(entries.length);
  });

  it('counts hours only while hosts are on, to the cent', async () => {
    const { entries } = await get(environment('/hosts'));
    const hosts = entries as unknown as { id: string }[];
    const ids = hosts.map((host) => host.id);
    await world.living.moveTo(START + 10 * HOUR);
    await world.call('ida', 'POST', environment('/changes'), {
      body: { hosts: ids.map((id) => ({ id })), change: 'power-off', reason: 'night' },
    });
    await world.living.untilQuiet();
    const atNight = await get(svg('/costs'));
    await world.living.moveTo(START + 34 * HOUR);
    const dayLater = await get(svg('/costs'));
    const of = (costs: typeof atNight, meter: string): number =>
      (costs.lines as unknown as Line[])
        .filter((line) => line.meter === meter)
        .reduce((sum, line) => sum + line.charge.minor, 0);
    expect(of(dayLater, 'host')).toBe(of(atNight, 'host'));
    expect(of(dayLater, 'disk')).toBeGreaterThan(of(atNight, 'disk'));
    const total = (dayLater.lines as unknown as Line[]).reduce((sum, line) => sum + line.charge.minor, 0);
    expect(dayLater.total).toEqual({ minor: total, currency: 'EUR' });
    // By hand: what the provider's record says each host was on, × 0.066 an hour.
    const rows = await world.app.db.rows<{ ms: string }>(
      "SELECT SUM(to_at - from_at) AS ms FROM meter_interval WHERE meter = 'host' AND state = 'on'",
    );
    expect(of(dayLater, 'host')).toBe(Math.round((Number(rows[0]?.ms) / HOUR) * 6.6));
  });

  it('shows what stands against what is wanted when someone switches a host on behind its back', async () => {
    const { entries } = await get(environment('/hosts'));
    const [first] = entries as unknown as { ref: string; name: string }[];
    await world.app.provider.begin({ do: 'power', ref: first?.ref ?? '', power: 'on' }, 'by other hands');
    await world.living.moveTo(world.clock.at + 10 * 60_000);
    await world.living.duty('feed');
    const hosts = (await get(environment('/hosts'))).entries as unknown as {
      name: string;
      drift: string[];
    }[];
    expect(hosts.find((host) => host.name === first?.name)?.drift).toEqual(['is on, wanted off']);
  });

  it('exports the charge lines as CSV that adds up', async () => {
    const { text, headers } = await world.call('ida', 'GET', svg('/charges.csv'));
    expect(headers.get('content-type')).toContain('text/csv');
    const [header, ...rows] = text.trim().split('\r\n');
    expect(header).toBe(
      'customer,month,environment,pool,meter,size,from,to,quantity,unit,price,charge,currency',
    );
    const sum = rows.reduce((total, row) => total + Math.round(Number(row.split(',')[11]) * 100), 0);
    expect(sum).toBe((await get(svg('/costs'))).total.minor);
  });

  it('retires only when the customer’s own code is typed, and not while a run is at work', async () => {
    const wrong = await world.call('ida', 'POST', environment('/retirement'), { body: { code: 'FPS' } });
    expect(wrong.status).toBe(422);
    expect(wrong.body.fields).toEqual({ code: 'type SVG' });
    const { entries } = await get(environment('/hosts'));
    const [first] = entries as unknown as { id: string }[];
    await world.call('ida', 'POST', environment('/changes'), {
      body: { hosts: [{ id: first?.id }], change: 'power-on' },
    });
    const busy = await world.call('ida', 'POST', environment('/retirement'), { body: { code: 'SVG' } });
    expect(busy.status).toBe(409);
    await world.living.untilQuiet();
  });

  it('retires, warns people, and proves that nothing is left', async () => {
    const before = await world.app.provider.resources('SVG');
    expect(before.length).toBeGreaterThan(5);
    const { status } = await world.call('ida', 'POST', environment('/retirement'), {
      body: { code: 'SVG', reason: 'over' },
    });
    expect(status).toBe(201);
    await world.living.untilQuiet();
    expect(await world.app.provider.resources('SVG')).toEqual([]);
    expect(await world.app.directory.computers('svg.example')).toEqual([]);
    const proof = await get(environment('/proof'));
    expect(proof.clean).toBe(true);
    const rows = proof.rows as unknown as { says: string; metering: boolean; ref: string }[];
    expect(rows.map((row) => row.ref).sort()).toEqual(before.map((seen) => seen.id).sort());
    expect(rows.every((row) => row.says === 'gone' && !row.metering)).toBe(true);
    expect(proof.returned).toMatchObject({
      subnetReturned: true,
      networkReturned: true,
      stillInDirectory: [],
    });
    const open = await world.app.db.row<{ n: number }>(
      'SELECT COUNT(*) AS n FROM meter_interval WHERE to_at IS NULL',
    );
    expect(open?.n).toBe(0);
  });

  it('changes nothing the second time', async () => {
    const before = await get(svg('/costs'));
    const again = await world.call('ida', 'POST', environment('/retirement'), { body: { code: 'SVG' } });
    expect(again.status).toBe(409);
    await world.living.moveTo(world.clock.at + 5 * HOUR);
    await world.living.duty('feed');
    expect((await get(svg('/costs'))).total).toEqual(before.total);
  });

  it('gives names and addresses to whoever comes next', async () => {
    const next = await provisionFor(world, 'SVG', 'office', 20, 'KQ');
    const hosts = (await get(svg(`/environments/${next.environment}/hosts`))).entries as unknown as {
      name: string;
      address: string;
    }[];
    expect(hosts[0]).toMatchObject({ name: 'SVG-OFFICE01', address: '10.16.0.4' });
  });

  it('has it all on the trail, with before and after', async () => {
    const { entries } = await world.call('ida', 'GET', svg('/trail?limit=200')).then((called) => called.body);
    const trail = entries as unknown as {
      action: string;
      actor: string;
      reason: string;
      before: Record<string, unknown> | null;
      after: Record<string, unknown> | null;
    }[];
    const actions = trail.map((entry) => entry.action);
    for (const action of ['begin provision', 'end run', 'begin power-off', 'begin retire', 'import people'])
      expect(actions).toContain(action);
    const begun = trail.find((entry) => entry.action === 'begin retire');
    expect(begun).toMatchObject({ actor: 'Ida Quist (engineer)', reason: 'over' });
    expect(begun?.before).toMatchObject({ wanted: 'serving' });
    expect(begun?.before?.hosts).not.toEqual([]);
    expect(begun?.after).toMatchObject({ wanted: 'retired', givenBack: { names: expect.any(Number) } });
    const off = trail.find((entry) => entry.action === 'begin power-off');
    expect(new Set(Object.values(off?.before ?? {}))).toEqual(new Set(['on']));
    expect(new Set(Object.values(off?.after ?? {}))).toEqual(new Set(['off']));
    expect(Object.keys(off?.before ?? {})).toEqual(Object.keys(off?.after ?? {}));
    const made = trail.find((entry) => entry.action === 'begin provision');
    expect(made?.before).toEqual({ environment: null });
  });

  it('keeps a month that is over as it was', async () => {
    const november = monthOf(world.clock.at, 'Europe/Dublin');
    await world.living.moveTo(november.to + 3 * HOUR);
    const costs = await get(svg('/costs?month=2026-11'));
    expect(costs.forecast).toEqual(costs.total);
    await world.living.moveTo(november.to + 40 * HOUR);
    expect((await get(svg('/costs?month=2026-11'))).total).toEqual(costs.total);
  });
});

describe('a run that meets failures', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('failing');
  });
  afterAll(() => world.close());

  const runOf = async (id: string) => (await world.call('ida', 'GET', `/customers/SVG/runs/${id}`)).body;

  it('stops at its failure limit and, when resumed, tries only what failed', async () => {
    await world.living.faults(
      ['01', '02'].map((n) => ({ kind: 'fail-host', target: `SVG-WARD${n}`, amount: 1 })),
    );
    const { run } = await provisionFor(world, 'SVG', 'ward', 20, 'KQ');
    expect(await runOf(run)).toMatchObject({ state: 'stopped', cause: 'failure limit' });
    await world.call('ida', 'POST', `/customers/SVG/runs/${run}/resume`);
    await world.living.untilQuiet();
    expect(await runOf(run)).toMatchObject({ state: 'done', failed: 0 });
    const hosts = (await world.app.provider.resources('SVG')).filter((seen) => seen.kind === 'host');
    expect(new Set(hosts.map((host) => host.name)).size).toBe(hosts.length);
  });

  it('can be stopped by hand and resumed', async () => {
    const wish = {
      environment: 'lab',
      people: 12,
      profile: 'standard',
      template: 'shared-office',
      site: 'KQ',
    };
    const { body } = await world.call('ida', 'POST', '/customers/SVG/proposals', { body: wish });
    const made = await world.call('ida', 'POST', '/customers/SVG/environments', {
      body: { ...wish, stamp: body.stamp },
    });
    const run = String(made.body.run);
    const stopped = await world.call('ida', 'POST', `/customers/SVG/runs/${run}/stop`);
    expect(stopped.body.state).toBe('stopped');
    const stale = await world.call('ida', 'POST', `/customers/SVG/runs/${run}/resume`, {
      headers: { 'if-match': '"1"' },
    });
    expect(stale.status).toBe(412);
    await world.call('ida', 'POST', `/customers/SVG/runs/${run}/resume`);
    await world.living.untilQuiet();
    expect((await runOf(run)).state).toBe('done');
  });

  it('is refused while the credentials are wrong', async () => {
    await world.app.db.write("UPDATE provider SET account = 'nobody'");
    const { openProvider } = await import('../../src/server/provider');
    const stranger = { ...world.app, provider: await openProvider(world.app.db, world.app.secretKey) };
    const { proposeHere } = await import('../../src/server/environments');
    const { proposal } = await proposeHere(stranger, await world.inside('MHP'), {
      environment: 'quay',
      people: 5,
      profile: 'standard',
      template: 'shared-office',
      site: 'KQ',
    });
    const check = proposal.checks.find((one) => one.key === 'credentials');
    expect(check).toMatchObject({ state: 'blocks', says: 'the provider account or secret is wrong' });
    await world.app.db.write("UPDATE provider SET account = 'tern'");
  });

  it('does a write once for each idempotency key', async () => {
    const wish = {
      environment: 'twice',
      people: 4,
      profile: 'standard',
      template: 'shared-office',
      site: 'KQ',
    };
    const { body } = await world.call('ida', 'POST', '/customers/FPS/proposals', { body: wish });
    const send = () =>
      world.call('ida', 'POST', '/customers/FPS/environments', {
        body: { ...wish, stamp: body.stamp, reason: '' },
        headers: { 'idempotency-key': 'once' },
      });
    const [first, second] = [await send(), await send()];
    expect(second.status).toBe(201);
    expect(second.body).toEqual(first.body);
    const other = await world.call('ida', 'POST', '/customers/FPS/proposals', {
      body: wish,
      headers: { 'idempotency-key': 'once' },
    });
    expect(other.status).toBe(422);
    await world.living.untilQuiet();
  });

  it('never gives two confirmations at once the same names or addresses', async () => {
    const wishes = ['one', 'two', 'three'].map((environment) => ({
      environment,
      people: 6,
      profile: 'standard',
      template: 'shared-office',
      site: 'TF',
    }));
    const made = await Promise.all(
      wishes.map(async (wish) => {
        for (;;) {
          const { body } = await world.call('ida', 'POST', '/customers/MHP/proposals', { body: wish });
          const answer = await world.call('ida', 'POST', '/customers/MHP/environments', {
            body: { ...wish, stamp: body.stamp, reason: '' },
          });
          if (answer.status !== 409) return answer.status;
        }
      }),
    );
    expect(made).toEqual([201, 201, 201]);
    const pools = await world.app.db.rows<{ subnet_cidr: string }>(
      "SELECT p.subnet_cidr FROM pool p JOIN environment e ON e.id = p.environment_id WHERE e.site_code = 'TF'",
    );
    expect(new Set(pools.map((pool) => pool.subnet_cidr)).size).toBe(3);
    const networks = await world.app.db.rows("SELECT id FROM network WHERE site_code = 'TF'");
    expect(networks).toHaveLength(1);
    await world.living.untilQuiet();
  });
});
