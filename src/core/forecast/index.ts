import type { Day, Instant, Month } from '../calendar';
import { daysOf } from '../calendar';
import { money, type Money } from '../money';

export interface DayCost extends Day {
  /** In minor units, not rounded: many days are added up. */
  readonly minor: number;
}

/**
 * A month's cost at its end: what has run, and for each day left the mean of the whole days of the same weekday in
 * `past` (of all whole days, where that weekday is missing). The rest of today counts by its part of a day.
 * @param past whole days before `now`, of any month, at what they would cost in this one: a month's price is spread over
 *   more or fewer days in another; the last four weeks are a good choice
 * @param since when there was anything first: before a day is over, what has run since then is taken to go on alike
 */
export function forecastMonth(
  soFar: Money,
  past: readonly DayCost[],
  month: Month,
  now: Instant,
  since: Instant,
): Money {
  if (now >= month.to) return soFar;
  const whole = past.filter((day) => day.to <= now);
  const left = daysOf({ from: Math.max(now, month.from), to: month.to }, month.zone);
  const ran = now - Math.max(month.from, since);
  const rest = left.reduce(
    (sum, day) => sum + (day.to - Math.max(day.from, now)) * usual(whole, day.weekday, soFar, ran),
    0,
  );
  return money(soFar.minor + Math.round(rest), soFar.currency);
}

/** What a millisecond of such a day usually costs: a day at a clock change is longer or shorter than others. */
function usual(past: readonly DayCost[], weekday: number, soFar: Money, ran: number): number {
  const alike = past.filter((day) => day.weekday === weekday);
  if (alike.length > 0) return mean(alike);
  if (past.length > 0) return mean(past);
  return ran > 0 ? soFar.minor / ran : 0;
}

const mean = (days: readonly DayCost[]): number =>
  days.reduce((sum, day) => sum + day.minor / (day.to - day.from), 0) / days.length;
