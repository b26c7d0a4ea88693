import type { MadeImage, MadeVersion } from '../../contract';
import type { ChipTone } from '../../ui/Chip';

export type VersionState = MadeVersion['state'];

/** Whether a version is being built: its machine is wanted and nothing is captured. */
export const isBuilding = (version: MadeVersion): boolean => version.machine && version.capturedAt === null;

/** Which runs build a version. */
const BUILDS: ReadonlySet<string> = new Set(['build-image', 'go-on']);

/** The run that last worked on a version. */
export const buildOf = ({ runs }: Pick<MadeImage, 'runs'>): MadeImage['runs'][number] | undefined =>
  runs.find((one) => BUILDS.has(one.kind));

/** What a version is now, in a word: also that its build is at work, or has stopped. */
export function wordOf(image: Pick<MadeImage, 'runs'>, version: MadeVersion): string {
  if (!isBuilding(version)) return version.state;
  return buildOf(image)?.state === 'stopped' ? 'stopped' : 'being built';
}

export const hostsOf = ({ uses, otherHosts }: Pick<MadeVersion, 'uses' | 'otherHosts'>): number =>
  otherHosts + uses.reduce((all, one) => all + one.hosts, 0);

export const STATE_TONE: Readonly<Record<VersionState, ChipTone>> = {
  trial: 'care',
  current: 'good',
  kept: 'quiet',
  dropped: 'quiet',
};

const DAY = 86_400_000;

/** How old a version is, in words. */
export function ageOf(version: Pick<MadeVersion, 'capturedAt'>, now: number): string {
  if (version.capturedAt === null) return '';
  const days = Math.floor((now - version.capturedAt) / DAY);
  if (days < 1) return 'of today';
  return days === 1 ? '1 day old' : `${days} days old`;
}

export interface Spot {
  readonly number: number;
  readonly x: number;
  readonly y: number;
  /** Where it branches off; undefined: it comes of what a provider offers. */
  readonly from: { readonly x: number; readonly y: number } | undefined;
}

const STEP = 104;
const LANE = 46;

/**
 * Where the versions are drawn, the oldest first: those that came of the current one of their time run on in its lane, what
 * begins anew from what a provider offers begins at the left edge.
 */
export function spotsOf(code: string, versions: readonly MadeVersion[]): Spot[] {
  const oldestFirst = [...versions].sort((a, b) => a.number - b.number);
  const spots: Spot[] = [];
  const lanes = new Map<number, number>();
  for (const [n, version] of oldestFirst.entries()) {
    const parent = spots.find((one) => `${code}@${one.number}` === version.from);
    const siblings = spots.filter((one) => parent && one.from?.x === parent.x && one.from.y === parent.y);
    const lane = parent ? (lanes.get(parent.number) ?? 0) + siblings.length : 0;
    lanes.set(version.number, lane);
    spots.push({
      number: version.number,
      x: 70 + n * STEP,
      y: 44 + lane * LANE,
      from: parent && { x: parent.x, y: parent.y },
    });
  }
  return spots;
}
