import Joi from 'joi';
import type { Facts } from '../facts';
import { grantsFor } from '../grants';
import { withPool, type PoolIntent, type PublishedItem } from '../intent';
import { isOn, itemSchema, itemsOf, programOf, tidyItem } from '../items';
import { defineChange, passes, warns, type Check } from '../planning';
import { ok, refuse } from '../result';
import { nameOf, poolField, poolIn } from './common';

interface NewlyPublished extends PublishedItem {
  /** What it is called now, where it gets another name: whom it is granted to stays so. */
  readonly was?: string;
}

interface PublishItems {
  readonly pool: string;
  /** All that it publishes from now on, in the order in which people find it. */
  readonly items: readonly NewlyPublished[];
}

const newlyPublished = itemsOf<NewlyPublished>(
  itemSchema.append<NewlyPublished>({
    was: Joi.string().max(80).description('What it is called now, where it gets another name'),
  }),
);

/** What a pool puts before its people: more of it, less, or otherwise. What it has stays granted as it is. */
export const publishItems = defineChange<PublishItems>({
  kind: 'publish-items',
  subject: 'environment',
  of: 'customers',
  verb: 'Publish items',
  input: Joi.object<PublishItems>({
    pool: poolField,
    items: newlyPublished.required().messages({
      'array.min': 'nothing is published: people would find nothing',
      'array.unique': 'two items have the same name',
    }),
  }),
  right: 'build',
  confirm: 'press',
  undo: 'by difference',
  title: ({ pool, items }, facts) => {
    const before = facts.environment?.intent.pools.find(({ role }) => role === pool)?.items ?? [];
    const { more, fewer } = movesOf(before, items);
    const [first, ...others] = more.length > 0 ? more : fewer;
    const verb = more.length === 0 && fewer.length > 0 ? 'Take' : 'Publish';
    const what =
      first === undefined ? 'items otherwise' : others.length === 0 ? first : `${1 + others.length} items`;
    return `${verb} ${what} ${more.length === 0 && fewer.length > 0 ? 'from' : 'in'} ${pool} of ${nameOf(facts)}`;
  },
  edit: (intent, { pool: role, items }) => {
    const found = poolIn(intent, role);
    if (!found.ok) return found;
    const { pool } = found.value;
    const now = items.map(tidyItem);
    const strange = items.findIndex(
      ({ was }, n) =>
        was !== undefined &&
        (!pool.items.some(({ name }) => name === was) || items.findIndex((one) => one.was === was) < n),
    );
    if (strange >= 0)
      return refuse({ [`items.${strange}.was`]: `${role} has no such item, or it is named twice` });
    const at = now.findIndex(({ crosses = [] }) => crosses.some((one) => !pool.crosses.includes(one)));
    if (at >= 0) {
      const wide = now[at]?.crosses?.filter((one) => !pool.crosses.includes(one)) ?? [];
      return refuse({ [`items.${at}.crosses`]: `${wide.join(', ')} may not cross in ${role}` });
    }
    if (JSON.stringify(now) === JSON.stringify(pool.items.map(tidyItem)))
      return refuse({ items: 'it publishes just these already' });
    return ok(withPool(found.value.intent, role, (one) => withItems(one, items, now)));
  },
  policy: () => ({ atATime: 8, failureLimit: 2 }),
  checks: (_edited, { pool, items }, facts): Check[] => programsCheck(pool, items, facts),
  // Whom it concerns is who may lose something; what is new nobody has yet.
  people: ({ pool: role, items }, facts) => {
    const pool = facts.environment?.intent.pools.find((one) => one.role === role);
    return pool && movesOf(pool.items, items).fewer.length > 0
      ? Math.min(pool.people, facts.customer.people)
      : 0;
  },
});

/** Names of what comes and what goes. */
function movesOf(
  before: readonly PublishedItem[],
  now: readonly NewlyPublished[],
): { readonly more: string[]; readonly fewer: string[] } {
  const without = (all: readonly PublishedItem[], other: readonly PublishedItem[]): string[] =>
    all.map(({ name }) => name).filter((name) => !other.some((one) => one.name === name));
  const renamed = new Set(now.flatMap(({ was }) => was ?? []));
  return {
    more: without(now, before),
    fewer: without(before, now).filter((name) => !renamed.has(name)),
  };
}

/** What has another name now is granted as it was. */
function withItems(
  pool: PoolIntent,
  asked: readonly NewlyPublished[],
  now: readonly PublishedItem[],
): PoolIntent {
  const nameNow = new Map(
    asked.flatMap(({ was, name }) => (was === undefined ? [] : [[was, name] as const])),
  );
  const named = (name: string): string => nameNow.get(name) ?? name;
  const before = pool.items.map((item) => ({ ...item, name: named(item.name) }));
  const grants = pool.grants.map((grant) => ({ ...grant, item: named(grant.item) }));
  return { ...pool, items: now, grants: grantsFor(grants, before, now) };
}

/** An app that is not on the image starts nothing. What is on a provider's own image nobody has told. */
function programsCheck(role: string, items: readonly PublishedItem[], facts: Facts): Check[] {
  const image = facts.environment?.intent.pools.find((one) => one.role === role)?.image ?? '';
  const { images, imagesElsewhere = [] } = facts.site;
  const of = [...images, ...imagesElsewhere].find(({ name }) => name === image)?.of;
  const apps = items.filter(({ kind }) => kind === 'app');
  if (of === undefined || apps.length === 0) return [];
  const missing = apps.filter((one) => !isOn(one, of.programs));
  if (missing.length === 0) return [passes('programs', 'Programs', `all of them are on ${image}`)];
  return [
    warns(
      'programs',
      'Programs',
      `${missing.map(programOf).join(', ')}: not on ${image}`,
      'Install it with the next version of the image, or say which program it starts.',
    ),
  ];
}
