import Joi from 'joi';
import { keptUntil } from '../../desktops';
import { KEPT_DISKS, patchHost, type HostIntent } from '../../intent';
import { defineChange, warns } from '../../planning';
import { ok, refuse } from '../../result';
import { withHosts } from '../common';
import { desktopsById, DRAIN, keysOf, liftPower, ownedBy, putAside, withNextDisk } from './common';

/** What becomes of what the one before kept there. */
export const DATA_CHOICES = ['kept', 'wiped', 'archived'] as const;

interface MoveDesktop {
  readonly host: string;
  /** By account. */
  readonly person: string;
  readonly data: (typeof DATA_CHOICES)[number];
}

/** Gives somebody's desktop to another person: what was kept there goes along, is wiped, or is put aside. */
export const moveDesktop = defineChange<MoveDesktop>({
  kind: 'move-desktop',
  subject: 'environment',
  of: 'customers',
  verb: 'Move a desktop',
  input: Joi.object<MoveDesktop>({
    host: Joi.string().max(40).required(),
    person: Joi.string().trim().lowercase().min(1).max(64).required().description('To whom, by account'),
    data: Joi.string()
      .valid(...DATA_CHOICES)
      .required()
      .description('What becomes of what the one before kept there'),
  }),
  right: 'build',
  confirm: 'press',
  touches: ['person', 'personId', 'leftAt', 'disk'],
  destroys: true,
  undo: 'none',
  needs: ['accounts'],
  title: ({ host, person }, facts) => {
    const found = facts.known.find(({ id }) => id === host);
    return `Move ${found?.name ?? 'a desktop'} to ${person}`;
  },
  concerns: ({ person }) => [person],
  edit: (intent, { host: id, person, data }, facts) => {
    const found = desktopsById(intent, facts, [id], 'host');
    if (!found.ok) return found;
    const [desktop] = found.value.desktops;
    if (!desktop) return refuse({ host: 'is not there' });
    const { pool, host } = desktop;
    if (host.person === undefined) return refuse({ host: 'is nobody’s: assign it' });
    const to = facts.accounts?.find((one) => one.account === person);
    if (!to) return refuse({ person: 'is not in the directory' });
    const isTheirs = host.personId === to.person;
    if (isTheirs && host.person === person) return refuse({ person: 'has it already' });
    if (!isTheirs && pool.hosts.some((one) => one.personId === to.person))
      return refuse({ person: `has another desktop of ${pool.role}` });
    if (pool.ownDiskGiB === 0 && data !== 'kept')
      return refuse({ data: 'there is no disk of their own: make the host anew, and nothing of it is left' });
    const moved = withHosts(found.value.intent, keysOf([desktop]), (one): HostIntent => {
      const own = patchHost(one, { ...ownedBy(to), leftAt: undefined });
      return data === 'kept' ? own : withNextDisk(found.value.intent, pool, own);
    });
    if (data !== 'archived') return ok(moved);
    const kept = [
      ...(moved.more[KEPT_DISKS] ?? []),
      putAside(desktop, keptUntil(facts.now, facts.customer.plan)),
    ];
    return ok({ ...moved, more: { ...moved.more, [KEPT_DISKS]: kept } });
  },
  overrides: ({ host }, facts) => liftPower(facts, [host]),
  policy: () => ({ atATime: 4, failureLimit: 1, drain: DRAIN }),
  checks: (_edited, { data }) =>
    data === 'wiped'
      ? [warns('data', 'Data', 'what was kept there is lost', 'Archive it, unless nobody wants it any more.')]
      : [],
  people: () => 2,
});
