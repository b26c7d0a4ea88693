import Joi from 'joi';
import type { Facts, Grantee, HostFacts, KnownResource } from '../facts';
import { versionFor, versionName } from '../images';
import type { HostIntent, ImageTrack, Intent, PoolIntent } from '../intent';
import { blocks, passes, warns, type Check, type Refusal } from '../planning';
import { hostKey, type Policy, isHost } from '../resources';
import { ok, refuse, type Result } from '../result';

/* What several changes say alike. */

export const poolField = Joi.string().max(24).required().description("The pool's name");

export const hostIds = Joi.array()
  .items(Joi.string().max(40))
  .min(1)
  .max(2000)
  .unique()
  .messages({ 'array.min': 'choose at least one', 'array.unique': 'one host is there twice' });

/** One pool of an intent. Refuses, beside the field, a pool that it does not have. */
export function poolIn(
  intent: Intent | null,
  role: string,
): Result<{ intent: Intent; pool: PoolIntent }, Refusal> {
  if (intent === null) return refuse({ environment: 'is not there' });
  const pool = intent.pools.find((one) => one.role === role);
  return pool ? ok({ intent, pool }) : refuse({ pool: `${intent.name} has no pool ${role}` });
}

/** Hosts of the environment by their ids. Undefined: one of them is not its host. */
export function hostsById(
  facts: Pick<HostFacts, 'known'>,
  ids: readonly string[],
): KnownResource[] | undefined {
  const wanted = new Set(ids);
  const found = facts.known.filter((one) => isHost(one) && one.wanted && wanted.has(one.id));
  return found.length === wanted.size ? found : undefined;
}

/** The intent with some of its hosts otherwise, or gone. */
export function withHosts(
  intent: Intent,
  keys: ReadonlySet<string>,
  edit: (host: HostIntent) => HostIntent | undefined,
): Intent {
  return {
    ...intent,
    pools: intent.pools.map((pool) => ({
      ...pool,
      hosts: pool.hosts.flatMap((host) =>
        keys.has(hostKey(pool.role, host.slot)) ? (edit(host) ?? []) : [host],
      ),
    })),
  };
}

/** What becomes of what people keep there, where a pool or an environment goes. */
export interface DataChoice {
  /** `kept`: as long as the plan promises. */
  readonly data: 'kept' | 'destroyed';
}

export const dataField = Joi.string()
  .valid('kept', 'destroyed')
  .default('kept')
  .description(
    'What becomes of profiles and personal disks: kept as long as the plan promises, or destroyed',
  );

/** How hosts are taken away for good. Half an hour is common practice, no source. */
export const forGood: Policy = {
  atATime: 8,
  failureLimit: 3,
  drain: { minutes: 30, message: 'This desktop closes for good. Please save your work and sign out.' },
};

/** `3 hosts`, or the one's name. */
export const hostsSay = (hosts: readonly KnownResource[]): string =>
  hosts.length === 1 ? (hosts[0]?.name ?? '') : `${hosts.length} hosts`;

/** What a pool has that nobody signs in to. */
export const seatsless = {
  seats: 1,
  profile: 'standard',
  mostSeats: 1,
  arrival: 'spread',
  people: 0,
  shareGiB: 0,
  items: [],
  grants: [],
  ownDiskGiB: 0,
  assign: 'ahead',
  crosses: [],
  may: [],
} as const;

export const nameOf = (facts: Pick<HostFacts, 'environment'>): string => facts.environment?.intent.name ?? '';

/** Warns when a pool has fewer seats than people. */
export function seatsCheck(edited: Intent | null, role: string, action: string): Check[] {
  const pool = edited?.pools.find((one) => one.role === role);
  if (!pool || pool.hosts.length * pool.seats >= pool.people) return [];
  return [warns('seats', 'Seats', `${pool.hosts.length * pool.seats} for ${pool.people} people`, action)];
}

/**
 * The image that a pool's hosts are made of at a site: of a line of ours a version, by the track that it follows. What is
 * no line of ours is the provider's, by its own name.
 */
export function imageFor(
  { images, imagesElsewhere = [] }: Pick<Facts['site'], 'images' | 'imagesElsewhere'>,
  image: string,
  track: ImageTrack = 'current',
): Pick<PoolIntent, 'image' | 'line' | 'track'> {
  const versions = [...images, ...imagesElsewhere].flatMap(({ of }) => (of?.line === image ? [of] : []));
  if (versions.length === 0) return { image };
  const number = versionFor(versions, track);
  return { image: number === undefined ? image : versionName(image, number), line: image, track };
}

/** A group or person that a change names; undefined: they are nobody of the customer's. */
export const granteeOf = ({ grantees = [] }: Facts, id: string): Grantee | undefined =>
  grantees.find((one) => one.id === id);

/** A group outside what is read of the directory reaches nobody: it is told where it stands. */
export function groupsCheck(ids: readonly string[], facts: Facts): Check[] {
  const groups = [...new Set(ids)].flatMap((id) => granteeOf(facts, id) ?? []);
  if (groups.length === 0) return [];
  const outside = groups.filter(({ inScope }) => !inScope);
  if (outside.length > 0)
    return [
      blocks(
        'groups',
        'Groups',
        outside
          .map(
            ({ name, unit }) => `${name} stands in ${unit === '' ? 'no unit' : unit}, outside what is read`,
          )
          .join('; '),
        'Take it into the scope of the directory first.',
      ),
    ];
  const empty = groups.filter(({ people }) => people === 0);
  return empty.length > 0
    ? [
        warns(
          'groups',
          'Groups',
          `${empty.map(({ name }) => name).join(', ')}: nobody is in it`,
          'It reaches people once somebody is.',
        ),
      ]
    : [passes('groups', 'Groups', groups.map(({ name, people }) => `${name}: ${people} people`).join(', '))];
}
