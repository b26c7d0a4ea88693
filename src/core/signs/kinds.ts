import { BEAT_MS, MISSED_BEATS, compareReleases, type Among, type Heard } from './vitals';

/** What a sign does to people: they cannot work, they work badly, or they will, if nothing is done. */
export const HARMS = ['out', 'slow', 'soon'] as const;
export type Harm = (typeof HARMS)[number];

export const SIGN_KEYS = [
  'silent',
  'refusing',
  'clock',
  'memory',
  'load',
  'sign-in',
  'disk',
  'agent',
] as const;
export type SignKey = (typeof SIGN_KEYS)[number];

/** Something by which a host shows that it is unwell, before anyone calls. */
export interface SignKind {
  readonly key: SignKey;
  /** What several hosts are said to be: `2 hosts do not answer`. */
  readonly many: string;
  readonly harm: (heard: Heard) => Harm;
  /** Whether nobody is placed on it as long as it lasts. */
  readonly closes: (heard: Heard) => boolean;
  /** It lasts until it is clearly over, and does not come and go around a limit. */
  readonly holds: (heard: Heard, before: boolean, among: Among) => boolean;
  readonly says: (heard: Heard, among: Among) => string;
  /** What helps, in one line, and the change that does it; undefined: none of ours does. */
  readonly helps: string;
  readonly mend?: 'restart-hosts' | 'grow-disk' | 'drain';
}

const always =
  <One>(one: One): (() => One) =>
  () =>
    one;

/** Above `begins` it holds, and then until it is below `ends`. */
const above = (value: number, before: boolean, begins: number, ends: number): boolean =>
  value >= (before ? ends : begins);

/** Tickets of a directory are refused where clocks are five minutes apart (RFC 4120, section 1.6, customary skew). */
const SKEW_MS = 5 * 60_000;

const parts = (of: number): string => `${Math.round(of)} %`;
const seconds = (ms: number): string =>
  ms < 120_000 ? `${Math.round(ms / 1_000)} s` : `${Math.round(ms / 60_000)} min`;

/*
 * Limits: common practice, no source. They are where a person would begin to notice, and end some way below, so that what
 * hovers around one does not come and go.
 */

/** From so many hundredths on it is a sign. */
export const LIMITS = { load: 95, memory: 95, disk: 92 } as const;

/** The first that holds is what a host is said to have; what comes after may follow from it. */
export const SIGN_KINDS: readonly SignKind[] = [
  {
    key: 'silent',
    many: 'do not answer',
    harm: always('out'),
    closes: always(true),
    holds: ({ askedAt, heardAt, isUnwell, isMentioned }) =>
      isUnwell || !isMentioned || askedAt - heardAt >= MISSED_BEATS * BEAT_MS,
    says: ({ askedAt, heardAt, isMentioned }) =>
      !isMentioned
        ? 'is on, and nothing is heard of it'
        : askedAt - heardAt < BEAT_MS
          ? 'does not answer'
          : `does not answer, last heard ${seconds(askedAt - heardAt)} before`,
    helps: 'Restart it; where that does not help, make it anew.',
    mend: 'restart-hosts',
  },
  {
    key: 'refusing',
    many: 'refuse sign-ins',
    harm: always('out'),
    closes: always(true),
    holds: ({ signIns: { tried, refused } }, before) =>
      before ? refused >= 2 && refused * 4 >= tried : refused >= 3 && refused * 2 >= tried,
    says: ({ signIns: { tried, refused } }) => `refused ${refused} of ${tried} sign-ins`,
    helps: 'Drain it, so that people come in elsewhere, and restart it when it is empty.',
    mend: 'restart-hosts',
  },
  {
    key: 'clock',
    many: 'have a clock that is off',
    harm: ({ clockOffMs }) => (Math.abs(clockOffMs) >= SKEW_MS ? 'out' : 'soon'),
    closes: ({ clockOffMs }) => Math.abs(clockOffMs) >= SKEW_MS,
    holds: ({ clockOffMs }, before) => above(Math.abs(clockOffMs), before, 60_000, 30_000),
    says: ({ clockOffMs }) =>
      `its clock is ${seconds(Math.abs(clockOffMs))} ${clockOffMs < 0 ? 'behind' : 'ahead'}${
        Math.abs(clockOffMs) >= SKEW_MS ? ', the directory refuses it' : ''
      }`,
    helps: 'A restart sets it. From five minutes on, the directory refuses whoever signs in.',
    mend: 'restart-hosts',
  },
  {
    key: 'memory',
    many: 'have no memory left',
    harm: always('slow'),
    closes: always(false),
    holds: ({ memory }, before) => above(memory, before, LIMITS.memory, 90),
    says: ({ memory }) => `memory ${parts(memory)} taken`,
    helps: 'See what its people run; drain it, so that no more come.',
    mend: 'drain',
  },
  {
    key: 'load',
    many: 'are loaded to the brim',
    harm: always('slow'),
    closes: always(false),
    holds: ({ load }, before) => above(load, before, LIMITS.load, 85),
    says: ({ load }) => `load ${parts(load)}`,
    helps: 'See what its people run; drain it, so that no more come.',
    mend: 'drain',
  },
  {
    key: 'sign-in',
    many: 'take long to sign in',
    harm: always('slow'),
    closes: always(false),
    holds: ({ signInSeconds }, before) => above(signInSeconds, before, 60, 45),
    says: ({ signInSeconds }) => `signing in takes ${Math.round(signInSeconds)} s`,
    helps: 'Restart it when it is empty. On many at once: the profile share, or the way to the directory.',
    mend: 'restart-hosts',
  },
  {
    key: 'disk',
    many: 'have their disk nearly full',
    harm: ({ disk }) => (disk >= 99 ? 'slow' : 'soon'),
    closes: always(false),
    holds: ({ disk }, before) => above(disk, before, LIMITS.disk, 88),
    says: ({ disk }) => `disk ${parts(disk)} full`,
    helps: 'Grow the disk of its pool: nobody is disturbed.',
    mend: 'grow-disk',
  },
  {
    key: 'agent',
    many: 'have an old agent',
    harm: always('soon'),
    closes: always(false),
    holds: ({ agent }, _before, among) =>
      agent !== '' && among.agent !== '' && compareReleases(agent, among.agent) < 0,
    says: ({ agent }, among) => `agent ${agent}, most have ${among.agent}`,
    helps: 'Make the pool anew of its newest image: its agent comes with it.',
  },
];

export const signKind = (key: SignKey): SignKind => {
  const found = SIGN_KINDS.find((one) => one.key === key);
  if (!found) throw new RangeError(`${key} is no sign`);
  return found;
};

/** A sign that a host shows now. */
export interface Sign {
  readonly kind: SignKey;
  readonly harm: Harm;
  readonly closes: boolean;
  readonly says: string;
}

/**
 * What a host shows. One that says nothing shows nothing else: what it said last is old.
 * @param before which signs it showed when it was last heard
 */
export function signsOf(heard: Heard, before: ReadonlySet<SignKey>, among: Among): Sign[] {
  const signs = SIGN_KINDS.filter((kind) => kind.holds(heard, before.has(kind.key), among)).map(
    (kind): Sign => ({
      kind: kind.key,
      harm: kind.harm(heard),
      closes: kind.closes(heard),
      says: kind.says(heard, among),
    }),
  );
  const silent = signs.find((one) => one.kind === 'silent');
  return silent ? [silent] : signs;
}
