import { DateTime } from 'luxon';
import { good, type PlanCheck } from './shape';

/** Whose data are retained, and until which day. */
export const retained: PlanCheck = {
  key: 'retained',
  title: 'Data kept',
  finds: ({ facts: { customer, known }, tasks }) => {
    const before = new Map(known.map((one) => [one.key, one.attributes]));
    const byDay = new Map<string, string[]>();
    for (const { key, kind, task } of tasks) {
      if (task.do !== 'retain') continue;
      const day = DateTime.fromMillis(task.until, { zone: customer.zone, locale: 'en' }).toFormat(
        'd LLLL yyyy',
      );
      byDay.set(day, [...(byDay.get(day) ?? []), ...(kind.holdsData?.(before.get(key) ?? {}) ?? [])]);
    }
    if (byDay.size === 0) return undefined;
    const says = [...byDay].map(([day, data]) => `${summed(data)} until ${day}`);
    return good(`${says.join('; ')}, as plan ${customer.plan.name} says`);
  },
};

/** So many are named; the others only counted. */
const MOST_NAMED = 3;

const summed = (data: readonly string[]): string =>
  data.length <= MOST_NAMED
    ? data.join(', ')
    : `${data.slice(0, MOST_NAMED).join(', ')} and ${data.length - MOST_NAMED} more`;
