import { claimsOf, roomIn } from '../../resources';
import { claimedAt } from '../takes';
import type { PlannedTask } from '../tasks';
import { good, making, type Plan, type PlanCheck } from './shape';

/** Whether what is made stands already: it takes no more room than it did, and is only handed over. */
export const isReady = ({ kind, task }: PlannedTask, facts: Plan['facts']): boolean =>
  task.do === 'make' && roomIn(claimsOf(kind, task.wanted, claimedAt(facts)))?.stands === true;

/** What is ready already: the first ones are in within a minute. */
export const shelf: PlanCheck = {
  key: 'shelf',
  title: 'Ready shelf',
  finds: (plan) => {
    const hosts = making(plan).filter(({ kind }) => kind.carriesSessions === true);
    // What is put on the shelf itself has yet to be brought up.
    const ready = hosts.filter(
      (one) => isReady(one, plan.facts) && 'wanted' in one.task && one.task.wanted.attributes.realm !== '',
    ).length;
    if (ready === 0) return undefined;
    return good(`${ready} of ${hosts.length} ${ready === 1 ? 'is' : 'are'} ready and only handed over`);
  },
};
