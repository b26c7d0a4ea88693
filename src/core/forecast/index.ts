import type { Day, Instant, Month } from '../calendar';
import { daysOf } from '../calendar';
import { money, type Money } from '../money';

export interface DayCost extends Day {
  readonly cost: Money;
}

/**
 * A month's cost at its end: what has run, and for each day left the mean of the whole days of the same weekday in
 * `past` (of all whole days, where that weekday is missing). The rest of today counts by its part of a day.
 * @param past whole days before `now`, of any month; the last four weeks are a good choice
 */
export function forecastMonth(soFar: Money, past: readonly DayCost[], month: Month, now: Instant): Money {
  if (now >= month.to) return soFar;
  const whole = past.filter((day) => day.to <= now);
  const left = daysOf({ from: Math.max(now, month.from), to: month.to }, month.zone);
  const rest = left.reduce((sum, day) => {
    const part = (day.to - Math.max(day.from, now)) / (day.to - day.from);
    return sum + part * usual(whole, day.weekday, soFar, month, now);
  }, 0);
  return money(soFar.minor + Math.round(rest), soFar.currency);
}

function usual(past: readonly DayCost[], weekday: number, soFar: Money, month: Month, now: Instant): number {
  const alike = past.filter((day) => day.weekday === weekday);
  if (alike.length > 0) return mean(alike);
  if (past.length > 0) return mean(past);
  const days = (now - month.from) / 86_400_000;
  return days > 0 ? soFar.minor / days : 0;
}

const mean = (days: readonly DayCost[]): number =>
  days.reduce((sum, day) => sum + day.cost.minor, 0) / days.length;
