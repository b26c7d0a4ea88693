import { describe, expect, it } from 'vitest';
import type { Facts } from '../../src/core/facts';
import { factsFor, propose } from '../../src/core/planning';
import { RESOURCE_KINDS } from '../../src/core/resources';
import { changeNamed } from './setup/facts';
import { CASES } from './situations';

/** Facts that note which of their groups were looked at. */
function watched(facts: Facts): { readonly facts: Facts; readonly seen: ReadonlySet<string> } {
  const seen = new Set<string>();
  const noting = new Proxy(facts, {
    get: (target, key, receiver): unknown => {
      seen.add(String(key));
      return Reflect.get(target, key, receiver);
    },
  });
  return { facts: noting, seen };
}

const WITHOUT_GROUPS = ['provision grantees', 'follow-template grantees'];

describe('the facts that a change names', () => {
  it('are all that it and its checks look at, in every situation', () => {
    const changes = new Map<string, Set<string>>();
    for (const [, kind, raw, from, policy] of CASES) {
      const change = changeNamed(kind);
      if (change.takes === 'facts of hosts') continue;
      const { facts, seen } = watched(from);
      propose(RESOURCE_KINDS, change, raw, facts, policy);
      const named = new Set<string>(factsFor(change));
      expect([kind, [...seen].filter((key) => !named.has(key))]).toEqual([kind, []]);
      changes.set(kind, new Set([...(changes.get(kind) ?? []), ...seen]));
    }
    // And what a change names for itself, it does look at in one of them: no reading is for nothing.
    const unused = [...changes].flatMap(([kind, seen]) =>
      changeNamed(kind).needs.flatMap((key) => (seen.has(key) ? [] : [`${kind} ${key}`])),
    );
    // Their templates ask for no group in these situations: tests/server/templates has one that does.
    expect(unused).toEqual(WITHOUT_GROUPS);
  });
});
