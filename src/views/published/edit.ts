import type { Published } from '../../contract';
import { itemsSchema, tidyItem } from '../../core/items';
import type { PublishedItem } from '../../core/intent';

/** What is edited of a pool's items, before anything is published. */
export interface DraftItem extends PublishedItem {
  /** What it is called where it is published; left out: it is new. */
  readonly was?: string;
}

export interface Draft {
  readonly items: readonly DraftItem[];
  /** Which of them is edited. */
  readonly at: number;
}

export type PublishedPool = Published['pools'][number];

export const draftOf = (pool: PublishedPool): Draft => ({
  items: pool.items.map((told) => ({ ...tidyItem(told), was: told.name })),
  at: 0,
});

/** With one field of the edited item otherwise; empty: left out. */
export const withField = <Key extends keyof PublishedItem>(
  draft: Draft,
  key: Key,
  value: PublishedItem[Key] | undefined,
): Draft => ({
  ...draft,
  items: draft.items.map((item, n) => {
    if (n !== draft.at) return item;
    const isLeftOut = value === false || (value === '' && key !== 'name');
    return { ...item, [key]: isLeftOut ? undefined : value };
  }),
});

export const withItem = (draft: Draft, item: PublishedItem): Draft => ({
  items: [...draft.items, item],
  at: draft.items.length,
});

export const withoutItem = (draft: Draft, at: number): Draft => {
  const items = draft.items.filter((_, n) => n !== at);
  return { items, at: Math.max(0, Math.min(at, items.length - 1)) };
};

/** Moved one place nearer to the beginning. */
export function sooner({ items, at }: Draft): Draft {
  const [before, item] = [items[at - 1], items[at]];
  if (!before || !item) return { items, at };
  return { items: items.map((one, n) => (n === at - 1 ? item : n === at ? before : one)), at: at - 1 };
}

/** A name that none of them has: `Tallybrook 2`. */
export function freeName(items: readonly PublishedItem[], name: string): string {
  const taken = new Set(items.map((one) => one.name.toLowerCase()));
  for (let n = 1; ; n++) {
    const tried = n === 1 ? name : `${name} ${n}`;
    if (!taken.has(tried.toLowerCase())) return tried;
  }
}

/** What is wrong, by place and field: `0.name`. */
export function faultsOf(items: readonly DraftItem[]): Readonly<Record<string, string>> {
  const plain = items.map(({ was: _was, ...item }) => item);
  const { error } = itemsSchema.validate(plain, { abortEarly: false, errors: { label: false } });
  return Object.fromEntries(
    (error?.details ?? []).map(({ path, message, type }) =>
      type === 'array.unique'
        ? [`${path[0] ?? 0}.name`, 'another item has this name']
        : [path.join('.'), type === 'string.empty' ? 'is missing' : message],
    ),
  );
}

export type ItemState = 'same' | 'new' | 'otherwise';

/** How an item is against what is published now. */
export function stateOf({ was, ...item }: DraftItem, pool: PublishedPool): ItemState {
  const before = pool.items.find(({ name }) => name === was);
  if (!before) return 'new';
  return JSON.stringify(tidyItem(before)) === JSON.stringify(tidyItem(item)) ? 'same' : 'otherwise';
}

/** What is published and shall be no more. */
export const goneOf = (items: readonly DraftItem[], pool: PublishedPool): PublishedPool['items'] =>
  pool.items.filter(({ name }) => !items.some(({ was }) => was === name));

/** The items as they are asked for: what they were called is said where they get another name. */
export const asked = ({ items }: Draft): DraftItem[] =>
  items.map(({ was, ...item }) =>
    was === undefined || was === item.name ? tidyItem(item) : { ...tidyItem(item), was },
  );

/** How many items come, go or are otherwise; in another order counts as one. */
export function movesOf({ items }: Draft, pool: PublishedPool): number {
  const gone = goneOf(items, pool).length;
  const moved = items.filter((item) => stateOf(item, pool) !== 'same').length;
  const order = (all: readonly { readonly name: string }[]): string => all.map(({ name }) => name).join('\n');
  return gone + moved > 0 ? gone + moved : order(items) === order(pool.items) ? 0 : 1;
}
