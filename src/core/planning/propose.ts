import type { CustomerFacts, Facts, HostFacts, KnownResource } from '../facts';
import { rememberingDisks, type Intent } from '../intent';
import { destroyedBy, destroysCheck, unsaidCheck } from './data';
import type { Measure } from '../metering';
import { sum, type Money } from '../money';
import {
  edited,
  effective,
  isOverridden,
  NO_OVERRIDE_EDIT,
  OVERRIDDEN,
  type OverrideEdit,
} from '../overrides';
import { beyond, monthlyCost, type CostLine, type MeterNeed } from '../rating';
import type { Policy, ResourceKind, Wanted } from '../resources';
import type { Base, Change, HostChange, PolicyWish, Refusal } from './change';
import { policyWith } from './change';
import { blocks, type Check } from './check';
import { commonChecks, hostChecks } from './checks';
import { kindsByKey } from './compare';
import { openDesk, type Findings } from './desk';
import { stepsOf, type ProposedStep } from './graph';
import type { Impact } from './impact';
import { schedule } from './schedule';
import { changes, decide, type PlannedTask } from './tasks';

/** What a change would do, with every check before it. */
export interface Proposal {
  readonly kind: string;
  readonly title: string;
  /** What of the input cannot be used, beside its fields; undefined when all can. */
  readonly refused: Refusal | undefined;
  /** What shall be wanted; null: nothing any more. */
  readonly intent: Intent | null;
  /** What is set by hand with it, or set no longer. */
  readonly overrides: OverrideEdit;
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
  if (change.takes === 'facts of hosts') return proposeForHosts(kinds, change, raw, facts, wish);
  const bound = change.bind(raw);
  if (!bound.ok) return refused(change, facts, bound.problem);
  const before = facts.environment?.intent ?? null;
  const edit = bound.value.edit(before, facts, kinds);
  if (!edit.ok) return refused(change, facts, edit.problem);
  const after = edit.value && rememberingDisks(before, edit.value);
  const { wanted: base, findings } = allocate(kinds, facts, after);
  const overrides = bound.value.overrides(facts, baseOf(base), kinds);
  if (!overrides.ok) return refused(change, facts, overrides.problem);
  const wanted = wantedNow(base, facts, overrides.value);
  const { tasks, absent } = decide(kinds, facts, wanted, {
    whole: change.whole === true,
    chosen: bound.value.chosen(facts, kinds),
    asks: bound.value.asks(facts),
  });
  const destroyed = destroyedBy(tasks, facts);
  const policy = policyWith(bound.value.policy(facts), wish);
  const work = workOf(
    kinds,
    facts,
    change,
    tasks,
    policy,
    wanted,
    after?.name ?? before?.name ?? '',
    facts.customer,
  );
  return {
    ...work,
    kind: change.kind,
    title: bound.value.title(facts),
    refused: undefined,
    intent: after,
    overrides: overrides.value,
    wanted,
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
        overrides: overrides.value,
        tasks,
        absent,
        findings,
        unpriced: work.unpriced,
        policy,
        seconds: work.seconds,
        monthly: work.monthly,
      }),
    ],
    impact: impactOf(change, work, tasks, bound.value.people(facts)),
    room: findings.room,
  };
}

/** Proposes a change of hosts alone: what its hosts are, and on which names and nodes, stays as it is. */
export function proposeForHosts(
  kinds: readonly ResourceKind[],
  change: HostChange,
  raw: unknown,
  facts: HostFacts,
  wish: PolicyWish = {},
): Proposal {
  const bound = change.bind(raw);
  if (!bound.ok) return refused(change, facts, bound.problem);
  const intent = facts.environment?.intent ?? null;
  const kindOf = kindsByKey(kinds);
  const hosts = facts.known.filter(({ kind, wanted }) => wanted && kindOf(kind).carriesSessions === true);
  const base = basesOf(kinds, intent, hosts);
  const overrides = bound.value.overrides(facts, baseOf(base), kinds);
  if (!overrides.ok) return refused(change, facts, overrides.problem);
  const asks = bound.value.asks(facts);
  const { set, lift } = overrides.value;
  const named = new Set([...set, ...lift].map(({ host }) => host));
  // What overrides others begins or ends for them by itself, in the way that was said for it.
  const wanted =
    change.whole === true
      ? wantedNow(base, facts, overrides.value)
      : [
          ...wantedNow(
            base.filter(({ key }) => named.has(key)),
            facts,
            overrides.value,
          ),
          ...hosts.filter(({ key }) => !named.has(key)),
        ];
  const { tasks, absent } = changes(kindOf, facts, wanted, { whole: false, chosen: [], asks });
  const policy = policyWith(bound.value.policy(facts), wish);
  const work = workOf(kinds, { ...facts, known: hosts }, change, tasks, policy, wanted, intent?.name ?? '');
  return {
    ...work,
    kind: change.kind,
    title: bound.value.title(facts),
    refused: undefined,
    intent,
    overrides: overrides.value,
    wanted,
    destroyed: [],
    checks: [
      ...bound.value.checks(facts),
      ...hostChecks({ ...work, change, facts, overrides: overrides.value, absent }),
    ],
    impact: impactOf(change, work, tasks, bound.value.people(facts)),
    room: 0,
  };
}

const baseOf = (wanted: readonly Wanted[]): Base => {
  const attributes = new Map(wanted.map((one) => [one.key, one.attributes]));
  return (key) => attributes.get(key) ?? {};
};

/** Hosts as they are wanted, but what may be overridden as their intent alone says. */
function basesOf(
  kinds: readonly ResourceKind[],
  intent: Intent | null,
  hosts: readonly KnownResource[],
): Wanted[] {
  // Of what is derived here only that is used which no surroundings change.
  const said = new Map(
    intent === null
      ? []
      : kinds
          .filter(({ carriesSessions }) => carriesSessions === true)
          .flatMap((kind) => kind.wanted(intent, { customer: '', realm: '', nameServers: [] }))
          .map((one) => [one.key, one.attributes]),
  );
  return hosts.map(({ key, kind, name, attributes, needs }) => {
    const own = Object.entries(attributes).filter(([attribute]) => !isOverridden(attribute));
    const base = OVERRIDDEN.flatMap((attribute) => {
      const value = said.get(key)?.[attribute];
      return value === undefined ? [] : [[attribute, value] as const];
    });
    return { key, kind, name, needs, attributes: Object.fromEntries([...own, ...base]) };
  });
}

/** What is wanted now, with what the change sets by hand. */
const wantedNow = (
  base: readonly Wanted[],
  { overrides = [], now }: Pick<HostFacts, 'overrides' | 'now'>,
  edit: OverrideEdit,
): Wanted[] => effective(base, edited(overrides, edit, { why: '', by: '', since: now }), now);

type Worked = Pick<Proposal, 'tasks' | 'steps' | 'policy' | 'seconds' | 'critical' | 'cost' | 'monthly'> & {
  readonly late: number;
  readonly unpriced: readonly MeterNeed[];
};

/**
 * How what is to be done is carried out, how long that takes, and what it costs.
 * @param plan what the customer's plan includes; left out: nothing is taken off
 */
function workOf(
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
  const cost = costOf(kinds, facts, wanted, plan);
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

function impactOf(
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

function refused(
  change: Change,
  facts: Pick<HostFacts, 'customer' | 'environment'>,
  problem: Refusal,
): Proposal {
  const { currency } = facts.customer;
  const monthly = sum([], currency);
  return {
    kind: change.kind,
    title: change.verb,
    refused: problem,
    intent: facts.environment?.intent ?? null,
    overrides: NO_OVERRIDE_EDIT,
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
  facts: Pick<HostFacts, 'environment' | 'known' | 'customer' | 'rates' | 'now'>,
  wanted: readonly Wanted[],
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
  for (const one of wanted) add(measuresOf(one), 1);
  if (facts.environment) for (const one of facts.known) if (one.wanted) add(measuresOf(one), -1);
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
