import { doubtful, type HostPlan, type PlanCheck } from './shape';

/** What it would change is not there. */
export const absent: PlanCheck<HostPlan> = {
  key: 'absent',
  title: 'Not there',
  finds: (plan) =>
    plan.absent.length === 0
      ? undefined
      : doubtful(
          `${plan.absent.join(', ')}: nothing is done to ${plan.absent.length === 1 ? 'it' : 'them'}`,
          'Mend the difference to have it made.',
        ),
};
