import type { GivenPool, Intent, PoolIntent } from '../intent';
import { writeSize, type MachineSize } from '../machines';
import { writeTerm } from '../terms';

/** One thing of an environment that is otherwise than its template gave it. */
export interface Deviation {
  /** `desks.diskGiB`; `desks`: the whole pool; `naming`, `tags`. */
  readonly key: string;
  /** Empty: it is of the whole environment. */
  readonly pool: string;
  readonly what: string;
  readonly given: string;
  readonly is: string;
}

/** What a template gives to a pool, thing by thing: what is otherwise by now, and how it is put back. */
export interface GivenTerm {
  readonly key: string;
  readonly title: string;
  /** As it is compared. */
  readonly of: (pool: GivenPool) => unknown;
  readonly says: (pool: GivenPool, sizes: readonly MachineSize[]) => string;
  /** The pool with that of another. */
  readonly from: (pool: PoolIntent, other: GivenPool) => PoolIntent;
}

type Plain =
  'profile' | 'mostSeats' | 'arrival' | 'diskGiB' | 'ownDiskGiB' | 'assign' | 'items' | 'crosses' | 'may';

const plain = (key: Plain, title: string): GivenTerm => ({
  key,
  title,
  of: (pool) => pool[key],
  says: (pool) => writeTerm(key, pool[key]),
  from: (pool, other) => ({ ...pool, [key]: other[key] }),
});

const figure = (key: 'shareGiB' | 'ceiling' | 'people', title: string, unit: string): GivenTerm => ({
  key,
  title,
  of: (pool) => pool[key],
  says: (pool) => `${pool[key]} ${unit}`,
  from: (pool, other) => ({ ...pool, [key]: other[key] }),
});

export const GIVEN_TERMS: readonly GivenTerm[] = [
  {
    key: 'image',
    title: 'Image',
    // Which version of a line it is, is a matter of its refreshing.
    of: ({ line, image }) => line ?? image,
    says: ({ line, image }) => line ?? image,
    from: ({ line: _line, track: _track, ...pool }, { image, line, track }) => ({
      ...pool,
      image,
      ...(line === undefined ? {} : { line, track }),
    }),
  },
  {
    key: 'track',
    title: 'Version',
    of: ({ track }) => track,
    says: ({ track }) => track ?? 'the provider’s',
    from: (pool, { image, line, track }) => (pool.line === line ? { ...pool, image, track } : pool),
  },
  figure('people', 'People', 'at most'),
  plain('profile', 'Work'),
  {
    key: 'size',
    title: 'Size',
    of: ({ size }) => size,
    says: ({ size }, sizes) => {
      const found = sizes.find((one) => one.key === size);
      return found ? writeSize(found) : size;
    },
    from: (pool, { size }) => ({ ...pool, size }),
  },
  plain('mostSeats', 'Seats on a host, at most'),
  plain('arrival', 'Arrivals'),
  plain('diskGiB', 'Disk'),
  plain('ownDiskGiB', 'Own disk'),
  plain('assign', 'Given out'),
  figure('shareGiB', 'Share', 'GiB'),
  figure('ceiling', 'Ceiling', 'hosts'),
  plain('items', 'Items'),
  plain('crosses', 'May cross'),
  plain('may', 'People may'),
];

export const isAlike = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);

/** Everything of an environment that is otherwise than its template gave it. None for what came from none. */
export function deviationsOf(
  { template, pools, naming, tags }: Pick<Intent, 'template' | 'pools' | 'naming' | 'tags'>,
  sizes: readonly MachineSize[],
): Deviation[] {
  if (template === null) return [];
  const { gave } = template;
  const whole = (key: string, what: string, given: string, is: string): Deviation[] =>
    given === is ? [] : [{ key, pool: '', what, given, is }];
  return [
    ...whole('naming', 'Names', gave.naming, naming),
    ...whole('tags', 'Tags', writeTags(gave.tags), writeTags(tags)),
    ...gave.pools.flatMap((given) => {
      const pool = pools.find(({ role }) => role === given.role);
      if (!pool)
        return [{ key: given.role, pool: given.role, what: 'Pool', given: 'is there', is: 'is not there' }];
      return [...poolDeviations(given, pool, sizes), ...ownHosts(pool)];
    }),
    ...pools
      .filter(({ role }) => !gave.pools.some((given) => given.role === role))
      .map(({ role }) => ({ key: role, pool: role, what: 'Pool', given: 'is not there', is: 'is there' })),
  ];
}

/** Tags as people read them. */
export const writeTags = (tags: Intent['tags']): string =>
  Object.entries(tags)
    .map(([key, value]) => `${key}: ${value}`)
    .sort()
    .join(', ') || 'none';

const poolDeviations = (given: GivenPool, pool: PoolIntent, sizes: readonly MachineSize[]): Deviation[] =>
  GIVEN_TERMS.filter(
    (term) => !isAlike(term.of(given), term.of(pool)) && (term.key !== 'track' || given.line === pool.line),
  ).map((term) => ({
    key: `${given.role}.${term.key}`,
    pool: given.role,
    what: term.title,
    given: term.says(given, sizes),
    is: term.says(pool, sizes),
  }));

/** Hosts whose size or disk was taken as wanted, as it was found. */
function ownHosts(pool: PoolIntent): Deviation[] {
  const own = pool.hosts.filter(({ size, diskGiB }) => size !== undefined || diskGiB !== undefined);
  if (own.length === 0) return [];
  const says = own.length === 1 ? 'one is otherwise' : `${own.length} are otherwise`;
  return [{ key: `${pool.role}.hosts`, pool: pool.role, what: 'Hosts', given: 'all alike', is: says }];
}
