import type { CustomerFacts, HostFacts } from '../facts';
import type { Measure } from '../metering';
import { sum } from '../money';
import { edited, effective, type OverrideEdit } from '../overrides';
import { beyond, monthlyCost, type CostLine, type MeterNeed } from '../rating';
import type { Policy, ResourceKind, Wanted } from '../resources';
import type { Base, Change } from './change';
import { kindsByKey } from './compare';
import { stepsOf } from './graph';
import type { Impact } from './impact';
import type { Proposal } from './proposal';
import { schedule } from './schedule';
import type { PlannedTask } from './tasks';

/* What every proposal works out alike: what is wanted now, in which steps, how long that takes and what it costs. */

/** What the intent alone says of each. */
export const baseOf = (wanted: readonly Wanted[]): Base => {
  const attributes = new Map(wanted.map((one) => [one.key, one.attributes]));
  return (key) => attributes.get(key) ?? {};
};

/** What is wanted now, with what the change sets by hand. */
export const wantedNow = (
  base: readonly Wanted[],
  { overrides = [], now }: Pick<HostFacts, 'overrides' | 'now'>,
  edit: OverrideEdit,
): Wanted[] => effective(base, edited(overrides, edit, { why: '', by: '', since: now }), now);

export type Worked = Pick<
  Proposal,
  'tasks' | 'steps' | 'policy' | 'seconds' | 'critical' | 'cost' | 'monthly'
> & {
  readonly late: number;
  readonly unpriced: readonly MeterNeed[];
};

/**
 * How what is to be done is carried out, how long that takes, and what it costs.
 * @param plan what the customer's plan includes; left out: nothing is taken off
 */
export function workOf(
  kinds: readonly ResourceKind[],
  facts: HostFacts,
  change: Pick<Change, 'opens' | 'closes'>,
  tasks: readonly PlannedTask[],
  policy: Policy,
  wanted: readonly Wanted[],
  name: string,
  plan?: Pick<CustomerFacts, 'plan' | 'stands'>,
): Worked {
  const frame = { opens: change.opens ?? [], closes: change.closes ?? [] };
  const steps = stepsOf(tasks, policy, name, frame, facts.site.durations);
  const scheduled = schedule(steps, policy.atATime);
  const seconds = scheduled.ok ? scheduled.value.finish : 0;
  const latest = schedule(
    steps.map((step) => ({ ...step, seconds: step.late })),
    policy.atATime,
  );
  // What is retained is paid for until it is dropped.
  const retained = new Set(tasks.filter(({ task }) => task.do === 'retain').map(({ key }) => key));
  const after = [...wanted, ...facts.known.filter(({ key }) => retained.has(key))];
  const before = [
    ...(facts.environment ? facts.known.filter((one) => one.wanted) : []),
    ...tasks.flatMap((one) => one.retained ?? []),
  ];
  const cost = costOf(kinds, facts, { before, after }, plan);
  return {
    tasks,
    steps: steps.map((step) => ({
      ...step,
      tail: scheduled.ok ? (scheduled.value.tailOf.get(step.key) ?? step.seconds) : step.seconds,
    })),
    policy,
    seconds,
    late: Math.max(seconds, latest.ok ? latest.value.finish : 0),
    critical: scheduled.ok ? scheduled.value.critical : [],
    cost: cost.lines,
    unpriced: cost.unpriced,
    monthly: sum(
      cost.lines.map((line) => line.amount),
      facts.customer.currency,
    ),
  };
}

export function impactOf(
  change: Pick<Change, 'undo'>,
  { monthly, seconds, late }: Worked,
  tasks: readonly PlannedTask[],
  people: number | undefined,
): Impact {
  const hosts = tasks.filter(({ kind }) => kind.carriesSessions === true);
  return {
    people: people ?? hosts.reduce((all, { task }) => all + task.people, 0),
    hosts: hosts.length,
    monthly,
    seconds,
    ...(late > seconds ? { late } : {}),
    undo: change.undo === 'none' ? 'cannot be undone' : 'can be undone',
  };
}

/** What the month's cost changes by, at the rates of now, in the order of the kinds. */
function costOf(
  kinds: readonly ResourceKind[],
  facts: Pick<HostFacts, 'customer' | 'rates' | 'now'>,
  { before, after }: Readonly<Record<'before' | 'after', readonly Pick<Wanted, 'kind' | 'attributes'>[]>>,
  plan: Pick<CustomerFacts, 'plan' | 'stands'> | undefined,
): { lines: readonly CostLine[]; unpriced: readonly MeterNeed[] } {
  const kindOf = kindsByKey(kinds);
  const needs = new Map<string, MeterNeed>();
  const add = (measures: readonly Measure[], sign: 1 | -1): void => {
    for (const { meter, state, size, quantity } of measures) {
      if (state === 'off') continue;
      const key = `${meter} ${size ?? ''}`;
      const before = needs.get(key)?.quantity ?? 0;
      needs.set(key, { meter, size, quantity: before + sign * quantity });
    }
  };
  const measuresOf = ({ kind: key, attributes }: Pick<Wanted, 'kind' | 'attributes'>): readonly Measure[] => {
    const kind = kindOf(key);
    return kind.passing === true ? [] : kind.meters(attributes);
  };
  for (const one of after) add(measuresOf(one), 1);
  for (const one of before) add(measuresOf(one), -1);
  const { stands = {} } = plan ?? {};
  const included = plan?.plan.included ?? [];
  // What is in the plan's fee costs nothing more, as long as there is no more of it.
  const paid = (meter: string, quantity: number): number => {
    const before = Math.max(stands[meter] ?? 0, -quantity);
    return beyond(included, meter, before + quantity) - beyond(included, meter, before);
  };
  return monthlyCost(
    [...needs.values()]
      .map((need) => (need.size === null ? { ...need, quantity: paid(need.meter, need.quantity) } : need))
      .filter((need) => need.quantity !== 0),
    facts.rates,
    facts.now,
    facts.customer.currency,
  );
}
