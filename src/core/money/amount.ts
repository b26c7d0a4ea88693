/**
 * An exact amount: whole minor units (cents) of one ISO 4217 currency. `minor` is a safe integer, so amounts reach
 * about 90 trillion and never carry a fraction.
 */
export interface Money {
  readonly minor: number;
  readonly currency: string;
}

export function money(minor: number, currency: string): Money {
  if (!Number.isSafeInteger(minor)) throw new RangeError(`not a whole number of minor units: ${minor}`);
  // Nothing has no sign.
  return { minor: minor + 0, currency };
}

export const nothing = (currency: string): Money => money(0, currency);

/** The sum of amounts of one currency. @throws RangeError when another currency is among them. */
export function sum(amounts: readonly Money[], currency: string): Money {
  let minor = 0;
  for (const amount of amounts) {
    if (amount.currency !== currency)
      throw new RangeError(`${amount.currency} cannot be added to ${currency}`);
    minor += amount.minor;
  }
  return money(minor, currency);
}

/**
 * Shares a total out by weights with the largest-remainder method (Hamilton's): each part gets its quota rounded down,
 * the units left over go to the largest remainders, the earlier part first where remainders tie. The parts sum exactly
 * to the total; a negative total is shared as its opposite. All weights zero: everyone counts alike.
 * @param weights non-negative safe integers, at least one
 */
export function share(total: Money, weights: readonly number[]): Money[] {
  if (weights.length === 0) throw new RangeError('nobody to share among');
  const keys = weights.some((weight) => weight > 0) ? weights.map(BigInt) : weights.map(() => 1n);
  const whole = keys.reduce((a, b) => a + b, 0n);
  const sign = total.minor < 0 ? -1 : 1;
  const units = BigInt(Math.abs(total.minor));
  const parts = keys.map((key, index) => ({
    index,
    floor: (units * key) / whole,
    rest: (units * key) % whole,
  }));
  const left = Number(units - parts.reduce((a, part) => a + part.floor, 0n));
  const first = [...parts].sort((a, b) => (a.rest === b.rest ? a.index - b.index : a.rest > b.rest ? -1 : 1));
  const extra = new Set(first.slice(0, left).map((part) => part.index));
  return parts.map((part) =>
    money(sign * (Number(part.floor) + (extra.has(part.index) ? 1 : 0)), total.currency),
  );
}
