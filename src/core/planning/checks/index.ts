import type { Check } from '../check';
import { absent } from './absent';
import { addresses } from './addresses';
import { approval } from './approval';
import { capacity } from './capacity';
import { certificate } from './certificate';
import { credentials } from './credentials';
import { customer } from './customer';
import { directory } from './directory';
import { image } from './image';
import { joined } from './joined';
import { licences } from './licences';
import { nameServers } from './name-servers';
import { names } from './names';
import { nothing, nothingForHosts } from './nothing';
import { planLimits } from './plan-limits';
import { rates } from './rates';
import { retained } from './retained';
import { route } from './route';
import type { HostPlan, Plan, PlanCheck } from './shape';
import { shelf } from './shelf';
import { signedIn } from './signed-in';
import { window } from './window';

/** The checks of every plan, in the order in which one would fix what they find. A new one is one file and its line here. */
const PLAN_CHECKS: readonly PlanCheck[] = [
  nothing,
  signedIn,
  customer,
  planLimits,
  absent,
  names,
  addresses,
  shelf,
  image,
  licences,
  capacity,
  credentials,
  directory,
  nameServers,
  route,
  certificate,
  joined,
  rates,
  retained,
  window,
  approval,
];

/** Those of a change of hosts alone: nothing is built by it, and nothing outside was asked. */
const HOST_CHECKS: readonly PlanCheck<HostPlan>[] = [nothingForHosts, signedIn, absent, window, approval];

/** The groups of facts that they go by, beside those that every plan is made of. */
export const FACTS_OF_CHECKS = PLAN_CHECKS.flatMap(({ needs = [] }) => needs);

function carriedOut<Checked extends HostPlan>(checks: readonly PlanCheck<Checked>[], plan: Checked): Check[] {
  return checks.flatMap(({ key, title, fix, finds }): Check[] => {
    const found = finds(plan);
    if (!found) return [];
    const named = { key, title: typeof title === 'string' ? title : title(plan) };
    return [{ ...named, ...(fix === undefined || found.state === 'passes' ? {} : { fix }), ...found }];
  });
}

/** The checks that every plan has, those that have nothing to say left out. */
export const commonChecks = (plan: Plan): Check[] => carriedOut(PLAN_CHECKS, plan);

export const hostChecks = (plan: HostPlan): Check[] => carriedOut(HOST_CHECKS, plan);
