import { bad, type Found, type HostPlan, type PlanCheck } from './shape';

const key = 'nothing';
const title = 'Nothing to do';

function inTasks({ tasks, overrides: { set, lift }, isOtherwise }: HostPlan): Found | undefined {
  if (isOtherwise || tasks.length + set.length + lift.length > 0) return undefined;
  return bad('it is as wanted already', 'Choose something else.');
}

/** Whether there is nothing to do: the intent stays, too. */
export const nothing: PlanCheck = {
  key,
  title,
  finds: (plan) => (JSON.stringify(plan.before) === JSON.stringify(plan.after) ? inTasks(plan) : undefined),
};

export const nothingForHosts: PlanCheck<HostPlan> = { key, title, finds: inTasks };
