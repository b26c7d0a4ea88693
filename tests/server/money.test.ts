import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { monthNamed } from '../../src/core/calendar';
import { insertMany } from '../../src/server/db';
import { monthCosts, monthsOf, resourceCharges } from '../../src/server/costs';
import { openWorld, provisionFor, START, type World, notePresent } from './setup/world';

interface Line {
  readonly meter: string;
  readonly size: string | null;
  readonly from: number;
  readonly to: number;
  readonly quantity: number;
  readonly price: string;
  readonly charge: { readonly minor: number };
}

/** Months made of intervals that were put there by hand, so that each charge can be reckoned on paper. */
describe('a customer’s money', () => {
  let world: World;
  let place: { environment: string; customer: string };

  beforeAll(async () => {
    world = await openWorld('money');
    // Reckoned on paper here is what the card says alone.
    await world.app.db.write("UPDATE plan_version SET terms = JSON_SET(terms, '$.fees', JSON_ARRAY())");
    const made = await provisionFor(world, 'MHP', 'tower', 4, 'KQ');
    const scope = await world.inside('MHP');
    place = { environment: made.environment, customer: scope.customer.id };
  });
  afterAll(() => world.close());

  interface Given {
    readonly meter: string;
    readonly size?: string;
    readonly quantity?: number;
    readonly from: number;
    readonly to: number | null;
    readonly state?: 'on' | 'off';
  }

  const give = async (...intervals: readonly Given[]): Promise<void> => {
    await world.app.db.write('DELETE FROM meter_interval WHERE customer_id = ?', [place.customer]);
    await notePresent(
      world,
      place.customer,
      intervals.map((_one, i) => `hand ${i}`),
    );
    await insertMany(
      world.app.db,
      'meter_interval',
      [
        'customer_id',
        'environment_id',
        'pool',
        'provider_code',
        'ref',
        'meter',
        'state',
        'size',
        'quantity',
        'from_at',
        'to_at',
      ],
      intervals.map((one, i) => [
        place.customer,
        place.environment,
        'desks',
        'coast',
        `hand ${i}`,
        one.meter,
        one.state ?? 'on',
        one.size ?? null,
        one.quantity ?? 1,
        one.from,
        one.to,
      ]),
    );
  };
  const costs = async (
    month: string,
  ): Promise<{
    total: { minor: number; currency: string };
    lines: Line[];
    days: { cost: { minor: number } }[];
  }> => {
    const { status, body } = await world.call('petra', 'GET', `/customers/MHP/costs?month=${month}`);
    expect(status).toBe(200);
    return body as never;
  };
  const month = (key: string) => {
    const found = monthNamed(key, 'Europe/London');
    if (!found) throw new Error(key);
    return found;
  };

  it('of a whole month, in pounds: hours × price, GiB, seats', async () => {
    const october = month('2026-10');
    await give(
      { meter: 'host', size: 's2x8', from: october.from, to: october.to },
      { meter: 'disk', quantity: 128, from: october.from, to: october.to },
      { meter: 'share', quantity: 200, from: october.from, to: october.to },
      { meter: 'licence', quantity: 20, from: october.from, to: october.to },
    );
    const { total, lines } = await costs('2026-10');
    // October in London has 745 hours: clocks go back on the 25th (IANA tz). Pound prices: 0.0568, 0.0602, 0.0946, 3.4400.
    expect(Object.fromEntries(lines.map((line) => [line.meter, line.charge.minor]))).toEqual({
      host: Math.round(745 * 5.68),
      disk: Math.round(128 * 6.02),
      share: Math.round(200 * 9.46),
      licence: 20 * 344,
    });
    expect(lines.find((line) => line.meter === 'host')?.quantity).toBe(745);
    expect(total).toEqual({ minor: 4_232 + 771 + 1_892 + 6_880, currency: 'GBP' });
  });

  it('uses each price from its date on, in lines of its own', async () => {
    // The price of this size changes 40 days before the scenario's today.
    const change = START - 40 * 86_400_000;
    const october = month('2026-10');
    await give({ meter: 'host', size: 's4x16', from: october.from, to: october.to });
    const { lines } = await costs('2026-10');
    expect(lines.map((line) => [line.price, line.from, line.to])).toEqual([
      ['0.110100', october.from, change],
      ['0.113500', change, october.to],
    ]);
    const hours = (from: number, to: number): number => (to - from) / 3_600_000;
    expect(lines.map((line) => line.charge.minor)).toEqual([
      Math.round(hours(october.from, change) * 11.01),
      Math.round(hours(change, october.to) * 11.35),
    ]);
  });

  it('counts what began before the month and goes on after it only within the month', async () => {
    const september = month('2026-09');
    await give({ meter: 'disk', quantity: 100, from: september.from - 40 * 86_400_000, to: null });
    expect((await costs('2026-09')).lines[0]).toMatchObject({
      quantity: 100,
      from: september.from,
      to: september.to,
    });
  });

  it('has days, and a proof’s last charges, that add up to the month to the cent', async () => {
    const october = month('2026-10');
    const day = 86_400_000;
    await give(
      { meter: 'host', size: 's8x32', from: october.from + 5 * day, to: october.to },
      { meter: 'host', size: 's2x8', from: october.from + 7 * day + 12_345_000, to: october.from + 19 * day },
      { meter: 'disk', quantity: 77, from: october.from + 3 * day, to: october.to },
    );
    const { days, total } = await costs('2026-10');
    expect(days).toHaveLength(31);
    expect(days.slice(0, 3).every((one) => one.cost.minor === 0)).toBe(true);
    expect(days.reduce((all, one) => all + one.cost.minor, 0)).toBe(total.minor);
    const { byRef, total: last } = await resourceCharges(
      world.app,
      await world.inside('MHP'),
      place.environment,
      october,
    );
    expect(last.minor).toBe(total.minor);
    expect([...byRef.values()].reduce((all, one) => all + one.minor, 0)).toBe(total.minor);
    expect(byRef.size).toBe(3);
  });

  it('is in a currency of ISO 4217, or there is no card', async () => {
    const make = (currency: string) =>
      world.call('bram', 'POST', '/cards', {
        body: { code: `card-${currency.toLowerCase()}`, name: 'Another', currency },
      });
    const unknown = await make('QQQ');
    expect([unknown.status, unknown.body.fields]).toEqual([
      422,
      { currency: 'is not a currency of ISO 4217' },
    ]);
    expect((await make('IQD')).status).toBe(201);
  });

  it('forecasts a month’s price for this month, though the days before were of a longer one', async () => {
    // It is 24 November; a disk has stood since September: its month costs what a month costs.
    await give({ meter: 'disk', quantity: 1_000, from: month('2026-09').from, to: null });
    const { body } = await world.call('petra', 'GET', '/customers/MHP/costs');
    const { total: october } = await costs('2026-10');
    const forecast = (body.forecast as { minor: number }).minor;
    expect(Math.abs(forecast - october.minor)).toBeLessThanOrEqual(2);
  });

  it('charges nothing for what has no rate, and says so where someone looks', async () => {
    await give({ meter: 'host', size: 's99', from: START - 3_600_000, to: null });
    const { body } = await world.call('petra', 'GET', '/customers/MHP/costs');
    expect(body).toMatchObject({ unpriced: 1, total: { minor: 0 } });
    await world.app.db.write('UPDATE summary SET stale = TRUE');
    await world.living.job('summary');
    const watched = (await world.call('ida', 'GET', '/watch')).body.customers as {
      code: string;
      attention: { says: string }[];
    }[];
    expect(watched.find((one) => one.code === 'MHP')?.attention).toContainEqual({
      kind: 'money',
      says: '1 kind of usage without a rate',
    });
  });

  it('offers the months in which there was anything, the newest first', async () => {
    await give({ meter: 'disk', quantity: 1, from: month('2026-08').from + 1_000, to: null });
    expect(await monthsOf(world.app, await world.inside('MHP'))).toEqual([
      '2026-11',
      '2026-10',
      '2026-09',
      '2026-08',
    ]);
    expect(await monthsOf(world.app, await world.inside('HSB'))).toEqual(['2026-11']);
  });

  it('of a month to come is nothing', async () => {
    const { total, lines, days } = await costs('2027-03');
    expect([total.minor, lines, days]).toEqual([0, [], []]);
  });

  it('forecasts a month that runs evenly as what it will be', async () => {
    const november = month('2026-11');
    await give({ meter: 'licence', quantity: 30, from: november.from - 60 * 86_400_000, to: null });
    const { total, forecast } = await monthCosts(
      world.app,
      world.app.db,
      await world.inside('MHP'),
      '2026-11',
    );
    expect(total.minor).toBeGreaterThan(5_000);
    // Thirty seats at 3.44 for the whole month; the days of October that it learns from are a thirtieth shorter in price.
    expect(forecast.minor).toBeGreaterThan(30 * 344 * 0.97);
    expect(forecast.minor).toBeLessThan(30 * 344 * 1.03);
  });

  it('exports what it shows, as exact decimals', async () => {
    const { text } = await world.call('petra', 'GET', '/customers/MHP/charges.csv?month=2026-10');
    const [, ...rows] = text.trim().split('\r\n');
    const { lines } = await costs('2026-10');
    expect(rows.map((row) => row.split(',')[11])).toEqual(
      lines.map((line) => (line.charge.minor / 100).toFixed(2)),
    );
    expect(rows.every((row) => row.endsWith(',GBP') && row.startsWith('MHP,2026-10,tower,desks,'))).toBe(
      true,
    );
  });
});
