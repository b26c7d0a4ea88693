import type { Instant } from '../../calendar';
import type { Facts, HostFacts } from '../../facts';
import type { Intent } from '../../intent';
import type { Money } from '../../money';
import type { OverrideEdit } from '../../overrides';
import type { MeterNeed } from '../../rating';
import type { Policy } from '../../resources';
import type { ByNeed, Change } from '../change';
import type { Check, Fix } from '../check';
import type { Findings } from '../desk';
import type { PlannedTask } from '../tasks';

/** What is checked of a change of hosts alone. */
export interface HostPlan {
  readonly change: Pick<Change, 'kind' | 'verb' | 'partOf'>;
  readonly monthly: Money;
  readonly seconds: number;
  readonly facts: HostFacts;
  readonly overrides: OverrideEdit;
  /** Whether something else is wanted of a host from then on, also where nothing is to be done for it now. */
  readonly isOtherwise: boolean;
  readonly tasks: readonly PlannedTask[];
  readonly absent: readonly string[];
  readonly policy: Policy;
}

export interface Plan extends HostPlan {
  readonly facts: Facts;
  readonly before: Intent | null;
  readonly after: Intent | null;
  readonly findings: Findings;
  readonly unpriced: readonly MeterNeed[];
}

/** What a check found. `do` says what to do where it does not pass. */
export type Found = Omit<Check, 'key' | 'title' | 'fix'> & { readonly fix?: Fix };

/** One check of a plan. A new one is a file of this shape and its line in the list. */
export interface PlanCheck<Checked extends HostPlan = Plan> {
  /** What it is known by: it never changes. */
  readonly key: string;
  readonly title: string | ((plan: Checked) => string);
  /** Groups of facts that it goes by, beside those that every plan is made of. */
  readonly needs?: readonly ByNeed[];
  /** The page on which what it finds is mended; left out: it is mended where one is. */
  readonly fix?: Fix;
  /** Undefined: it has nothing to say of this plan. */
  finds(plan: Checked): Found | undefined;
}

export const good = (says: string): Found => ({ state: 'passes', says });
export const doubtful = (says: string, action: string): Found => ({ state: 'warns', says, do: action });
export const bad = (says: string, action: string): Found => ({ state: 'blocks', says, do: action });

/** What was found, with what was looked at or asked for it. */
export const seen = (found: Found, evidence: string, at: Instant): Found => ({ ...found, evidence, at });

/** When that was asked outside which a plan is checked against: for a plan that is begun, a moment ago. */
export const askedAt = ({ now, site }: Facts): Instant => site.askedAt ?? now;

export const making = ({ tasks }: Pick<HostPlan, 'tasks'>): readonly PlannedTask[] =>
  tasks.filter(({ task }) => task.do === 'make' || task.do === 'replace');

/** Whether it builds something that carries sessions. */
export const makesHosts = ({ tasks }: Pick<HostPlan, 'tasks'>): boolean =>
  tasks.some(({ kind, task }) => kind.carriesSessions === true && task.do === 'make');
