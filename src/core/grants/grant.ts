import type { Instant } from '../calendar';
import type { Grant, PublishedItem } from '../intent';

export const toEveryone = (items: readonly PublishedItem[]): Grant[] =>
  items.map(({ name }) => ({ item: name, to: 'everyone', id: '', until: null }));

export const isSameGrant = (a: Grant, b: Grant): boolean =>
  a.item === b.item && a.to === b.to && a.id === b.id;

/** Whether it still holds at an instant. */
export const holdsAt = ({ until }: Grant, at: Instant): boolean => until === null || until > at;

/**
 * Grants with some more and some fewer; one that is there already gets the new end.
 * @param take those that go, whatever their end
 */
export const withGrants = (
  grants: readonly Grant[],
  add: readonly Grant[],
  take: readonly Grant[],
): readonly Grant[] => [
  ...grants
    .filter((one) => !take.some((other) => isSameGrant(one, other)))
    .map((one) => add.find((other) => isSameGrant(one, other)) ?? one),
  ...add.filter((one) => !grants.some((other) => isSameGrant(one, other))),
];

/**
 * The grants of a pool whose items are others now: those of items that are gone go, and where everything was there for
 * everyone, so is what is new.
 */
export function grantsFor(
  grants: readonly Grant[],
  before: readonly PublishedItem[],
  now: readonly PublishedItem[],
): readonly Grant[] {
  const open = (item: PublishedItem): boolean =>
    grants.some((one) => one.item === item.name && one.to === 'everyone');
  const fresh = now.filter(({ name }) => !before.some((one) => one.name === name));
  return [
    ...grants.filter((one) => now.some(({ name }) => name === one.item)),
    ...(before.every(open) ? toEveryone(fresh) : []),
  ];
}

/** A grant on one line, as it stands at the provider: `Tallybrook: group 01J… until 2026-12-31T00:00:00.000Z`. */
export const grantLine = ({ item, to, id, until }: Grant): string =>
  `${item}: ${to}${id === '' ? '' : ` ${id}`}${until === null ? '' : ` until ${new Date(until).toISOString()}`}`;
