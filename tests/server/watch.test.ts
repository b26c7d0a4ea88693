import { NO_DETAILS, type Look } from '../../src/contract';
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { health } from '../../src/server/pages';
import { openDemoClock, writeClock } from '../../src/demo/clock';
import { demoRoutes } from '../../src/demo/routes';
import { apiOf } from '../../src/server/api';
import { SYSTEM } from '../../src/server/access';
import { createCustomer, setCustomerState } from '../../src/server/customers';
import { fleetCustomers } from '../../src/demo/fleet/customers';
import { takeSummaries, watchAtFirst } from '../../src/server/watch';
import { peopleOf } from '../../src/demo/people';
import { presence } from '../../src/standins/provider/crowd';
import { openWorld, provisionFor, START, type World } from './setup/world';

interface Summary {
  readonly code: string;
  readonly hosts: number;
  readonly peopleIn: number;
  readonly seats: number;
  readonly seatsFree: number;
  readonly arcs: readonly { hosts: number; fill: number }[];
  readonly soFar: { readonly minor: number };
}

describe('watch', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('watching');
  });
  afterAll(() => world.close());

  const summaries = async (who: 'ida' | 'jonah' = 'ida'): Promise<Summary[]> =>
    (await world.call(who, 'GET', '/watch')).body.customers as Summary[];
  const summaryOf = async (code: string): Promise<Summary | undefined> =>
    (await summaries()).find((one) => one.code === code);

  it('shows customers that have nothing as having nothing', async () => {
    await world.living.job('summary');
    const all = await summaries();
    expect(all).toHaveLength(8);
    expect(all.every((one) => one.hosts === 0 && one.soFar.minor === 0 && one.arcs.length === 0)).toBe(true);
  });

  it('shows what the environment pages show', async () => {
    const made = await provisionFor(world, 'MHP', 'watch', 20, 'KQ');
    await world.living.moveTo(START + 3_600_000);
    await world.living.job('sessions');
    await world.living.job('summary');
    const environment = (await world.call('ida', 'GET', `/customers/MHP/environments/${made.environment}`))
      .body;
    const costs = (await world.call('ida', 'GET', '/customers/MHP/costs')).body;
    const summary = await summaryOf('MHP');
    expect(summary).toMatchObject({
      hosts: environment.hosts,
      peopleIn: environment.peopleIn,
      seatsFree: environment.seatsOpen,
    });
    expect(summary?.soFar).toEqual(costs.total);
    expect(summary?.arcs.reduce((sum, arc) => sum + arc.hosts, 0)).toBe(environment.hosts);
  });

  it('counts someone who is in on two desktops once', async () => {
    await provisionFor(world, 'MHP', 'second', 20, 'KQ');
    await world.living.moveTo(world.clock.at + 600_000);
    await world.living.job('sessions');
    await world.living.job('summary');
    const sessions = (await world.call('ida', 'GET', '/customers/MHP/sessions?limit=500')).body.entries as {
      account: string;
    }[];
    const people = new Set(sessions.map((one) => one.account)).size;
    expect(sessions.length).toBeGreaterThan(people);
    expect((await summaryOf('MHP'))?.peopleIn).toBe(people);
  });

  it('takes a summary again when something has changed, and not before', async () => {
    await takeSummaries(world.app);
    expect(await takeSummaries(world.app)).toBe(0);
    await world.app.db.write(
      "UPDATE summary t JOIN customer c ON c.id = t.customer_id SET t.stale = TRUE WHERE c.code = 'SVG'",
    );
    expect(await takeSummaries(world.app)).toBe(1);
  });

  it('leaves out a customer that is retired, and has the change of state on the trail', async () => {
    const scope = await world.inside('APT');
    for (let i = 0; i < 2; i++) await setCustomerState(world.app, scope, 'retired');
    expect(await summaryOf('APT')).toBeUndefined();
    const { entries } = (await world.call('ida', 'GET', '/customers/APT/trail')).body;
    expect((entries as { action: string }[]).filter((one) => one.action === 'change state')).toHaveLength(1);
    expect(entries[0]).toMatchObject({ before: { state: 'active' }, after: { state: 'retired' } });
  });

  it('reads as fast as ever with many customers: its queries do not grow with them', async () => {
    // Those of this server alone: the database serves other tests at the same time. Each question takes a connection.
    const counted = async (): Promise<number> => {
      const asked = vi.spyOn(world.app.db.pool, 'getConnection');
      await world.call('ida', 'GET', '/watch');
      const questions = asked.mock.calls.length;
      asked.mockRestore();
      return questions;
    };
    const few = await counted();
    for (const { code, name, plan, zone } of fleetCustomers(70))
      await createCustomer(world.app, SYSTEM, {
        ...NO_DETAILS,
        code,
        name,
        plan: plan === 'breakwater' ? 'harbour' : plan,
        site: 'KQ',
        zone,
        currency: 'EUR',
        card: 'eur',
        state: 'active',
      });
    await world.living.job('summary');
    expect(await summaries()).toHaveLength(77);
    expect(few).toBeGreaterThan(1);
    expect(await counted()).toBe(few);
  });

  it('comes with a page as the first of many, those that need a look before the others, and how many there are', async () => {
    const { app } = world;
    const now = app.clock.now();
    const [late] = await app.db.rows<{ id: string; code: string }>(
      "SELECT id, code FROM customer WHERE kind = 'customer' AND state <> 'retired' ORDER BY code DESC LIMIT 1",
    );
    await app.db.write('UPDATE summary SET attention = ? WHERE customer_id = ?', [
      JSON.stringify([{ kind: 'drift', says: 'out' }]),
      late?.id ?? '',
    ]);
    const ida = await world.scope('ida');
    const byCode = await watchAtFirst(app.db, ida, now);
    const needy = await watchAtFirst(app.db, ida, now, true);
    expect([byCode.count, needy.count]).toEqual([77, 77]);
    const codes = byCode.initial.customers.map((one) => one.code);
    expect(codes).toHaveLength(14);
    expect(codes).toEqual([...codes].sort());
    expect(codes).not.toContain(late?.code);
    expect(needy.initial.customers[0]?.code).toBe(late?.code);
    // Whoever reaches few gets all of those few, and no others.
    const jonah = await watchAtFirst(app.db, await world.scope('jonah'), now, true);
    expect([jonah.count, jonah.initial.customers.map((one) => one.code)]).toEqual([2, ['FPS', 'SVG']]);
  });

  it('pages customers by code, and finds by name or code', async () => {
    const codes: string[] = [];
    for (let after = ''; ;) {
      const { body } = await world.call(
        'ida',
        'GET',
        `/customers?limit=7${after === '' ? '' : `&after=${after}`}`,
      );
      codes.push(...(body.entries as { code: string }[]).map((one) => one.code));
      if (typeof body.next !== 'string') break;
      after = body.next;
    }
    expect(codes).toEqual([...codes].sort());
    expect(new Set(codes).size).toBe(78);
    const found = (await world.call('ida', 'GET', '/customers?find=bindery')).body.entries as {
      code: string;
    }[];
    expect(found.map((one) => one.code)).toEqual(['QFB']);
  });

  it('says of each part whether it works, and names no secret', async () => {
    for (const job of ['feed', 'ground', 'summary']) await world.living.job(job);
    const fine = await health(world.app);
    expect(fine).toMatchObject({
      works: true,
      parts: { database: { works: true }, worker: { works: true }, provider: { works: true } },
    });
    const late = await health({
      ...world.app,
      clock: { ...world.app.clock, wall: () => world.clock.at + 60_000 },
    });
    expect(late).toMatchObject({
      works: false,
      parts: { worker: { works: false, says: 'has not been seen for a while' } },
    });
    await world.app.db.write(
      "UPDATE provider SET sign_in_works = FALSE, sign_in_says = 'account or secret is wrong' WHERE code = 'coast'",
    );
    // A provider that lets us in, but has not answered for a while, is not well.
    const silent = await health({
      ...world.app,
      clock: { ...world.app.clock, wall: () => world.clock.at + 8_000 },
    });
    expect(silent.parts.provider).toMatchObject({ works: false });
    expect(silent.parts.provider?.says).toContain('has not answered for a while');
    const shut = await health(world.app);
    expect(shut.parts.provider).toEqual({ works: false, says: 'account or secret is wrong' });
    const { looks } = (await world.call('ida', 'GET', '/watch')).body;
    expect((looks as Look[])[0]).toMatchObject({
      says: 'Coast Compute: account or secret is wrong',
      customer: null,
      href: '/ground',
    });
  });

  it('tells the demo’s time in every process from one setting', async () => {
    const clock = await openDemoClock(world.app.db);
    await writeClock(world.app.db, { shownAt: START, wallAt: Date.now(), speed: 0 });
    await clock.refresh();
    expect(clock.setting()).toMatchObject({ shownAt: START, speed: 0 });
    const api = apiOf({ ...world.app, clock }, demoRoutes(clock));
    const put = async (who: 'ida' | 'petra', body: object): Promise<{ status: number; body: unknown }> => {
      const response = await api.answer(
        new Request('http://laager.test/api/v1/clock', {
          method: 'PUT',
          headers: { authorization: `Bearer ${world.tokens[who]}`, 'content-type': 'application/json' },
          body: JSON.stringify(body),
        }),
      );
      return { status: response.status, body: await response.json() };
    };
    const set = await put('ida', { speed: 60, stepMs: 3_600_000 });
    expect(set.body).toMatchObject({ demo: true, speed: 60 });
    const other = await openDemoClock(world.app.db);
    expect(other.now()).toBeGreaterThanOrEqual(START + 3_600_000);
    expect((await put('ida', { speed: 7 })).status).toBe(422);
    // A step leaves the speed as it is.
    expect((await put('ida', { stepMs: 60_000 })).body).toMatchObject({ speed: 60 });
    expect((await put('ida', { speed: 60, stepMs: -1 })).status).toBe(422);
    expect((await put('petra', { speed: 60 })).status).toBe(403);
    clock.stop();
    other.stop();
  });
});

describe('the simulated crowd', () => {
  const hour = (day: number, hours: number): number => Date.UTC(2026, 10, day, 0) + hours * 3_600_000;
  const inAt = (code: string, people: number, at: number): number =>
    peopleOf(code, people).filter((one) => presence(code, one.account, at)).length;

  it('has pilots at every hour of every day', () => {
    for (let day = 16; day < 23; day++)
      for (let h = 0; h < 24; h += 2) expect(inAt('MHP', 42, hour(day, h))).toBeGreaterThan(2);
  });

  it('has vets in the morning rather than at night, and surveyors not at weekends', () => {
    expect(inAt('SVG', 96, hour(18, 9.5))).toBeGreaterThan(55);
    expect(inAt('SVG', 96, hour(18, 9.5))).toBeGreaterThan(inAt('SVG', 96, hour(18, 16)));
    expect(inAt('SVG', 96, hour(18, 2))).toBe(0);
    expect(inAt('FPS', 28, hour(21, 11))).toBe(0);
  });

  it('answers the same question alike', () => {
    const [person] = peopleOf('SVG', 1);
    const account = person?.account ?? '';
    expect(presence('SVG', account, hour(18, 9))).toEqual(presence('SVG', account, hour(18, 9)));
  });

  it('has accounts that are unique within a customer, also of eight hundred', () => {
    const accounts = peopleOf('CAO', 800).map((one) => one.account);
    expect(new Set(accounts).size).toBe(800);
  });
});
