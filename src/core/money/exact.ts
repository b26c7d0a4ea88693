import Decimal from 'decimal.js';
import { minorDigits } from '../currency';
import { money, type Money } from './amount';

const Exact = Decimal.clone({ precision: 40, rounding: Decimal.ROUND_HALF_EVEN });

/**
 * price × quantity / per, rounded once, half to even, to the currency's minor unit.
 * @param price a decimal number in major units, as text, e.g. `0.0425`
 * @param quantity and
 * @param per whole numbers, e.g. seconds used and seconds in an hour; `per` is above 0
 */
export function priced(price: string, quantity: number, per: number, currency: string): Money {
  const minor = new Exact(price)
    .mul(quantity)
    .div(per)
    .mul(new Exact(10).pow(minorDigits(currency)));
  return money(minor.toDecimalPlaces(0).toNumber(), currency);
}

/**
 * price × quantity / per in whole millionths of the minor unit: a weight by which a total that was rounded once is shared
 * out among what it was made of.
 */
export const weightOf = (price: string, quantity: number, per: number, currency: string): number =>
  new Exact(price)
    .mul(quantity)
    .div(per)
    .mul(new Exact(10).pow(minorDigits(currency) + 6))
    .toDecimalPlaces(0)
    .toNumber();

/** The amount in major units as exact text, e.g. `-1234.50`; for exports and reckoning, not for reading. */
export function plain({ minor, currency }: Money): string {
  return new Exact(minor).div(new Exact(10).pow(minorDigits(currency))).toFixed(minorDigits(currency));
}
