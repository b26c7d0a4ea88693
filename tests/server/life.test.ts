import { strFromU8, unzipSync } from 'fflate';
import { parse } from 'yaml';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Host, Life } from '../../src/contract';
import type { Retained } from '../../src/contract';
import { begin, openWorld, provisionFor, type Called, type World } from './setup/world';

const HOUR = 3_600_000;

/** A customer who pauses, comes back, and leaves for good. */
describe('a customer’s life', () => {
  let world: World;
  let environments: string[] = [];
  let told = 0;
  beforeAll(async () => {
    world = await openWorld('life');
    const near = await provisionFor(world, 'SVG', 'clinic', 6, 'KQ');
    const far = await provisionFor(world, 'SVG', 'branch', 4, 'NL');
    await provisionFor(world, 'FPS', 'clinic', 4, 'KQ');
    environments = [near.environment, far.environment];
    // One host is off before anybody thinks of pausing.
    const [first] = await hostsOf(environments[0] ?? '');
    await begin(world, 'SVG', 'power-off', { hosts: [first?.id] }, { environment: environments[0] ?? '' });
    await settle();
  });
  afterAll(() => world.close());

  const settle = async (): Promise<void> => {
    await world.living.job('overrides');
    await world.living.untilQuiet();
    for (const job of ['feed', 'sessions'] as const) await world.living.job(job);
  };
  const hostsOf = async (environment: string) =>
    (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/hosts`)).body
      .entries as readonly Pick<Host, 'id' | 'name' | 'status' | 'overrides'>[];
  const statuses = async (): Promise<string[]> =>
    (await Promise.all(environments.map(hostsOf))).flatMap((hosts) =>
      hosts.map(({ name, status }) => `${name} ${status}`).sort(),
    );
  const life = async (): Promise<Life> =>
    (await world.call('ida', 'GET', '/customers/SVG/life')).body as unknown as Life;
  const post = (what: string, body: object, who: 'ida' | 'bram' = 'ida'): Promise<Called> =>
    world.call(who, 'POST', `/customers/SVG/${what}`, { body });
  const stateOf = async (): Promise<string> => (await life()).state;

  it('tells what pausing would save, and what goes on', async () => {
    const { now, paused, environments: shown, retentionDays } = await life();
    // What goes on is disks, shares, licences and the plan: 390 of it.
    expect(paused.minor).toBeGreaterThan(39_000);
    expect(now.minor - paused.minor).toBeGreaterThan(10_000);
    expect(retentionDays).toBe(365);
    expect(shown.map(({ name, on, hosts }) => [name, hosts - on])).toEqual([
      ['clinic', 1],
      ['branch', 0],
    ]);
  });

  it('is not turned by a code that is not theirs, nor by who may not', async () => {
    for (const what of ['pause', 'leave']) {
      const { status, body } = await post(what, { code: 'FPS' }, 'bram');
      expect([what, status, body.fields]).toEqual([what, 422, { code: 'type SVG' }]);
    }
    expect((await post('leave', { code: 'SVG' })).status).toBe(403);
    expect((await post('start', {})).body.detail).toBe('SVG is active, and is not started.');
    expect(await stateOf()).toBe('active');
  });

  it('is paused: all its hosts go off in every environment, and nobody else’s', async () => {
    const { status, body } = await post('pause', { code: 'SVG', reason: 'summer', minutes: 0 });
    expect([status, body]).toEqual([201, { state: 'paused' }]);
    await settle();
    expect((await statuses()).every((one) => one.endsWith(' off'))).toBe(true);
    const other = await world.port().resources({ customer: 'FPS' });
    expect(other.filter((one) => one.kind === 'host').every((one) => one.state === 'on')).toBe(true);
    const { now, paused } = await life();
    expect(now).toEqual(paused);
    // Paused again, there is nothing left to do, and what was off before is still known.
    const runs = async (): Promise<number> =>
      (await world.call('ida', 'GET', '/customers/SVG/runs')).body.entries.length;
    const before = await runs();
    expect((await post('pause', { code: 'SVG' })).body).toEqual({ state: 'paused' });
    await settle();
    expect(await runs()).toBe(before);
    const { entries } = (await world.call('ida', 'GET', '/customers/SVG/trail?find=pause')).body;
    expect(entries).toMatchObject([{ action: 'pause customer', reason: 'summer' }]);
  });

  it('leaves on what is set by hand, and says so, until that is removed', async () => {
    const [, branch = ''] = environments;
    const hosts = (await hostsOf(branch)).map(({ id }) => id);
    await begin(world, 'SVG', 'power-on', { hosts }, { environment: branch });
    await settle();
    const shown = await hostsOf(branch);
    expect(shown.map(({ status }) => status)).toEqual(hosts.map(() => 'serving'));
    expect(shown[0]?.overrides).toMatchObject([
      { cause: 'by hand', attribute: 'power', wants: 'on', by: 'Ida Quist' },
      { cause: 'customer paused', attribute: 'power', wants: 'off' },
    ]);
    await begin(world, 'SVG', 'power-off', { hosts }, { environment: branch });
    await settle();
    expect((await statuses()).every((one) => one.endsWith(' off'))).toBe(true);
    expect((await hostsOf(branch))[0]?.overrides).toMatchObject([{ cause: 'customer paused', wants: 'off' }]);
  });

  it('has a new environment made off while it is paused, and on once it is started', async () => {
    const made = await provisionFor(world, 'SVG', 'annex', 4, 'KQ');
    await settle();
    const hosts = await hostsOf(made.environment);
    expect(hosts.length).toBeGreaterThan(0);
    expect(hosts.every(({ status }) => status === 'off')).toBe(true);
    await begin(world, 'SVG', 'retire', {}, { environment: made.environment });
    await settle();
  });

  it('says what it costs once it is started again: what was off before stays off', async () => {
    const { now, started } = await life();
    expect(started.minor).toBeGreaterThan(now.minor + 10_000);
    told = started.minor;
  });

  it('costs while it is paused what was told', async () => {
    const { paused } = await life();
    const costs = async (): Promise<number> =>
      (await world.call('petra', 'GET', '/customers/SVG/costs')).body.total.minor;
    await world.living.moveTo(world.clock.at + 60_000);
    const before = await costs();
    await world.living.moveTo(world.clock.at + 24 * HOUR);
    const day = (await costs()) - before;
    // A day is a thirtieth of November.
    expect(Math.abs(day - paused.minor / 30)).toBeLessThan(6);
  });

  it('is started again as it was: who was off before stays off', async () => {
    expect((await post('start', { reason: 'autumn' })).body.state).toBe('active');
    await settle();
    expect((await life()).now.minor).toBe(told);
    const now = await statuses();
    expect(now.filter((one) => one.endsWith(' off'))).toHaveLength(1);
    expect(now.filter((one) => one.endsWith(' serving')).length).toBe(now.length - 1);
  });

  it('is again after a pause what it was before: a trial stays one', async () => {
    const on = (what: string, body: object): Promise<Called> =>
      world.call('ida', 'POST', `/customers/QFB/${what}`, { body });
    expect((await on('pause', { code: 'QFB' })).body).toEqual({ state: 'paused' });
    // Paused twice, it still knows what it was.
    await on('pause', { code: 'QFB' });
    expect((await on('start', {})).body).toEqual({ state: 'trial' });
  });

  it('of two who turn it at the same moment obeys one: who leaves is not only paused', async () => {
    const on = (who: 'ida' | 'bram', what: string): Promise<Called> =>
      world.call(who, 'POST', `/customers/APT/${what}`, { body: { code: 'APT' } });
    const said = await Promise.all([on('ida', 'pause'), on('bram', 'leave')]);
    expect([201, 409]).toContain(said[0].status);
    expect(said[1].status).toBe(201);
    const { body } = await world.call('ida', 'GET', '/customers/APT/life');
    expect(body.state).toBe('leaving');
  });

  it('is paused also where a provider does not answer: its hosts follow when it does', async () => {
    await world.living.faults([{ kind: 'refuse' }], 'northern');
    expect((await post('pause', { code: 'SVG', minutes: 0 })).status).toBe(201);
    await world.living.job('overrides');
    await world.living.faults([], 'northern');
    await settle();
    expect((await statuses()).every((one) => one.endsWith(' off'))).toBe(true);
    expect((await post('start', {})).status).toBe(201);
    await settle();
    expect((await statuses()).filter((one) => one.endsWith(' off'))).toHaveLength(1);
  });

  it('is asked for once where it is sent twice with one key', async () => {
    const key = 'pause-once-and-no-more';
    const send = (): Promise<Called> =>
      world.call('ida', 'POST', '/customers/SVG/pause', {
        body: { code: 'SVG', minutes: 0 },
        headers: { 'idempotency-key': key },
      });
    const said = await Promise.all([send(), send()]);
    expect(said.map(({ status }) => status)).toEqual([201, 201]);
    const { entries } = (await world.call('ida', 'GET', '/customers/SVG/trail?find=pause')).body;
    const lines = (entries as readonly { at: number }[]).length;
    await send();
    const again = (await world.call('ida', 'GET', '/customers/SVG/trail?find=pause')).body.entries;
    expect((again as unknown[]).length).toBe(lines);
    await settle();
    await post('start', {});
    await settle();
  });

  it('leaves: everything is retired at both providers, given back, and paid for no longer', async () => {
    await world.app.db.write(
      "INSERT INTO directory_link (customer_id, secret_sealed, units, groups_in) SELECT id, 'x', '[]', '[]' FROM customer WHERE code = 'SVG'",
    );
    const { status, body } = await post('leave', { code: 'SVG', reason: 'moved away' }, 'bram');
    expect([status, body.state]).toEqual([201, 'leaving']);
    const over = await world.call('bram', 'GET', `/parent-runs/${String(body.run)}`);
    expect([over.body.title, over.body.parts, over.body.state]).toEqual(['Offboard SVG', 2, 'running']);
    expect((await life()).leaving?.run).toBe(body.run);
    const input = { environment: 'new', template: 'shared-office', site: 'KQ', people: 4 };
    const more = await world.call('ida', 'POST', '/customers/SVG/changes/provision/proposal', {
      body: { input },
    });
    const { checks } = more.body.proposal as unknown as { checks: { key: string; state: string }[] };
    expect(checks.find((one) => one.key === 'customer')?.state).toBe('blocks');
    await settle();
    await world.living.job('leaving');
    const { state, retiredAt } = await life();
    expect(state).toBe('retired');
    expect(retiredAt).toBe(Math.floor(world.clock.at / 1_000) * 1_000);
    // What people kept stays, as the plan promises, until somebody deletes it before its day.
    const kept = (await world.call('ida', 'GET', '/customers/SVG/retained')).body.entries as Retained[];
    expect(new Set(kept.map(({ kind }) => kind))).toEqual(new Set(['share']));
    for (const { id, environmentId } of kept)
      await begin(world, 'SVG', 'drop-retained', { retained: [id] }, { environment: environmentId });
    await settle();
    for (const provider of ['coast', 'northern'] as const)
      expect(await world.port(provider).resources({ customer: 'SVG' })).toEqual([]);
    const held = await world.app.db.row<{ n: number }>(
      `SELECT (SELECT COUNT(*) FROM address_block b JOIN customer c ON c.id = b.customer_id
               WHERE c.code = 'SVG' AND b.returned_at IS NULL)
            + (SELECT COUNT(*) FROM allocation a JOIN customer c ON c.id = a.customer_id WHERE c.code = 'SVG')
            + (SELECT COUNT(*) FROM meter_interval m JOIN customer c ON c.id = m.customer_id
               WHERE c.code = 'SVG' AND m.to_at IS NULL)
            + (SELECT COUNT(*) FROM directory_link d JOIN customer c ON c.id = d.customer_id WHERE c.code = 'SVG') AS n`,
    );
    expect(held?.n).toBe(0);
    const costs = async (): Promise<number> =>
      (await world.call('petra', 'GET', '/customers/SVG/costs')).body.total.minor;
    const last = await costs();
    await world.living.moveTo(world.clock.at + 48 * HOUR);
    expect(await costs()).toBe(last);
    expect((await post('leave', { code: 'SVG' }, 'bram')).status).toBe(409);
  });

  it('is handed over as open files, with the proof of each environment', async () => {
    const response = await world.api.answer(
      new Request('http://laager.test/api/v1/customers/SVG/archive.zip', {
        headers: { authorization: `Bearer ${world.tokens.ida}` },
      }),
    );
    expect([response.status, response.headers.get('content-type')]).toEqual([200, 'application/zip']);
    const files = unzipSync(new Uint8Array(await response.arrayBuffer()));
    const names = Object.keys(files).sort();
    expect(names).toEqual([
      'about.yaml',
      'charges/2026-11.csv',
      'people.csv',
      expect.stringMatching(/^proofs\/annex-/),
      expect.stringMatching(/^proofs\/branch-/),
      expect.stringMatching(/^proofs\/clinic-/),
      'read-me.txt',
      'trail.csv',
    ]);
    const text = (name: string): string => strFromU8(files[name] ?? new Uint8Array());
    expect(parse(text('about.yaml'))).toMatchObject({ customers: [{ code: 'SVG', state: 'retired' }] });
    expect(text('people.csv').split('\r\n')).toHaveLength(96 + 2);
    expect(text('trail.csv')).toContain('let customer go');
    for (const proof of names.filter((one) => one.startsWith('proofs/')))
      expect(JSON.parse(text(proof))).toMatchObject({ clean: true });
    for (const name of names) expect(text(name)).not.toMatch(/FPS|Ferrow/);
    for (const who of ['jonah', 'runa', 'petra'] as const) {
      const foreign = await world.call(
        who,
        'GET',
        `/customers/${who === 'jonah' ? 'MHP' : 'SVG'}/archive.zip`,
      );
      expect([who, foreign.status]).toEqual([who, who === 'jonah' ? 404 : 403]);
    }
    const trail = await world.call('bram', 'GET', '/customers/SVG/trail?find=download file');
    expect(trail.body.entries).toMatchObject([{ subject: 'SVG.zip' }]);
  });

  it('lets its addresses go to whoever comes next', async () => {
    const made = await provisionFor(world, 'HSB', 'seeds', 4, 'KQ');
    expect(made.environment).toBeTruthy();
    const { ranges } = (await world.call('bram', 'GET', '/addresses')).body as unknown as {
      ranges: { site: string; given: { customer: string; cidr: string }[] }[];
    };
    const given = ranges.find((one) => one.site === 'KQ')?.given ?? [];
    expect(given.find((one) => one.customer === 'HSB')?.cidr).toBe('10.16.0.0/20');
    expect(given.some((one) => one.customer === 'SVG')).toBe(false);
  });

  it('is given nothing more to keep: it would outlast what was promised', async () => {
    const about = (await world.call('ida', 'GET', '/customers/SVG/about')).body as unknown as Record<
      string,
      unknown
    >;
    const {
      code: _code,
      state: _state,
      plan: _plan,
      site: _site,
      currency: _c,
      card: _card,
      ...details
    } = about;
    const tries: [string, Called][] = [
      [
        'about',
        await world.call('ida', 'PUT', '/customers/SVG/about', {
          body: { ...details, tags: { late: 'yes' } },
        }),
      ],
      [
        'people',
        await world.call('ida', 'POST', '/customers/SVG/people/import?keep=all', {
          csv: 'account,given,family,mail\nlate.one,Late,One,late@svg.example\n',
        }),
      ],
      ['work', await world.call('ida', 'PUT', '/customers/SVG/profiles', { body: { needs: [] } })],
      [
        'secret',
        await world.call('ida', 'PUT', '/customers/SVG/recipe-secrets/key', { body: { secret: 'x' } }),
      ],
      [
        'template',
        await world.call('ida', 'PUT', '/templates/of-svg/draft', {
          body: { text: 'x', owner: 'SVG', before: 0 },
        }),
      ],
    ];
    for (const [what, { status, body }] of tries)
      expect([what, status, body.detail]).toEqual([what, 409, 'SVG has left: nothing more is kept.']);
  });

  it('has its people and details deleted when they were kept as long as its plan promised, and no sooner', async () => {
    const { retiredAt } = await life();
    // As if it had been sold with twelve days: whoever asks is not signed in for a year.
    await world.app.db.write(
      "UPDATE plan_version SET terms = JSON_SET(terms, '$.retentionDays', 12) WHERE plan_code = 'harbour'",
    );
    const until = (retiredAt ?? 0) + 12 * 24 * HOUR;
    const peopleOf = async (code: string): Promise<number> =>
      ((await world.call('ida', 'GET', `/customers/${code}/people?limit=1000`)).body.entries as unknown[])
        .length;
    const others = await peopleOf('FPS');
    // What was said of their work, and who measured it where.
    await world.app.db.write(
      `INSERT INTO profile_need (customer_id, profile, people_per_vcpu, memory_gib, disk_operations, graphics_gib, source)
       SELECT id, 'light', 5, 1, 6, 0, 'said by someone of theirs' FROM customer WHERE code IN ('SVG', 'FPS')`,
    );
    const said = async (): Promise<unknown> =>
      world.app.db.rows(
        'SELECT c.code FROM profile_need n JOIN customer c ON c.id = n.customer_id ORDER BY c.code',
      );
    const costs = async () =>
      (await world.call('petra', 'GET', '/customers/SVG/costs?month=2026-11')).body.total;
    const charged = await costs();
    world.clock.at = until - 1;
    await world.living.job('retention');
    expect([await peopleOf('SVG'), (await life()).deletedAt]).toEqual([96, null]);
    world.clock.at = until;
    for (let time = 1; time <= 2; time++) await world.living.job('retention');
    expect([await peopleOf('SVG'), (await life()).deletedAt]).toEqual([0, until]);
    expect(await said()).toEqual([{ code: 'FPS' }]);
    const about = (await world.call('ida', 'GET', '/customers/SVG/about')).body;
    expect(about).toMatchObject({ code: 'SVG', contacts: [], tags: {}, administrator: '' });
    expect(await costs()).toEqual(charged);
    expect(await peopleOf('FPS')).toBe(others);
    const { body } = await world.call('ida', 'GET', '/customers/SVG/trail?find=delete');
    expect((body.entries as { action: string }[]).filter((one) => one.action === 'delete data')).toHaveLength(
      1,
    );
  });
});
