import { DateTime } from 'luxon';
import { windowAt, writeWindow } from '../../calendar';
import { bad, doubtful, good, type HostPlan, type PlanCheck } from './shape';

/** When it would work, and whether it ends within its window. */
export const window: PlanCheck<HostPlan> = {
  key: 'window',
  title: 'Window',
  finds: ({ facts: { now, customer }, policy: { window: rule }, seconds, tasks }) => {
    if (!rule || tasks.length === 0) return undefined;
    const found = windowAt(rule, now, customer.zone);
    if (!found) return bad('names no day', 'Choose a day on which it begins.');
    const [begins, minutes] = [Math.max(now, found.from), Math.ceil(seconds / 60)];
    const left = Math.floor((found.to - begins) / 60_000);
    const when = DateTime.fromMillis(begins, { zone: customer.zone }).toFormat('ccc d LLL HH:mm');
    const says = `${writeWindow(rule)}: begins ${begins === now ? 'now' : when} in ${customer.zone}`;
    return minutes <= left
      ? good(`${says}, and ends within it`)
      : doubtful(
          `${says}; it takes about ${minutes} min and has ${left}: the rest waits for the next one`,
          'Work on more at a time, or choose a longer window.',
        );
  },
};
