import type { Facts } from '../facts';
import { rememberingDisks, type Intent } from '../intent';
import { destroyedBy, destroysCheck, unsaidCheck } from './data';
import type { Measure } from '../metering';
import { sum, type Money } from '../money';
import { beyond, monthlyCost, type CostLine, type MeterNeed } from '../rating';
import type { Policy, ResourceKind, Wanted } from '../resources';
import type { Change, PolicyWish, Refusal } from './change';
import { policyWith } from './change';
import { blocks, type Check } from './check';
import { commonChecks } from './checks';
import { kindsByKey } from './compare';
import { openDesk, type Findings } from './desk';
import { stepsOf, type ProposedStep } from './graph';
import type { Impact } from './impact';
import { schedule } from './schedule';
import { decide, type PlannedTask } from './tasks';

/** What a change would do, with every check before it. */
export interface Proposal {
  readonly kind: string;
  readonly title: string;
  /** What of the input cannot be used, beside its fields; undefined when all can. */
  readonly refused: Refusal | undefined;
  /** What shall be wanted; null: nothing any more. */
  readonly intent: Intent | null;
  readonly wanted: readonly Wanted[];
  readonly tasks: readonly PlannedTask[];
  readonly steps: readonly (ProposedStep & { readonly tail: number })[];
  readonly policy: Policy;
  readonly seconds: number;
  readonly critical: readonly string[];
  /** By how much each cost of a month changes; less is negative. */
  readonly cost: readonly CostLine[];
  readonly monthly: Money;
  /** Whose data would be destroyed: then the customer's code is typed. */
  readonly destroyed: readonly string[];
  readonly checks: readonly Check[];
  readonly impact: Impact;
  /** Hosts that the subnets allocated here have room for. */
  readonly room: number;
}

const IDLE: Policy = { atATime: 1, failureLimit: 1 };

/**
 * Proposes a change: one function for all of them, the same in the browser and on the server.
 * @param raw the change's input, from outside
 * @example
 * propose(kinds, growDisk, { pool: 'desks', diskGiB: 256 }, facts).impact.seconds
 */
export function propose(
  kinds: readonly ResourceKind[],
  change: Change,
  raw: unknown,
  facts: Facts,
  wish: PolicyWish = {},
): Proposal {
  const bound = change.bind(raw);
  if (!bound.ok) return refused(change, facts, bound.problem);
  const before = facts.environment?.intent ?? null;
  const edited = bound.value.edit(before, facts, kinds);
  if (!edited.ok) return refused(change, facts, edited.problem);
  const after = edited.value && rememberingDisks(before, edited.value);
  const { wanted, findings } = allocate(kinds, facts, after);
  const { tasks, absent } = decide(kinds, facts, wanted, {
    whole: change.whole === true,
    chosen: bound.value.chosen(facts, kinds),
  });
  const destroyed = destroyedBy(tasks, facts);
  const policy = policyWith(bound.value.policy(facts), wish);
  const name = after?.name ?? before?.name ?? '';
  const frame = { opens: change.opens ?? [], closes: change.closes ?? [] };
  const steps = stepsOf(tasks, policy, name, frame, facts.site.durations);
  const scheduled = schedule(steps, policy.atATime);
  const seconds = scheduled.ok ? scheduled.value.finish : 0;
  const latest = schedule(
    steps.map((step) => ({ ...step, seconds: step.late })),
    policy.atATime,
  );
  const late = Math.max(seconds, latest.ok ? latest.value.finish : 0);
  const cost = costOf(kinds, facts, wanted);
  const monthly = sum(
    cost.lines.map((line) => line.amount),
    facts.customer.currency,
  );
  const hosts = tasks.filter(({ kind }) => kind.carriesSessions === true);
  const peopleIn = hosts.reduce((all, { task }) => all + task.people, 0);
  return {
    kind: change.kind,
    title: bound.value.title(facts),
    refused: undefined,
    intent: after,
    wanted,
    tasks,
    steps: steps.map((step) => ({
      ...step,
      tail: scheduled.ok ? (scheduled.value.tailOf.get(step.key) ?? step.seconds) : step.seconds,
    })),
    policy,
    seconds,
    critical: scheduled.ok ? scheduled.value.critical : [],
    cost: cost.lines,
    monthly,
    destroyed,
    checks: [
      ...[unsaidCheck(change, before, after, destroyed), destroysCheck(destroyed)].flatMap(
        (one) => one ?? [],
      ),
      ...bound.value.checks(after, facts),
      ...commonChecks({
        change,
        facts,
        before,
        after,
        tasks,
        absent,
        findings,
        unpriced: cost.unpriced,
        policy,
        seconds,
        monthly,
      }),
    ],
    impact: {
      people: bound.value.people(facts) ?? peopleIn,
      hosts: hosts.length,
      monthly,
      seconds,
      ...(late > seconds ? { late } : {}),
      undo: change.undo === 'none' ? 'cannot be undone' : 'can be undone',
    },
    room: findings.room,
  };
}

/** The resources that an intent asks for, with all that is allocated to them. */
export function allocate(
  kinds: readonly ResourceKind[],
  facts: Facts,
  intent: Intent | null,
): { wanted: Wanted[]; findings: Findings } {
  const { desk, record, findings } = openDesk(facts, intent?.name ?? '');
  const { code, realm, nameServers, gateway } = facts.customer;
  const surroundings = { customer: code, realm, nameServers, gateway, services: facts.site.services };
  const wanted =
    intent === null
      ? []
      : kinds.flatMap((kind) => {
          const seeds = kind.wanted(intent, surroundings);
          const full = kind.allocate?.(seeds, intent, desk) ?? seeds;
          full.forEach(record);
          return full;
        });
  return { wanted, findings: findings() };
}

function refused(change: Change, facts: Facts, problem: Refusal): Proposal {
  const { currency } = facts.customer;
  const monthly = sum([], currency);
  return {
    kind: change.kind,
    title: change.verb,
    refused: problem,
    intent: facts.environment?.intent ?? null,
    wanted: [],
    tasks: [],
    steps: [],
    policy: IDLE,
    seconds: 0,
    critical: [],
    cost: [],
    monthly,
    destroyed: [],
    checks: Object.entries(problem).map(([field, says]) => blocks(`field ${field}`, change.verb, says, '')),
    impact: { people: 0, hosts: 0, monthly, seconds: 0, undo: 'can be undone' },
    room: 0,
  };
}

/** What the month's cost changes by, at the rates of now, in the order of the kinds. */
function costOf(
  kinds: readonly ResourceKind[],
  facts: Facts,
  wanted: readonly Wanted[],
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
  for (const one of wanted) add(measuresOf(one), 1);
  if (facts.environment) for (const one of facts.known) if (one.wanted) add(measuresOf(one), -1);
  const { plan, stands = {} } = facts.customer;
  // What is in the plan's fee costs nothing more, as long as there is no more of it.
  const paid = (meter: string, quantity: number): number => {
    const before = Math.max(stands[meter] ?? 0, -quantity);
    return beyond(plan.included, meter, before + quantity) - beyond(plan.included, meter, before);
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
