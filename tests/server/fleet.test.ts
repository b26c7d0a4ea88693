import { NO_DETAILS } from '../../src/contract';
import ipaddr from 'ipaddr.js';
import { DateTime } from 'luxon';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Customer, Environment } from '../../src/contract';
import { fleetCustomers } from '../../src/demo/fleet/customers';
import { makeFleet, seedFleetGround } from '../../src/demo/fleet/make';
import { stretchesOf } from '../../src/demo/fleet/past';
import { SYSTEM } from '../../src/server/access';
import { createCustomer } from '../../src/server/customers';
import { makeCatalogue } from '../../src/server/catalogue';
import { openWorld, START, type World } from './setup/world';

const DAY = 86_400_000;

describe('the customers of the fleet', () => {
  const all = fleetCustomers(500);

  it('are five hundred of 3 to 900 people, most of them small, sixty thousand together', () => {
    const people = all.map((one) => one.people).sort((a, b) => a - b);
    const total = people.reduce((sum, one) => sum + one, 0);
    expect(total).toBeGreaterThan(57_000);
    expect(total).toBeLessThan(63_000);
    const [fewest = 0, most = 0] = [people[0], people.at(-1)];
    expect([fewest >= 3 && fewest < 10, most > 800 && most <= 900]).toEqual([true, true]);
    expect((people[250] ?? 0) / (total / 500)).toBeLessThan(0.6);
    for (const one of all) {
      expect(one.environments.length).toBeGreaterThanOrEqual(1);
      expect(one.environments.length).toBeLessThanOrEqual(4);
      expect(new Set(one.environments.map((each) => each.name)).size).toBe(one.environments.length);
    }
  });

  it('have names and codes of their own, several sites, zones and currencies', () => {
    expect(new Set(all.map((one) => one.code)).size).toBe(500);
    expect(new Set(all.map((one) => one.name)).size).toBe(500);
    expect(all.every((one) => /^[A-Z]{3}$/.test(one.code))).toBe(true);
    for (const of of ['site', 'zone', 'currency', 'plan', 'state'] as const)
      expect(new Set(all.map((one) => one[of])).size).toBeGreaterThan(2);
  });

  it('hold two on a card of which a price has lapsed, and no more', () =>
    expect(all.filter((one) => one.card !== one.currency.toLowerCase()).map((one) => one.card)).toEqual([
      'eur-early',
      'eur-early',
    ]));

  it('are the same each time, however many are made', () => {
    expect(fleetCustomers(500)).toEqual(all);
    expect(fleetCustomers(12)).toEqual(all.slice(0, 12));
  });
});

describe('a past that is metered in one go', () => {
  const zone = 'Europe/London';
  const on = { meter: 'host', state: 'on', size: 's2x8', quantity: 1 } as const;
  const off = { ...on, state: 'off' } as const;
  const disk = { meter: 'disk', state: 'on', size: null, quantity: 128 } as const;
  // Over the end of summer time, and from the middle of a day to the middle of another.
  const past = { from: Date.UTC(2026, 2, 3, 11, 7), to: Date.UTC(2026, 10, 18, 9, 40), zone };

  it('is whole: each meter back to back, from the first instant to the last', () => {
    for (const sleeps of [true, false]) {
      const found = stretchesOf({ ...past, sleeps }, [on, disk], [off, disk]);
      for (const meter of ['host', 'disk']) {
        const mine = found.filter((one) => one.meter === meter);
        expect([mine[0]?.from, mine.at(-1)?.to]).toEqual([past.from, past.to]);
        for (const [n, one] of mine.entries()) {
          if (n > 0) expect(one.from).toBe(mine[n - 1]?.to);
          expect(one.to).toBeGreaterThan(one.from);
        }
      }
    }
  });

  it('is off at night and at weekends where hosts sleep, by the clock on the wall, and on otherwise', () => {
    const found = stretchesOf({ ...past, sleeps: true }, [on, disk], [off, disk]);
    const stateAt = (...when: [number, number, number, number]): string | undefined => {
      const at = DateTime.fromObject(
        { year: when[0], month: when[1], day: when[2], hour: when[3] },
        { zone },
      ).toMillis();
      return found.find((one) => one.meter === 'host' && one.from <= at && at < one.to)?.state;
    };
    expect(stateAt(2026, 11, 17, 12)).toBe('on');
    expect(stateAt(2026, 11, 17, 3)).toBe('off');
    expect(stateAt(2026, 11, 15, 12)).toBe('off');
    // Of long ago only weekends are told apart.
    expect(stateAt(2026, 6, 10, 3)).toBe('on');
    expect(stateAt(2026, 6, 13, 12)).toBe('off');
    const always = stretchesOf({ ...past, sleeps: false }, [on, disk], [off, disk]);
    expect(always.filter((one) => one.meter === 'host')).toEqual([{ ...on, from: past.from, to: past.to }]);
  });
});

describe('the fleet', () => {
  let world: World;
  const made = fleetCustomers(7);
  beforeAll(async () => {
    world = await openWorld('fleet', makeCatalogue(), '-grown');
    const house = {
      ...world,
      engineer: await world.scope('ida'),
      lead: await world.scope('bram'),
      say: () => undefined,
    };
    await seedFleetGround(house, START - 400 * DAY, START);
    await makeFleet(house, made.length, START);
    for (const job of ['sessions', 'summary', 'summary']) await world.living.job(job);
  });
  afterAll(() => world.close());

  it('stands as it is wanted, but for what is meant to be amiss', async () => {
    const amiss: string[] = [];
    let hosts = 0;
    for (const { code, environments } of made) {
      const { body } = await world.call('ida', 'GET', `/customers/${code}/environments?limit=50`);
      const found = body.entries as Environment[];
      expect(found.map((one) => one.name).sort()).toEqual(environments.map((one) => one.name).sort());
      for (const one of found) {
        hosts += one.hosts;
        const { body: drift } = await world.call(
          'ida',
          'GET',
          `/customers/${code}/environments/${one.id}/differences`,
        );
        if ((drift.differences as unknown[]).length > 0) amiss.push(`${code} ${one.name}`);
      }
    }
    expect(hosts).toBeGreaterThan(60);
    // The sixth environment has a host that does not answer.
    const places = made.flatMap(({ code, environments }) => environments.map((one) => `${code} ${one.name}`));
    expect(amiss).toEqual([places[5]]);
  });

  it('has its people in, by their hours, and its months charged', async () => {
    for (const { code, people, card } of made) {
      const customer = (await world.call('ida', 'GET', `/customers/${code}`)).body as unknown as Customer;
      expect(customer.people).toBe(people);
      const { total } = (await world.call('ida', 'GET', `/customers/${code}/costs`)).body;
      expect(total.minor).toBeGreaterThan(0);
      const { attention } = (await world.call('ida', 'GET', `/customers/${code}/summary`)).body;
      expect((attention as { kind: string }[]).some((one) => one.kind === 'money')).toBe(
        card === 'eur-early',
      );
    }
    const sessions = await world.app.db.row<{ n: number }>('SELECT COUNT(*) AS n FROM session');
    const people = made.reduce((sum, one) => sum + one.people, 0);
    expect(Number(sessions?.n) / people).toBeGreaterThan(0.5);
  });

  it('is charged no other than what was lived: an hour of the past costs what its rate says', async () => {
    // Of the customer whose hosts never sleep, or sleep by the wall's clock, each host is metered every second once.
    const rows = await world.app.db.rows<{ ref: string; meter: string; s: string; span: string }>(
      `SELECT ref, meter, SUM(IFNULL(to_at, ?) - from_at) AS s, MAX(IFNULL(to_at, ?)) - MIN(from_at) AS span
       FROM meter_interval GROUP BY ref, meter`,
      [START, START],
    );
    expect(rows.length).toBeGreaterThan(100);
    for (const row of rows)
      expect([row.ref, row.meter, Number(row.s)]).toEqual([row.ref, row.meter, Number(row.span)]);
  });

  it('shows of each range the blocks that lie in it, and no other', async () => {
    const { ranges } = (await world.call('ida', 'GET', '/addresses')).body as unknown as {
      ranges: { site: string; cidr: string; others: number; given: { cidr: string }[] }[];
    };
    const all = await world.app.db.row<{ n: number }>(
      'SELECT COUNT(*) AS n FROM address_block WHERE returned_at IS NULL',
    );
    expect(ranges.filter((one) => one.site === 'KQ')).toHaveLength(2);
    expect(ranges.reduce((sum, one) => sum + one.given.length + one.others, 0)).toBe(all?.n);
    for (const { cidr, given } of ranges)
      for (const block of given)
        expect(ipaddr.parse(block.cidr.split('/')[0] ?? '').match(ipaddr.parseCIDR(cidr))).toBe(true);
  });

  it('keeps its customers apart: each has its own names and addresses, and a mark unlike those of like letters', async () => {
    const names = await world.app.db.rows<{ value: string; n: number }>(
      'SELECT space, value, COUNT(*) AS n FROM allocation GROUP BY space, value HAVING n > 1',
    );
    expect(names).toEqual([]);
    for (const letter of 'ABCDEF')
      await createCustomer(world.app, SYSTEM, {
        ...NO_DETAILS,
        code: `ALK${letter}`,
        name: `Alike ${letter}`,
        plan: 'jetty',
        site: 'KQ',
        zone: 'UTC',
        currency: 'EUR',
        card: 'eur',
        state: 'active',
      });
    const marks = await world.app.db.rows<{ n: number }>(
      `SELECT COUNT(*) AS n FROM customer WHERE kind = 'customer' GROUP BY LEFT(code, 3), mark_shape HAVING n > 1`,
    );
    expect(marks).toEqual([]);
  });
});
