import Joi from 'joi';
import type { Facts, NamedAccount } from '../../facts';
import { lastDiskOf, patchHost, withPool, type Intent, type PoolIntent } from '../../intent';
import { defineChange, passes, warns, type Check } from '../../planning';
import { moreHosts } from '../../resources';
import { ok, refuse } from '../../result';
import { isPersonal } from '../../sizing';
import { nameOf, poolField, poolIn } from '../common';
import { desktopsById, DRAIN, ownedBy } from './common';

interface Assign {
  readonly pool: string;
  /** By account. */
  readonly people: readonly string[];
  /** One host for the one person; left out: whichever are free, and as many more as are lacking. */
  readonly host?: string;
  /** Of those that are lacking, as many from the ready shelf as are ready there. */
  readonly ready?: boolean;
}

/** Who gets one, and who is left out and why. */
interface Sorted {
  readonly to: readonly NamedAccount[];
  readonly unknown: readonly string[];
  readonly have: readonly string[];
}

/** Gives desktops of their own to people: to each of those who are known and have none there yet. */
export const assignDesktops = defineChange<Assign>({
  kind: 'assign-desktops',
  subject: 'environment',
  of: 'customers',
  verb: 'Assign desktops',
  input: Joi.object<Assign>({
    pool: poolField,
    people: Joi.array()
      .items(Joi.string().trim().lowercase().min(1).max(64))
      .min(1)
      .max(2_000)
      .unique()
      .required()
      .messages({ 'array.min': 'name at least one', 'array.unique': 'one of them is there twice' })
      .description('Whom, by account'),
    host: Joi.string().max(40).description('One host for the one person; left out: whichever are free'),
    ready: Joi.boolean().description(
      'Of those that are lacking, as many from the ready shelf as are ready there',
    ),
  }),
  right: 'build',
  confirm: 'press',
  touches: ['person', 'personId', 'new host'],
  undo: 'none',
  needs: ['accounts'],
  title: ({ people, pool }, facts) =>
    people.length === 1
      ? `Give ${people[0] ?? ''} a desktop of ${pool} of ${nameOf(facts)}`
      : `Give ${people.length} people desktops of ${pool} of ${nameOf(facts)}`,
  concerns: ({ people }) => people,
  edit: (intent, { pool: role, people, host, ready }, facts) => {
    const found = poolIn(intent, role);
    if (!found.ok) return found;
    const { pool } = found.value;
    if (!isPersonal(pool)) return refuse({ pool: `many share the hosts of ${role}` });
    const { to, unknown, have } = sorted(pool, people, facts);
    if (to.length === 0)
      return refuse({
        people:
          unknown.length > 0
            ? `${unknown.join(', ')}: not in the directory`
            : `${have.join(', ')}: has one already`,
      });
    if (host !== undefined) return assignOne(found.value.intent, host, to, facts);
    const free = pool.hosts.filter(isFree).length;
    const lacking = Math.max(0, to.length - free);
    if (pool.hosts.length + lacking > pool.ceiling)
      return refuse({
        people: `${role} is made for ${pool.ceiling} hosts at most; it has ${pool.hosts.length}, ${free} of them free`,
      });
    return ok(
      withPool(found.value.intent, role, (one) =>
        given(
          moreHosts(one, lacking, ready === true ? lacking : 0, lastDiskOf(found.value.intent, role)),
          to,
        ),
      ),
    );
  },
  policy: () => ({ atATime: 8, failureLimit: 2, drain: DRAIN }),
  checks: (_edited, { pool: role, people }, facts): Check[] => {
    const pool = facts.environment?.intent.pools.find((one) => one.role === role);
    return pool ? leftOut(sorted(pool, people, facts)) : [];
  },
  people: ({ people }) => people.length,
});

const isFree = ({ person, leftAt }: PoolIntent['hosts'][number]): boolean =>
  person === undefined && leftAt === undefined;

function sorted(pool: PoolIntent, people: readonly string[], { accounts = [] }: Facts): Sorted {
  const byAccount = new Map(accounts.map((one) => [one.account, one]));
  const owners = new Set(pool.hosts.map(({ personId }) => personId));
  const known = people.flatMap((one) => byAccount.get(one) ?? []);
  return {
    to: known.filter(({ person }) => !owners.has(person)),
    unknown: people.filter((one) => !byAccount.has(one)),
    have: known.filter(({ person }) => owners.has(person)).map(({ account }) => account),
  };
}

/** Invalid ones are skipped and named, never carried along. */
function leftOut({ to, unknown, have }: Sorted): Check[] {
  return [
    ...(unknown.length > 0
      ? [
          warns(
            'unknown',
            'People',
            `${to.length} of ${to.length + have.length + unknown.length} get one; ${unknown.join(', ')}: not in the directory`,
            'They are left out. Import them, or ask who they are.',
          ),
        ]
      : [passes('unknown', 'People', `all ${to.length + have.length} are known`)]),
    ...(have.length > 0
      ? [warns('have', 'Have one', `${have.join(', ')}: already`, 'They keep the one that they have.')]
      : []),
  ];
}

function given(pool: PoolIntent, people: readonly NamedAccount[]): PoolIntent {
  const left = [...people];
  return {
    ...pool,
    hosts: pool.hosts.map((host) => {
      const person = isFree(host) ? left.shift() : undefined;
      return person === undefined ? host : patchHost(host, ownedBy(person));
    }),
  };
}

function assignOne(intent: Intent, id: string, [person, ...others]: readonly NamedAccount[], facts: Facts) {
  if (person === undefined || others.length > 0) return refuse({ people: 'one person has one host' });
  const found = desktopsById(intent, facts, [id], 'host');
  if (!found.ok) return found;
  const [desktop] = found.value.desktops;
  if (!desktop || !isFree(desktop.host)) return refuse({ host: 'is somebody’s already' });
  return ok(
    withPool(intent, desktop.pool.role, (pool) => ({
      ...pool,
      hosts: pool.hosts.map((host) =>
        host.slot === desktop.host.slot ? patchHost(host, ownedBy(person)) : host,
      ),
    })),
  );
}
