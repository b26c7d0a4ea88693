import type { Facts } from '../facts';
import { rememberingDisks, type Intent } from '../intent';
import type { ResourceKind, Wanted } from '../resources';
import { policyWith, type Change, type PolicyWish } from './change';
import { commonChecks } from './checks';
import { destroyedBy, destroysCheck, unsaidCheck } from './data';
import { kindsByKey } from './compare';
import { openDesk, type Findings } from './desk';
import { proposeForHosts } from './host-proposal';
import { refused, type Proposal } from './proposal';
import { dropTasks, retainedUntilOf } from './retained';
import { decide } from './tasks';
import { baseOf, impactOf, wantedNow, workOf } from './work';

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
  const kindOf = kindsByKey(kinds);
  const { retains, drops } = bound.value;
  const { tasks: decided, absent } = decide(kinds, facts, wanted, {
    whole: change.whole === true,
    chosen: bound.value.chosen(facts, kinds),
    asks: bound.value.asks(facts),
    retains: retains ? retainedUntilOf(kindOf, facts) : undefined,
  });
  const tasks = [...decided, ...dropTasks(kindOf, facts, drops)];
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
        isOtherwise: false,
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
