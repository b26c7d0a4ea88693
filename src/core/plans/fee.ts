import { money, priced, type Money } from '../money';
import type { PlanFee } from './terms';

/** What a plan costs a month in a currency; undefined where it is not sold in it. */
export function feeIn(fees: readonly PlanFee[], currency: string): Money | undefined {
  const fee = fees.find((one) => one.currency === currency);
  return fee && priced(fee.monthly, 1, 1, currency);
}

/**
 * What another plan costs a month more. A plan without any fee costs nothing in every currency.
 * @returns null where the other is sold, but not in this currency
 */
export function dearerBy(from: readonly PlanFee[], to: readonly PlanFee[], currency: string): Money | null {
  const becomes = feeIn(to, currency);
  if (!becomes && to.length > 0) return null;
  return money((becomes?.minor ?? 0) - (feeIn(from, currency)?.minor ?? 0), currency);
}
