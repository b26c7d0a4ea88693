import Joi from 'joi';
import type { HostIntent, Intent } from '../intent';
import { defineChange } from '../planning';
import { ok, refuse } from '../result';
import { nameOf } from './common';

interface Undo {
  /** The version of the intent to go back to. */
  readonly version: number;
}

/** How often something was asked of a host is no wish that could be taken back: asked fewer times, it would be done again. */
function withCounts(earlier: Intent, now: Intent | null): Intent {
  const countsOf = (role: string, slot: number): Partial<HostIntent> => {
    const { anew, restarts, returns } =
      now?.pools.find((pool) => pool.role === role)?.hosts.find((host) => host.slot === slot) ?? {};
    return {
      ...(anew === undefined ? {} : { anew }),
      ...(restarts === undefined ? {} : { restarts }),
      ...(returns === undefined ? {} : { returns }),
    };
  };
  return {
    ...earlier,
    pools: earlier.pools.map((pool) => ({
      ...pool,
      hosts: pool.hosts.map((host) => ({ ...host, ...countsOf(pool.role, host.slot) })),
    })),
  };
}

/** Goes back to an earlier version of what was wanted: the difference from now to then. */
export const undo = defineChange<Undo>({
  kind: 'undo',
  subject: 'environment',
  verb: 'Undo',
  input: Joi.object<Undo>({
    version: Joi.number().integer().min(1).required().description('The version of the intent to go back to'),
  }),
  roles: ['engineer', 'lead'],
  confirm: 'press',
  undo: 'by difference',
  title: ({ version }, facts) => `Take ${nameOf(facts)} back to version ${version}`,
  looksBackTo: ({ version }) => version,
  edit: (intent, _input, facts) =>
    facts.environment?.earlier
      ? ok(withCounts(facts.environment.earlier, intent))
      : refuse({ version: 'there is no such version' }),
  policy: () => ({
    atATime: 8,
    failureLimit: 2,
    drain: {
      minutes: 15,
      message: 'This desktop is about to change. Please save, sign out and sign in again.',
    },
  }),
});
