import { nothing, share, sum, type Money } from '../money';
import type { Meter } from './rates';

/** By what a pool's cost is one person's: a licence seat, a desktop of their own, or the time that they were in. */
export const PERSON_KEYS = ['licence', 'desktop', 'time'] as const;
export type PersonKey = (typeof PERSON_KEYS)[number];

/** A pool's month, and by what it is shared out. People are told by one name each, whichever it is. */
export interface PoolMonth {
  readonly pool: string;
  readonly isPersonal: boolean;
  readonly lines: readonly { readonly meter: Meter; readonly charge: Money }[];
  /** Who has a licence seat of it now. */
  readonly seats: readonly string[];
  /** Of a pool where everyone has a desktop of their own: what each desktop weighs; of nobody's yet under ''. */
  readonly owned: ReadonlyMap<string, number>;
  /** Seconds that each was in, within the month. */
  readonly time: ReadonlyMap<string, number>;
}

/** A person's part of a pool's month. */
export interface PersonPart {
  readonly pool: string;
  readonly by: PersonKey;
  readonly charge: Money;
  /** Of how much it is a part, and by which weights: theirs, and everybody's. */
  readonly of: Money;
  readonly own: number;
  readonly all: number;
}

/**
 * What of a pool's month is each person's, by largest remainders: the parts add up to the pool's month, to the last minor
 * unit. What nobody has or uses is nobody's, under ''. Common practice, no source.
 * @example
 * // two were in, one of them three times as long: 7.50 and 2.50 of 10.00
 */
export function partsOfPool(month: PoolMonth, currency: string): Map<string, PersonPart[]> {
  const parts = new Map<string, PersonPart[]>();
  const put = (by: PersonKey, of: Money, weights: ReadonlyMap<string, number>): void => {
    if (of.minor === 0) return;
    const known = [...weights].filter(([, weight]) => weight > 0);
    const among: (readonly [string, number])[] = known.length > 0 ? known : [['', 1]];
    const all = among.reduce((total, [, weight]) => total + weight, 0);
    share(
      of,
      among.map(([, weight]) => weight),
    ).forEach((charge, n) => {
      const [person = '', own = 0] = among[n] ?? [];
      parts.set(person, [...(parts.get(person) ?? []), { pool: month.pool, by, charge, of, own, all }]);
    });
  };
  const of = (isLicence: boolean): Money =>
    sum(
      month.lines.filter(({ meter }) => (meter === 'licence') === isLicence).map(({ charge }) => charge),
      currency,
    );
  put('licence', of(true), new Map(month.seats.map((person) => [person, 1])));
  if (month.isPersonal) put('desktop', of(false), month.owned);
  else put('time', of(false), month.time);
  return parts;
}

/** What one person's parts come to. */
export const personTotal = (parts: readonly PersonPart[], currency: string): Money =>
  parts.length === 0
    ? nothing(currency)
    : sum(
        parts.map(({ charge }) => charge),
        currency,
      );
