import { monthlyCost, type Rate } from '../../core/rating';
import { priceChanges, type PriceChange } from '../../core/ground';
import { sum, type Money } from '../../core/money';
import type { ProviderPricesView } from '../../contract';
import type { Scope } from '../access';
import type { Connection } from '../db';
import { conflict, notFound, unusable } from '../problem';
import { write, type WriteHouse } from '../write';
import type { ProviderPrices } from './port';
import { providerNamed, toldPrices, allProviders } from './store';

interface Stored {
  readonly provider: string;
  readonly meter: string;
  readonly size: string;
  readonly unit: Rate['unit'];
  readonly price: string;
  readonly currency: string;
  readonly from: number;
  readonly to: number | null;
}

const storedRates = (db: Connection): Promise<Stored[]> =>
  db.rows<Stored>(
    `SELECT provider_code AS provider, meter, size, unit, price, currency, from_at AS \`from\`, to_at AS \`to\`
     FROM provider_rate ORDER BY provider_code, meter, size, from_at`,
  );

const rateOf = ({ meter, size, unit, price, from, to }: Stored): Rate => ({
  meter,
  size: size === '' ? null : size,
  unit,
  price,
  from,
  to,
});

const holds =
  (at: number) =>
  ({ from, to }: Stored): boolean =>
    from <= at && (to === null || at < to);

/** What each provider's things cost us at an instant, by a lead's word; providers of which none was taken over are left out. */
export async function pricesInForce(db: Connection, at: number): Promise<Map<string, ProviderPrices>> {
  return grouped((await storedRates(db)).filter(holds(at)));
}

const grouped = (rows: readonly Stored[]): Map<string, ProviderPrices> =>
  new Map(
    [...new Set(rows.map((row) => row.provider))].map((code) => {
      const own = rows.filter((row) => row.provider === code);
      return [code, { currency: own[0]?.currency ?? '', rates: own.map(rateOf) }];
    }),
  );

/**
 * Takes over what a provider asks: from an instant on it is what its things cost us.
 * @throws Problem 404, 409 when it has told none or nothing is otherwise, 422 beside `from`
 */
export async function takePrices(
  house: WriteHouse,
  scope: Scope,
  code: string,
  wished: number | null,
): Promise<{ taken: number }> {
  const now = Math.floor(house.clock.now() / 1_000) * 1_000;
  const from = Math.floor((wished ?? now) / 1_000) * 1_000;
  if (from < now) throw unusable('from', 'is over: what was paid then was paid');
  return write(house, scope, [], async (tx) => {
    const provider = await providerNamed(tx, code);
    if (!provider) throw notFound('provider');
    const told = (await toldPrices(tx)).get(code);
    if (!told) throw conflict('prices', `${provider.name} has told no prices.`);
    const before = (await storedRates(tx)).filter((row) => row.provider === code);
    const held = before.filter(holds(from)).map(rateOf);
    const changes = priceChanges(held, told.rates).filter((one) => one.kind !== 'price same');
    const isPlanned = before.some((row) => row.from > from);
    if (changes.length === 0 && !isPlanned) throw conflict('prices', 'They are in force already.');
    // What was to hold from later on was said of what was told then.
    await tx.write('DELETE FROM provider_rate WHERE provider_code = ? AND from_at >= ?', [code, from]);
    await tx.write(
      'UPDATE provider_rate SET to_at = ? WHERE provider_code = ? AND (to_at IS NULL OR to_at > ?)',
      [from, code, from],
    );
    for (const { meter, size, unit, price } of told.rates)
      await tx.write(
        `INSERT INTO provider_rate (provider_code, meter, size, unit, price, currency, from_at)
         VALUES (?, ?, ?, ?, ?, ?, ?)`,
        [code, meter, size ?? '', unit, price, told.currency, from],
      );
    await tx.record({
      action: 'take prices over',
      subject: provider.name,
      before: changes.map(({ meter, size, inForce }) => ({ meter, size, price: inForce })),
      after: { from, prices: changes.map(({ meter, size, told: price }) => ({ meter, size, price })) },
      topic: 'ground',
      id: code,
    });
    return { taken: changes.length };
  });
}

/** What stands at a provider of one meter and size, of all customers. */
export interface Standing {
  readonly provider: string;
  readonly meter: string;
  readonly size: string | null;
  readonly quantity: number;
}

/** What each provider's things cost us at all times, by a lead's word. */
export async function ratesOfProviders(db: Connection): Promise<Map<string, ProviderPrices>> {
  return grouped(await storedRates(db));
}

/** What each provider asks beside what is in force, and what the difference is a month for what stands there now. */
export async function pricesView(
  db: Connection,
  standing: readonly Standing[],
  now: number,
): Promise<ProviderPricesView[]> {
  const [providers, told, rows] = [await allProviders(db), await toldPrices(db), await storedRates(db)];
  return providers.map(({ code, name }) => {
    const asked = told.get(code);
    const inForce = rows.filter((row) => row.provider === code && holds(now)(row)).map(rateOf);
    const currency = asked?.currency ?? rows.find((row) => row.provider === code)?.currency ?? '';
    const changes = asked ? priceChanges(inForce, asked.rates) : [];
    const planned = rows.filter((row) => row.provider === code && row.from > now).map((row) => row.from);
    return {
      provider: code,
      name,
      currency,
      toldAtAll: asked !== undefined,
      from: inForce.length === 0 ? null : Math.max(...inForce.map((rate) => rate.from)),
      plannedFrom: planned.length === 0 ? null : Math.min(...planned),
      prices: changes.map((change) => ({ ...change, standing: quantityOf(standing, code, change) })),
      monthly: asked ? dearerBy(inForce, asked, standing, code, now) : null,
    };
  });
}

const quantityOf = (
  standing: readonly Standing[],
  code: string,
  { meter, size }: Pick<PriceChange, 'meter' | 'size'>,
): number =>
  standing
    .filter((one) => one.provider === code && one.meter === meter && one.size === size)
    .reduce((total, one) => total + one.quantity, 0);

/** What the prices that are told cost a month more than those in force; null where none are. */
function dearerBy(
  inForce: readonly Rate[],
  asked: ProviderPrices,
  standing: readonly Standing[],
  code: string,
  now: number,
): Money | null {
  if (inForce.length === 0) return null;
  const needs = standing.filter((one) => one.provider === code);
  const cost = (rates: readonly Rate[]): number =>
    sum(
      monthlyCost(needs, rates, now, asked.currency).lines.map((line) => line.amount),
      asked.currency,
    ).minor;
  return { minor: cost(asked.rates) - cost(inForce), currency: asked.currency };
}
