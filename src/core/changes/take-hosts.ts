import Joi from 'joi';
import type { Facts, KnownResource } from '../facts';
import type { PoolIntent } from '../intent';
import { defineChange } from '../planning';
import { hostKey, isHostOf } from '../resources';
import { ok, refuse } from '../result';
import { hostIds, hostsById, hostsSay, nameOf, poolIn, withHosts, seatsCheck } from './common';

interface TakeHosts {
  readonly pool: string;
  /** So many of them, the emptiest first; or those of these ids. */
  readonly hosts?: number;
  readonly ids?: readonly string[];
}

/** Takes hosts away: the emptiest first, each drained before it goes. */
export const takeHosts = defineChange<TakeHosts>({
  kind: 'take-hosts',
  subject: 'environment',
  verb: 'Take hosts away',
  input: Joi.object<TakeHosts>({
    pool: Joi.string().max(24).required().description("The pool's name"),
    hosts: Joi.number().integer().min(1).max(2000).description('So many of them, the emptiest first'),
    ids: hostIds.description('These'),
  }).xor('hosts', 'ids'),
  right: 'build',
  confirm: 'press',
  touches: ['host gone'],
  undo: 'by difference',
  title: (input, facts) => `Take ${hostsSay(leaving(input, facts) ?? [])} away from ${nameOf(facts)}`,
  edit: (intent, input, facts) => {
    const found = poolIn(intent, input.pool);
    if (!found.ok) return found;
    const hosts = leaving(input, facts);
    if (!hosts) return refuse({ ids: `one of them is not a host of ${input.pool}` });
    const { pool } = found.value;
    const owned = hosts.filter(isOwned(pool));
    if (owned.length > 0)
      return refuse({
        [input.ids ? 'ids' : 'hosts']:
          `${owned.map(({ name }) => name).join(', ')}: somebody’s own; end it first`,
      });
    if (hosts.length >= pool.hosts.length)
      return refuse({
        [input.ids ? 'ids' : 'hosts']:
          `${input.pool} has ${pool.hosts.length}; at least one stays: retire takes all`,
      });
    return ok(withHosts(found.value.intent, new Set(hosts.map((one) => one.key)), () => undefined));
  },
  policy: () => ({
    atATime: 8,
    failureLimit: 3,
    drain: {
      minutes: 30,
      message: 'This desktop is being taken away. Please save, sign out and sign in again.',
    },
  }),
  checks: (edited, input) => seatsCheck(edited, input.pool, 'Take fewer, unless never all come at once.'),
});

/** Whether a host is one person's own: what they keep there does not go with a number. */
const isOwned = ({ role, hosts }: PoolIntent) => {
  const owned = new Set(
    hosts.flatMap(({ slot, person }) => (person === undefined ? [] : [hostKey(role, slot)])),
  );
  return ({ key }: KnownResource): boolean => owned.has(key);
};

/** The hosts that go; undefined when one is not of the pool. */
function leaving(input: TakeHosts, facts: Facts): KnownResource[] | undefined {
  const ofPool = (one: KnownResource): boolean => isHostOf(one, input.pool);
  if (input.ids) {
    const chosen = hostsById(facts, input.ids);
    return chosen?.every(ofPool) === true ? chosen : undefined;
  }
  // What is nobody's goes first; among the equally empty the last by name, so that the first ones stay.
  const pool = facts.environment?.intent.pools.find(({ role }) => role === input.pool);
  const owned = pool ? isOwned(pool) : () => false;
  return facts.known
    .filter((one) => one.wanted && ofPool(one))
    .sort((a, b) => Number(owned(a)) - Number(owned(b)) || a.people - b.people || (a.name < b.name ? 1 : -1))
    .slice(0, input.hosts ?? 0);
}
