import Joi from 'joi';
import type { HostFacts, KnownResource } from '../facts';
import { overrideOf, together, wanting, type OverrideEdit, type OverrideWish } from '../overrides';
import { defineHostChange, warns, type Base, type Check, type HostChange, type Refusal } from '../planning';
import { ok, refuse, type Result } from '../result';
import { hostIds, hostsById, hostsSay, nameOf } from './common';

/** Hosts that are wanted otherwise for a while. */
export interface SwitchedHosts {
  /** Ids of hosts. */
  readonly hosts: readonly string[];
  /** When it ends by itself; null: when it is removed. */
  readonly until: number | null;
}

/** So far ahead an end may be. */
const MOST_AHEAD = 366 * 24 * 3_600_000;

export const untilField = Joi.number()
  .integer()
  .allow(null)
  .default(null)
  .description('When it ends by itself, in milliseconds since 1970; null: when it is removed');

const input = Joi.object<SwitchedHosts>({ hosts: hostIds.required(), until: untilField });

/** The hosts that are switched, where they are hosts of the environment and the end is one that is to come. */
export function switched(
  { hosts, until }: SwitchedHosts,
  facts: HostFacts,
): Result<readonly KnownResource[], Refusal> {
  const found = hostsById(facts, hosts);
  if (!facts.environment || !found) return refuse({ hosts: 'one of them is not a host of this environment' });
  if (until !== null && until <= facts.now) return refuse({ until: 'that is over already' });
  if (until !== null && until > facts.now + MOST_AHEAD)
    return refuse({ until: 'that is more than a year ahead' });
  return ok(found);
}

/** What is set by hand so that hosts are wanted so. */
export const wantingAll = (
  wishes: readonly OverrideWish[],
  hosts: readonly KnownResource[],
  { overrides = [], now }: Pick<HostFacts, 'overrides' | 'now'>,
  base: Base,
  until: number | null = null,
): OverrideEdit =>
  together(
    hosts.flatMap(({ key }) =>
      wishes.map((wish) => wanting(wish, { key, base: base(key) }, overrides, now, until)),
    ),
  );

/** A change after which hosts are wanted so. */
export const switching = (kind: string, verb: string, wish: OverrideWish, undoneBy: string): HostChange =>
  defineHostChange<SwitchedHosts>({
    kind,
    verb,
    input,
    right: 'run',
    confirm: 'press',
    undoneBy,
    title: ({ hosts }, facts) => `${verb} ${hostsSay(hostsById(facts, hosts) ?? [])} of ${nameOf(facts)}`,
    overrides: (asked, facts, base) => {
      const found = switched(asked, facts);
      return found.ok ? ok(wantingAll([wish], found.value, facts, base, asked.until)) : found;
    },
    policy: ({ hosts }) => ({ atATime: 10, failureLimit: Math.max(1, Math.ceil(hosts.length / 2)) }),
    checks: ({ hosts }, facts) => pausedCheck(wish, hostsById(facts, hosts) ?? [], facts),
  });

/** Of a paused customer what is set by hand holds, whatever the pause wants: it is said. */
function pausedCheck(
  wish: OverrideWish,
  hosts: readonly KnownResource[],
  { overrides = [], now }: HostFacts,
): Check[] {
  if (wish.attribute !== 'power' || wish.value !== 'on') return [];
  const paused = hosts.some(
    ({ key }) =>
      overrideOf(
        overrides.filter(({ cause }) => cause !== 'by hand'),
        key,
        'power',
        now,
      )?.value === 'off',
  );
  return paused
    ? [
        warns(
          'override',
          'Set by hand',
          'they are on although the customer is paused, until that is removed',
          'Start the customer instead, unless only these are needed.',
        ),
      ]
    : [];
}

export const powerOn = switching('power-on', 'Power on', { attribute: 'power', value: 'on' }, 'power-off');
export const powerOff = switching('power-off', 'Power off', { attribute: 'power', value: 'off' }, 'power-on');
export const drain = switching('drain', 'Drain', { attribute: 'accepting', value: false }, 'put-back');
export const putBack = switching('put-back', 'Put back', { attribute: 'accepting', value: true }, 'drain');

/** Switches hosts to what is wanted of them by now, because something that overrode it has begun or ended. */
export const followOverrides = defineHostChange<object>({
  kind: 'follow-overrides',
  whole: true,
  verb: 'Switch as wanted',
  input: Joi.object({}),
  right: 'run',
  confirm: 'press',
  title: (_input, facts) => `Switch hosts of ${nameOf(facts)} as wanted now`,
  policy: (_input, { known }) => ({ atATime: 10, failureLimit: Math.max(1, Math.ceil(known.length / 2)) }),
});
