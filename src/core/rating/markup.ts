import Decimal from 'decimal.js';

const PLACES = 6;

/**
 * A price with so many per cent on it, as exact decimal text of at most six places, rounded half to even.
 * @param percent -100 or more; 40: what costs 1 is sold at 1.4
 * @throws RangeError below -100
 * @example
 * markedUp('0.044', 40) // '0.0616'
 */
export function markedUp(price: string, percent: number): string {
  if (!(percent >= -100)) throw new RangeError(`a price cannot fall by ${-percent} per cent`);
  return new Decimal(price)
    .mul(new Decimal(percent).plus(100))
    .div(100)
    .toDecimalPlaces(PLACES, Decimal.ROUND_HALF_EVEN)
    .toFixed();
}

/** What is left of a selling price once it is bought, as a part of it; undefined where nothing is charged. */
export function marginOf(sell: string, buy: string): number | undefined {
  const price = new Decimal(sell);
  return price.isZero() ? undefined : price.minus(buy).div(price).toDecimalPlaces(4).toNumber();
}
