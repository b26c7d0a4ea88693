import type { Instant } from '../calendar';
import { money, priced, sum, type Money } from '../money';
import { beyond, monthlyCost, type MeterNeed, type Rate } from '../rating';
import type { PlanFee, PlanTerms } from './terms';

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

/** What a customer has and pays by: quantities of each metered thing that stands, and the rates. */
export interface Standing {
  readonly stands: Readonly<Record<string, number>>;
  readonly rates: readonly Rate[];
  readonly currency: string;
}

/**
 * What another plan costs a month more for what stands: by its fee, and by what is in that and what is not any more.
 * @returns null where the other is sold, but not in this currency
 */
export function dearerFor(
  { stands, rates, currency }: Standing,
  from: PlanTerms,
  to: PlanTerms,
  at: Instant,
): Money | null {
  const fee = dearerBy(from.fees, to.fees, currency);
  if (fee === null) return null;
  const needs = Object.entries(stands).map(([meter, quantity]): MeterNeed => ({
    meter,
    size: null,
    quantity: beyond(to.included, meter, quantity) - beyond(from.included, meter, quantity),
  }));
  const { lines } = monthlyCost(needs, rates, at, currency);
  return sum([fee, ...lines.map((line) => line.amount)], currency);
}
