import Joi from 'joi';
import type { Facts } from '../facts';
import { isSameGrant, withGrants, type PoolGrant } from '../grants';
import { GRANTED_TO, type Grant, type Intent } from '../intent';
import { defineChange, type Check } from '../planning';
import { ok, refuse } from '../result';
import { granteeOf, groupsCheck, nameOf, seatsCheck } from './common';

interface GrantItems {
  readonly add: readonly PoolGrant[];
  /** Those that go; their ends do not matter. */
  readonly take: readonly PoolGrant[];
  /** Pools that get more licence seats with it, so that everyone has one to whom anything is granted. */
  readonly licences: readonly { readonly pool: string; readonly seats: number }[];
}

const MOST = 2_000;

const grant = Joi.object<PoolGrant, true>({
  pool: Joi.string().max(24).required().description('Role of the pool'),
  item: Joi.string().max(80).required(),
  to: Joi.string()
    .valid(...GRANTED_TO)
    .required(),
  id: Joi.string()
    .when('to', {
      is: 'everyone',
      then: Joi.valid('').default(''),
      otherwise: Joi.string().length(26).required(),
    })
    .description('Of the group or person; empty for everyone'),
  until: Joi.number().integer().allow(null).default(null).description('When it ends; null: it does not'),
});

const grants = Joi.array()
  .items(grant)
  .max(MOST)
  .default([])
  .unique((a: PoolGrant, b: PoolGrant) => a.pool === b.pool && isSameGrant(a, b));

const licences = Joi.array()
  .items(
    Joi.object<GrantItems['licences'][number], true>({
      pool: Joi.string().max(24).required(),
      seats: Joi.number().integer().min(1).max(5_000).required(),
    }),
  )
  .max(50)
  .unique('pool')
  .default([])
  .description('Licence seats that pools have from then on: more than now');

/** Gives items to groups and people, and takes them from them: as many at once as are named. */
export const grantItems = defineChange<GrantItems>({
  kind: 'grant-items',
  subject: 'environment',
  of: 'customers',
  verb: 'Grant items',
  input: Joi.object<GrantItems>({ add: grants, take: grants, licences }),
  right: 'build',
  confirm: 'press',
  undo: 'by difference',
  needs: ['grantees'],
  grantees: ({ add, take }) => [...add, ...take].filter(({ id }) => id !== '').map(({ id }) => id),
  title: ({ add, take }, facts) => {
    const verb = add.length === 0 ? 'Take' : take.length === 0 ? 'Grant' : 'Grant and take';
    const [first, ...others] = [...add, ...take];
    const items = new Set([...add, ...take].map(({ pool, item }) => `${pool} ${item}`));
    const what = items.size === 1 ? (first?.item ?? '') : `${items.size} items`;
    const whom = others.length === 0 && first ? whomSays(first, facts) : `${add.length + take.length} grants`;
    return `${verb} ${what} of ${nameOf(facts)}: ${whom}`;
  },
  edit: (intent, { add, take, licences: seats }, facts) => {
    if (intent === null) return refuse({ environment: 'is not there' });
    if (add.length + take.length === 0) return refuse({ add: 'name at least one' });
    for (const one of add) {
      const fault = faultOf(one, intent, facts);
      if (fault !== undefined) return refuse({ add: fault });
    }
    const strange = take.find(
      ({ pool, ...one }) =>
        !intent.pools.some(
          ({ role, grants: has }) => role === pool && has.some((other) => isSameGrant(one, other)),
        ),
    );
    if (strange)
      return refuse({
        take: `${strange.item} of ${strange.pool} is not granted to ${whomSays(strange, facts)}`,
      });
    const fewer = seats.find(
      (one) => !intent.pools.some(({ role, people }) => role === one.pool && one.seats > people),
    );
    if (fewer) return refuse({ licences: `${fewer.pool} has as many licence seats already` });
    const of = (list: readonly PoolGrant[], role: string): Grant[] =>
      list.filter(({ pool }) => pool === role).map(({ pool: _pool, ...one }) => one);
    return ok({
      ...intent,
      pools: intent.pools.map((pool) => ({
        ...pool,
        people: seats.find((one) => one.pool === pool.role)?.seats ?? pool.people,
        grants: withGrants(pool.grants, of(add, pool.role), of(take, pool.role)),
      })),
    });
  },
  policy: () => ({ atATime: 8, failureLimit: 2 }),
  checks: (edited, { add, licences: seats }, facts): Check[] => [
    ...groupsCheck(
      add.filter(({ to }) => to === 'group').map(({ id }) => id),
      facts,
    ),
    ...seats.flatMap(({ pool }) =>
      seatsCheck(edited, pool, 'Add hosts, where all of them may come at once.'),
    ),
  ],
  // Somebody may be in several of the groups: no more are concerned than there are.
  people: ({ add, take }, facts) =>
    Math.min(
      facts.customer.people,
      [...add, ...take].reduce(
        (sum, one) =>
          sum + (one.to === 'everyone' ? facts.customer.people : (granteeOf(facts, one.id)?.people ?? 0)),
        0,
      ),
    ),
});

const whomSays = ({ to, id }: PoolGrant, facts: Facts): string =>
  to === 'everyone' ? 'everyone' : (granteeOf(facts, id)?.name ?? `a ${to} that is not known`);

function faultOf(
  { pool: role, item, to, id, until }: PoolGrant,
  intent: Intent,
  facts: Facts,
): string | undefined {
  const pool = intent.pools.find((one) => one.role === role);
  if (!pool) return `there is no pool ${role}`;
  if (!pool.items.some(({ name }) => name === item)) return `${role} does not publish ${item}`;
  if (until !== null && until <= facts.now) return 'that end is over already';
  if (to === 'everyone') return undefined;
  const grantee = granteeOf(facts, id);
  return grantee?.to === to ? undefined : `one of them is no ${to} of ${facts.customer.code}`;
}
