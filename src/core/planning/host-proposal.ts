import type { HostFacts, KnownResource } from '../facts';
import type { Intent } from '../intent';
import { isOverridden, OVERRIDDEN } from '../overrides';
import type { ResourceKind, Wanted } from '../resources';
import { policyWith, type HostChange, type PolicyWish } from './change';
import { hostChecks } from './checks';
import { kindsByKey } from './compare';
import { refused, type Proposal } from './proposal';
import { changes, editedOf } from './tasks';
import { baseOf, impactOf, wantedNow, workOf } from './work';

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
      ...hostChecks({
        ...work,
        change,
        facts,
        overrides: overrides.value,
        isOtherwise: editedOf(facts, wanted).length > 0,
        absent,
      }),
    ],
    impact: impactOf(change, work, tasks, bound.value.people(facts)),
    room: 0,
  };
}

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
