import type { Attributes, ImageTrack, Intent } from '../intent';
import type { Instant } from '../calendar';
import type { RefreshRule } from '../refresh';

/** By these names the intent of an image holds what it is, and its versions. */
export const IMAGE = 'image';
export const VERSIONS = 'image versions';
export const REFRESH = 'image refresh';

export const VERSION_STATES = ['trial', 'current', 'kept', 'dropped'] as const;
export type VersionState = (typeof VERSION_STATES)[number];

/** One capture of an image, wanted at some sites. */
export interface ImageVersion {
  readonly number: number;
  readonly state: VersionState;
  /** What it was begun from: an image of the provider's, or `name@number` of ours. */
  readonly from: string;
  /** The recipe that it was built by, as YAML. */
  readonly recipe: string;
  /** Sites that it is wanted at; the first is where it is built. */
  readonly sites: readonly string[];
  /** Whether the machine that it is built on is wanted. */
  readonly machine: boolean;
  /** Which machine: one more each time that the one before could not be used. */
  readonly attempt: number;
  /** When the machine is taken away although nothing came of it; 0: as soon as it is captured. */
  readonly keepUntil: Instant;
  /** What is otherwise than before, in a person's words. */
  readonly note: string;
  /** Whether its rule asked for it: pilots try it then by themselves. */
  readonly byRule: boolean;
  readonly begunAt: Instant;
}

/** An image that is made here: a line of versions. */
export interface ImageLine {
  /** As pools name it; small letters, digits and hyphens. */
  readonly code: string;
  readonly name: string;
  readonly says: string;
  readonly site: string;
  /** What the next version begins from, as a version's `from`; `itself`: its current version. */
  readonly from: string;
  /** The recipe of the next version. */
  readonly recipe: string;
  /** So many older versions are kept. */
  readonly keep: number;
  /** What it is built on. */
  readonly size: string;
  readonly diskGiB: number;
  /** Programs on it that need a licence for each person. */
  readonly licences: readonly string[];
  /** When it is built anew without anyone's asking; undefined: only when someone does. */
  readonly refresh?: RefreshRule | undefined;
  /** The newest last. */
  readonly versions: readonly ImageVersion[];
}

/** The image begins from its own current version. */
export const ITSELF = 'itself';

const texts = (value: Attributes[string] | undefined): readonly string[] =>
  Array.isArray(value) ? value.map(String) : [];

/** The image that an intent is of; undefined: it is of something else. */
export function lineOf({ name, site, more }: Pick<Intent, 'name' | 'site' | 'more'>): ImageLine | undefined {
  const [held] = more[IMAGE] ?? [];
  if (!held) return undefined;
  return {
    code: name,
    site,
    name: String(held.name),
    says: String(held.says),
    from: String(held.from),
    recipe: String(held.recipe),
    keep: Number(held.keep),
    size: String(held.size),
    diskGiB: Number(held.diskGiB),
    licences: texts(held.licences),
    ...refreshOf(more[REFRESH]?.[0]),
    versions: (more[VERSIONS] ?? []).map((one) => ({
      number: Number(one.number),
      state: VERSION_STATES.find((state) => state === one.state) ?? 'dropped',
      from: String(one.from),
      recipe: String(one.recipe),
      sites: texts(one.sites),
      machine: one.machine === true,
      attempt: Number(one.attempt),
      keepUntil: Number(one.keepUntil),
      note: String(one.note),
      byRule: one.byRule === true,
      begunAt: Number(one.begunAt),
    })),
  };
}

const refreshOf = (held: Attributes | undefined): Pick<ImageLine, 'refresh'> =>
  held
    ? {
        refresh: {
          rule: String(held.rule),
          after: Number(held.after),
          time: String(held.time),
          zone: String(held.zone),
          country: String(held.country),
        },
      }
    : {};

/** The intent of an image. */
export function intentOf(line: ImageLine): Intent {
  const { code, site, versions, refresh, ...image } = line;
  return {
    name: code,
    site,
    template: null,
    tags: {},
    naming: '',
    people: 0,
    pools: [],
    more: {
      [IMAGE]: [image],
      ...(refresh ? { [REFRESH]: [{ ...refresh }] } : {}),
      [VERSIONS]: versions.map((one): Attributes => ({ ...one })),
    },
  };
}

/** So fast images are copied from site to site. Common practice, no source. */
const COPIED_GIB_A_SECOND = 0.12;

/** How long a copy of so many GiB takes, in seconds. */
export const copySeconds = (gib: number): number => Math.ceil(gib / COPIED_GIB_A_SECOND);

/** How hosts and sites name a version: `office@3`. */
export const versionName = (code: string, number: number): string => `${code}@${number}`;

export const imageKey = (number: number, site: string): string => `image:${number}:${site}`;

export const currentOf = ({ versions }: Pick<ImageLine, 'versions'>): ImageVersion | undefined =>
  versions.find((one) => one.state === 'current');

/** Which version a pool that follows a line has: the current one, or the newest on trial, while there is none the current one. */
export function versionFor(
  versions: readonly { readonly number: number; readonly state: VersionState }[],
  track: ImageTrack,
): number | undefined {
  const newest = (state: VersionState): number | undefined =>
    versions
      .filter((one) => one.state === state)
      .map((one) => one.number)
      .sort((a, b) => b - a)[0];
  return track === 'trial' ? (newest('trial') ?? newest('current')) : newest('current');
}

export const withVersion = (
  line: ImageLine,
  number: number,
  edit: (version: ImageVersion) => ImageVersion,
): ImageLine => ({
  ...line,
  versions: line.versions.map((one) => (one.number === number ? edit(one) : one)),
});

/**
 * A version made current: the one before is kept, and of those that are kept the oldest are dropped that are more than
 * are to be kept and that nothing stands on. What was current before can be made current again.
 * @param isUsed whether hosts stand on a version
 */
export function madeCurrent(line: ImageLine, number: number, isUsed: (number: number) => boolean): ImageLine {
  const versions = line.versions.map((one): ImageVersion => {
    if (one.number === number) return { ...one, state: 'current' };
    return one.state === 'current' ? { ...one, state: 'kept' } : one;
  });
  const kept = versions.filter((one) => one.state === 'kept').sort((a, b) => b.number - a.number);
  const tooMany = new Set(
    kept
      .slice(line.keep)
      .filter((one) => !isUsed(one.number))
      .map((one) => one.number),
  );
  return {
    ...line,
    versions: versions.map((one) => (tooMany.has(one.number) ? dropped(one) : one)),
  };
}

/** So many dropped versions stay known; what was before them the trail tells. */
const DROPPED_KNOWN = 12;

/** The versions without the oldest of those that were dropped, so that a line does not grow for ever. */
export function withoutOldest(versions: readonly ImageVersion[]): readonly ImageVersion[] {
  const known = new Set(
    versions
      .filter((one) => one.state === 'dropped')
      .slice(-DROPPED_KNOWN)
      .map((one) => one.number),
  );
  return versions.filter((one) => one.state !== 'dropped' || known.has(one.number));
}

/** A version that is not wanted any more, anywhere; what it was stays known. */
export const dropped = (version: ImageVersion): ImageVersion => ({
  ...version,
  state: 'dropped',
  sites: [],
  machine: false,
});
