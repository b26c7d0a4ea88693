import Joi from 'joi';
import { BONDS, KEPT_DISKS, patchHost, type Intent } from '../intent';
import { defineChange } from '../planning';
import { ok, refuse } from '../result';
import { nameOf } from './common';

interface Undo {
  /** The version of the intent to go back to. */
  readonly version: number;
}

/** An earlier intent in which hosts are whose they are now: nobody takes that back with a key. A host that is somebody's stays. */
function withKept(earlier: Intent, now: Intent | null): Intent {
  const poolsNow = now?.pools ?? [];
  const pools = earlier.pools.map((pool) => {
    const hostsNow = poolsNow.find(({ role }) => role === pool.role)?.hosts ?? [];
    const stay = hostsNow.filter(
      ({ slot, person }) => person !== undefined && !pool.hosts.some((host) => host.slot === slot),
    );
    return {
      ...pool,
      hosts: [
        ...pool.hosts.map((host) => {
          const is = hostsNow.find(({ slot }) => slot === host.slot);
          return is
            ? patchHost(host, Object.fromEntries(BONDS.map((key) => [key, is[key]])))
            : patchHost(host, Object.fromEntries(BONDS.map((key) => [key, undefined])));
        }),
        ...stay,
      ].sort((a, b) => a.slot - b.slot),
    };
  });
  const others = poolsNow.filter(
    ({ role, hosts }) =>
      !pools.some((pool) => pool.role === role) && hosts.some(({ person }) => person !== undefined),
  );
  const { [KEPT_DISKS]: _before, ...more } = earlier.more;
  const aside = now?.more[KEPT_DISKS];
  return { ...earlier, pools: [...pools, ...others], more: aside ? { ...more, [KEPT_DISKS]: aside } : more };
}

/** Goes back to an earlier version of what was wanted: the difference from now to then. */
export const undo = defineChange<Undo>({
  kind: 'undo',
  subject: 'environment',
  verb: 'Undo',
  input: Joi.object<Undo>({
    version: Joi.number().integer().min(1).required().description('The version of the intent to go back to'),
  }),
  right: 'build',
  confirm: 'press',
  touches: ['size', 'diskGiB', 'ready', 'from', 'new host', 'host gone'],
  undo: 'by difference',
  title: ({ version }, facts) => `Take ${nameOf(facts)} back to version ${version}`,
  looksBackTo: ({ version }) => version,
  edit: (intent, _input, facts) =>
    facts.environment?.earlier
      ? ok(withKept(facts.environment.earlier, intent))
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
