import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { monthOf } from '../../src/core/calendar';
import {
  begin,
  change,
  changePath,
  openWorld,
  provisionFor,
  START,
  type Called,
  type Made,
  type World,
} from './setup/world';

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
    const input = { environment: 'office', people: 20, template: 'shared-office', site: 'KQ' };
    const { status, body } = await world.call('ida', 'POST', svg('/changes/provision/proposal'), {
      body: { input },
    });
    expect(status).toBe(200);
    expect(body.proposal.tasks.filter((task) => task.kind === 'host').length).toBeGreaterThan(2);
    expect((await get(svg('/environments'))).entries).toEqual([]);
    expect((await get('/runs')).entries).toEqual([]);
  });

  it('builds nothing but what was seen', async () => {
    const input = { environment: 'office', people: 20, template: 'shared-office', site: 'KQ' };
    const refused = await world.call('ida', 'POST', svg('/changes/provision'), {
      body: { input, fingerprint: 'another', reason: '' },
    });
    expect(refused.status).toBe(409);
    expect(refused.body.proposal).toBeDefined();
    expect((await get(svg('/environments'))).entries).toEqual([]);
  });

  it('names the checks that block', async () => {
    const input = { environment: 'office', people: 200, template: 'shared-office', site: 'KQ' };
    const qfb = await world.call('ida', 'POST', '/customers/QFB/changes/provision', {
      body: { input, fingerprint: 'x', reason: '' },
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
      status: string;
      drift: string[];
    }[];
    expect(hosts.length).toBeGreaterThan(2);
    expect(hosts.every((host) => host.status === 'serving' && host.drift.length === 0)).toBe(true);
  });

  it('takes about as long as it said', async () => {
    const run = await get(svg(`/runs/${made.run}`));
    const took = (Number(run.endedAt) - Number(run.begunAt)) / 1000;
    expect(took / Number(run.expectedSeconds)).toBeGreaterThan(0.6);
    expect(took / Number(run.expectedSeconds)).toBeLessThan(1.4);
  });

  it('lets people in as their day has it, and sees them', async () => {
    await world.living.moveTo(START + 2 * HOUR);
    await world.living.job('sessions');
    await world.living.job('summary');
    const { entries } = await get(svg('/sessions'));
    expect(entries.length).toBeGreaterThan(5);
    const watch = await get('/watch');
    const summary = (watch.customers as unknown as { code: string; peopleIn: number }[]).find(
      (one) => one.code === 'SVG',
    );
    expect(summary?.peopleIn).toBe(entries.length);
  });

  it('counts hours only while hosts are on, to the cent', async () => {
    const { entries } = await get(environment('/hosts'));
    const hosts = entries as unknown as { id: string }[];
    const ids = hosts.map((host) => host.id);
    await world.living.moveTo(START + 10 * HOUR);
    await begin(world, 'SVG', 'power-off', { hosts: ids }, { environment: made.environment });
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
    const there = await world.port().resource(first?.ref ?? '');
    await world.port().act(first?.ref ?? '', there?.version ?? 0, 'power-on', {}, 'by other hands');
    await world.living.moveTo(world.clock.at + 10 * 60_000);
    await world.living.job('feed');
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

  it('retires only when the customer’s own code is typed', async () => {
    const path = changePath('SVG', 'retire', made.environment);
    const { body } = await world.call('ida', 'POST', `${path}/proposal`, { body: { input: {} } });
    const wrong = await world.call('ida', 'POST', path, {
      body: { input: {}, fingerprint: body.fingerprint, code: 'FPS', reason: '' },
    });
    expect(wrong.status).toBe(422);
    expect(wrong.body.fields).toEqual({ code: 'type SVG' });
  });

  it('retires also while a run is at work: the last word wins; warns people, and proves that nothing is left', async () => {
    const before = await world.port().resources({ customer: 'SVG' });
    expect(before.length).toBeGreaterThan(5);
    const { entries } = await get(environment('/hosts'));
    const [first] = entries as unknown as { id: string }[];
    const other = await begin(
      world,
      'SVG',
      'drain',
      { hosts: [first?.id] },
      { environment: made.environment },
    );
    await begin(world, 'SVG', 'retire', { data: 'destroyed' }, { environment: made.environment });
    await world.living.untilQuiet();
    const overtaken = await get(svg(`/runs/${other.run}`));
    expect(overtaken.graph).toMatchObject([{ state: 'overtaken', says: 'it is not wanted any more' }]);
    expect(await world.port().resources({ customer: 'SVG' })).toEqual([]);
    expect(await world.app.directory.computers('svg.example')).toEqual([]);
    const proof = await get(environment('/proof'));
    expect(proof.clean).toBe(true);
    const rows = proof.rows as unknown as { says: string; metering: boolean; ref: string }[];
    expect(rows.map((row) => row.ref).sort()).toEqual(before.map((seen) => seen.ref).sort());
    expect(rows.every((row) => row.says === 'gone' && !row.metering)).toBe(true);
    expect(proof.returned).toMatchObject({
      values: [
        { space: 'network', returned: true, shared: true },
        { space: 'subnet', returned: true, shared: false },
        { space: 'address', returned: true, shared: false },
      ],
      stillInDirectory: [],
    });
    const open = await world.app.db.row<{ n: number }>(
      'SELECT COUNT(*) AS n FROM meter_interval WHERE to_at IS NULL',
    );
    expect(open?.n).toBe(0);
  });

  it('changes nothing the second time', async () => {
    const before = await get(svg('/costs'));
    const again = await change(
      world,
      'SVG',
      'retire',
      { data: 'destroyed' },
      { environment: made.environment },
    );
    expect(again.status).toBe(409);
    await world.living.moveTo(world.clock.at + 5 * HOUR);
    await world.living.job('feed');
    // The plan's own fee goes on, as long as they are a customer.
    const used = ({ lines }: Called['body']) =>
      (lines as Line[])
        .filter(({ meter }) => meter !== 'plan')
        .map(({ meter, charge }) => ({ meter, charge }));
    expect(used(await get(svg('/costs')))).toEqual(used(before));
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
    interface Entry {
      readonly id: string;
      readonly action: string;
      readonly actor: string;
      readonly reason: string;
      readonly before: Record<string, unknown> | null;
      readonly after: Record<string, unknown> | null;
    }
    const trail = entries as unknown as Entry[];
    const actions = trail.map((entry) => entry.action);
    for (const action of ['begin provision', 'end run', 'begin power-off', 'begin retire', 'import people'])
      expect(actions).toContain(action);
    // What is long stands in the entry alone.
    const whole = async (entry: Entry | undefined): Promise<Entry> =>
      (await world.call('ida', 'GET', svg(`/trail/${entry?.id ?? ''}`))).body as unknown as Entry;
    const begun = await whole(trail.find((entry) => entry.action === 'begin retire'));
    expect(begun).toMatchObject({ actor: 'Ida Quist', role: 'engineer', reason: 'a test' });
    expect(begun.before?.['SVG-OFFICE01']).toMatchObject({ size: expect.any(String) });
    expect(begun.after).toMatchObject({ 'SVG-OFFICE01': null, monthly: { currency: 'EUR' } });
    const off = trail.find((entry) => entry.action === 'begin power-off');
    expect(off?.before?.['SVG-OFFICE01']).toEqual({ power: 'on' });
    expect(off?.after?.['SVG-OFFICE01']).toEqual({ power: 'off' });
    const first = await whole(trail.findLast((entry) => entry.action === 'begin provision'));
    expect(first.before?.['SVG-OFFICE01']).toBeNull();
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
    const hosts = (await world.port().resources({ customer: 'SVG' })).filter((seen) => seen.kind === 'host');
    expect(new Set(hosts.map((host) => host.name)).size).toBe(hosts.length);
  });

  it('can be stopped by hand and resumed', async () => {
    const input = { environment: 'lab', people: 12, template: 'shared-office', site: 'KQ' };
    const { run } = await begin(world, 'SVG', 'provision', input);
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
    await world.app.db.write("UPDATE provider SET account = 'nobody' WHERE code = 'coast'");
    const input = { environment: 'quay', people: 5, template: 'shared-office', site: 'KQ' };
    const { body } = await world.call('ida', 'POST', '/customers/MHP/changes/provision/proposal', {
      body: { input },
    });
    const check = (body.proposal as unknown as { checks: { key: string }[] }).checks.find(
      (one) => one.key === 'credentials',
    );
    expect(check).toMatchObject({
      state: 'blocks',
      says: 'provider coast says: account or secret is wrong',
    });
    await world.app.db.write("UPDATE provider SET account = 'tern' WHERE code = 'coast'");
  });

  it('does a write once for each idempotency key', async () => {
    const input = { environment: 'twice', people: 4, template: 'shared-office', site: 'KQ' };
    const headers = { 'idempotency-key': 'once' };
    const first = await change(world, 'FPS', 'provision', input, { headers });
    // The same proposal again: by now the name is taken, but the key is known.
    const body = {
      input,
      fingerprint: (await world.app.db.row<{ n: string }>("SELECT 'unused' AS n"))?.n,
    };
    expect(first.status).toBe(201);
    const other = await world.call('ida', 'POST', '/customers/FPS/changes/provision', {
      body: { ...body, reason: '' },
      headers,
    });
    expect(other.status).toBe(422);
    expect(other.body.type).toBe('urn:laager:problem:idempotency-key');
    await world.living.untilQuiet();
  });

  it('never gives two confirmations at once the same names or addresses', async () => {
    const made = await Promise.all(
      ['one', 'two', 'three'].map(async (environment) => {
        for (;;) {
          const input = { environment, people: 6, template: 'shared-office', site: 'TF' };
          const answer = await change(world, 'MHP', 'provision', input);
          if (answer.status !== 409) return answer.status;
        }
      }),
    );
    expect(made).toEqual([201, 201, 201]);
    const rows = await world.app.db.rows<{ kind: string; cidr: string }>(
      "SELECT kind, JSON_VALUE(attributes, '$.cidr') AS cidr FROM resource WHERE site_code = 'TF' AND kind IN ('subnet','network')",
    );
    const cidrs = (kind: string): string[] => rows.filter((row) => row.kind === kind).map((row) => row.cidr);
    expect(new Set(cidrs('subnet')).size).toBe(3);
    expect(cidrs('network')).toHaveLength(1);
    await world.living.untilQuiet();
  });
});
