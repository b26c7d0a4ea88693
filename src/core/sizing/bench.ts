import type { MachineSize } from '../machines';
import type { Money } from '../money';
import { ARRIVAL_RULES, type ArrivalRule } from '../placement';
import {
  DISK_OPERATIONS_A_HOST,
  hostsFor,
  isPersonal,
  peakOf,
  seatsOn,
  SYSTEM_MEMORY_GIB,
  whole,
  type Resource,
  type WorkProfile,
} from './sizes';

/** People of one kind of work in a pool. */
export interface WorkGroup {
  readonly profile: WorkProfile;
  readonly people: number;
  /** The part of them that is in at the busiest moment: 0 to 1. */
  readonly concurrency: number;
}

/** A size at a site, with what so many hosts of it cost a month: hosts, disks, shares, licences, whatever there is. */
export interface OfferedSize {
  readonly site: string;
  readonly size: MachineSize;
  readonly monthlyOf: (hosts: number) => Money;
}

/** One way to carry everyone: a point of the picture. */
export interface BenchPoint {
  /** The same each time it is reckoned. */
  readonly key: string;
  readonly site: string;
  readonly size: MachineSize;
  readonly arrival: ArrivalRule;
  readonly hosts: number;
  readonly seats: number;
  /** What runs out first on a host. */
  readonly binding: Resource;
  readonly monthly: Money;
  /** So many hosts may fail, and everyone has a seat still. */
  readonly spareHosts: number;
  /** Of everyone at the busiest moment, those on the host that has most of them. */
  readonly peopleHit: number;
  /** Another costs no more, hits no more people and spares no fewer hosts, and is better in one of them. */
  readonly isBeaten: boolean;
}

export interface BenchQuestion {
  readonly groups: readonly WorkGroup[];
  readonly offers: readonly OfferedSize[];
  /** Seats kept ready beyond those who are in, for who arrives. */
  readonly spareSeats: number;
  /** Most seats on a host, however large it is; undefined: as many as it carries. */
  readonly mostSeats?: number | undefined;
}

/** Hosts beyond those that are needed: none, one (N+1) and two (N+2). */
const MORE = [0, 1, 2] as const;

/** Everyone who is in at the busiest moment, and what the average one of them takes. Undefined: there is nobody. */
export function mixOf(
  groups: readonly WorkGroup[],
): { readonly peak: number; readonly need: WorkProfile } | undefined {
  const at = groups.map((one) => ({ ...one, peak: peakOf(one.people, one.concurrency) }));
  const peak = at.reduce((all, one) => all + one.peak, 0);
  if (peak === 0) return undefined;
  const average = (of: (profile: WorkProfile) => number): number =>
    at.reduce((all, one) => all + one.peak * of(one.profile), 0) / peak;
  const heaviest = at.reduce((a, b) => (b.profile.peoplePerVcpu < a.profile.peoplePerVcpu ? b : a));
  return {
    peak,
    need: {
      key: heaviest.profile.key,
      peoplePerVcpu: 1 / average((one) => 1 / one.peoplePerVcpu),
      memoryGiB: average((one) => one.memoryGiB),
      diskOperations: average((one) => one.diskOperations),
      graphicsGiB: average((one) => one.graphicsGiB),
    },
  };
}

/**
 * Hosts of a size that everyone who is in at once fits on, person by person: who takes most first, each host filled before
 * the next. The average of a mix may fit where the heaviest of it does not.
 * @returns undefined when a group has no seat on the size at all
 */
export function packedHosts(
  size: MachineSize,
  groups: readonly WorkGroup[],
  mostSeats?: number,
): number | undefined {
  const left = groups
    .map(({ profile, people, concurrency }) => ({ profile, count: peakOf(people, concurrency) }))
    .filter(({ count }) => count > 0)
    .sort((a, b) => shareOf(size, b.profile) - shareOf(size, a.profile));
  if (left.some(({ profile }) => seatsOn(size, profile, mostSeats).seats === 0)) return undefined;
  let hosts = 0;
  while (left.some(({ count }) => count > 0)) {
    hosts += 1;
    let [share, seats] = [0, 0];
    const taken = { vcpu: 0, memory: 0, operations: 0, graphics: 0 };
    for (const group of left) {
      const free = freeFor(size, group.profile, taken);
      const some = Math.min(group.count, free, (mostSeats ?? Infinity) - seats);
      if (some <= 0) continue;
      group.count -= some;
      seats += some;
      share += some * shareOf(size, group.profile);
      taken.vcpu += some / group.profile.peoplePerVcpu;
      taken.memory += some * group.profile.memoryGiB;
      taken.operations += some * group.profile.diskOperations;
      taken.graphics += some * group.profile.graphicsGiB;
    }
    if (share === 0) return undefined;
  }
  return hosts;
}

/** The part of a host that one person takes, by what they take most of. */
const shareOf = ({ vcpu, memoryGiB, graphicsGiB = 0 }: MachineSize, one: WorkProfile): number =>
  Math.max(
    1 / one.peoplePerVcpu / vcpu,
    one.memoryGiB / Math.max(0.001, memoryGiB - SYSTEM_MEMORY_GIB),
    one.diskOperations / DISK_OPERATIONS_A_HOST,
    one.graphicsGiB > 0 ? one.graphicsGiB / Math.max(0.001, graphicsGiB) : 0,
  );

/** How many more people of a kind a host carries that is partly taken. */
function freeFor(
  { vcpu, memoryGiB, graphicsGiB = 0 }: MachineSize,
  one: WorkProfile,
  taken: {
    readonly vcpu: number;
    readonly memory: number;
    readonly operations: number;
    readonly graphics: number;
  },
): number {
  return Math.min(
    whole((vcpu - taken.vcpu) * one.peoplePerVcpu),
    whole((memoryGiB - SYSTEM_MEMORY_GIB - taken.memory) / one.memoryGiB),
    whole((DISK_OPERATIONS_A_HOST - taken.operations) / one.diskOperations),
    one.graphicsGiB > 0 ? whole((graphicsGiB - taken.graphics) / one.graphicsGiB) : Infinity,
  );
}

/**
 * Every way to carry these people on hosts of one size: at each site, with no, one or two hosts to spare, under *spread*
 * and *fill*. Where everyone has a host of their own there is one for each, in at once or not, and none to spare. In order of cost.
 */
export function benchOf({ groups, offers, spareSeats, mostSeats }: BenchQuestion): BenchPoint[] {
  const personal = isPersonal({ mostSeats });
  const mix = mixOf(personal ? wholly(groups) : groups);
  if (!mix) return [];
  const asked = personal ? wholly(groups) : groups;
  const points = offers.flatMap((offer) => {
    const { seats, binding } = seatsOn(offer.size, mix.need, mostSeats);
    const packed = packedHosts(offer.size, asked, mostSeats);
    if (seats === 0 || packed === undefined) return [];
    const needed = Math.max(hostsFor(mix.peak, seats), packed);
    const enough = Math.max(needed, hostsFor(mix.peak + (personal ? 0 : spareSeats), seats));
    return (personal ? MORE.slice(0, 1) : MORE).flatMap((more) =>
      ARRIVAL_RULES.map((arrival) =>
        pointOf(offer, { arrival, hosts: enough + more, seats, binding, needed }, mix.peak),
      ),
    );
  });
  return points
    .map((one) => ({ ...one, isBeaten: points.some((other) => beats(other, one)) }))
    .sort(
      (a, b) => a.monthly.minor - b.monthly.minor || a.peopleHit - b.peopleHit || a.key.localeCompare(b.key),
    );
}

/** Where everyone has a host of their own, it is there whether they are in or not. */
const wholly = (groups: readonly WorkGroup[]): WorkGroup[] =>
  groups.map((one) => ({ ...one, concurrency: 1 }));

type Point = Omit<BenchPoint, 'isBeaten'>;

function pointOf(
  { site, size, monthlyOf }: OfferedSize,
  {
    needed,
    ...way
  }: Pick<BenchPoint, 'arrival' | 'hosts' | 'seats' | 'binding'> & { readonly needed: number },
  peak: number,
): Point {
  const { arrival, hosts, seats } = way;
  const most = arrival === 'fill' ? seats : Math.ceil(peak / hosts);
  return {
    key: `${site} ${size.key} ${hosts} ${arrival}`,
    site,
    size,
    ...way,
    monthly: monthlyOf(hosts),
    spareHosts: hosts - needed,
    peopleHit: Math.min(most, peak),
  };
}

function beats(a: Point, b: Point): boolean {
  const noWorse =
    a.monthly.minor <= b.monthly.minor && a.peopleHit <= b.peopleHit && a.spareHosts >= b.spareHosts;
  return (
    noWorse && (a.monthly.minor < b.monthly.minor || a.peopleHit < b.peopleHit || a.spareHosts > b.spareHosts)
  );
}

/** How many people of a mix so many hosts carry, with so many of them to spare; 0: not even one. */
export function carriedBy(
  hosts: number,
  size: MachineSize,
  groups: readonly WorkGroup[],
  spareHosts: number,
  mostSeats?: number,
): { readonly atOnce: number; readonly people: number; readonly binding: Resource } {
  const known = groups.reduce((all, one) => all + one.people, 0);
  const mix = mixOf(isPersonal({ mostSeats }) ? wholly(groups) : groups);
  if (!mix) return { atOnce: 0, people: 0, binding: 'vCPU' };
  const { seats, binding } = seatsOn(size, mix.need, mostSeats);
  if (packedHosts(size, groups, mostSeats) === undefined) return { atOnce: 0, people: 0, binding };
  const atOnce = Math.max(0, hosts - spareHosts) * seats;
  return { atOnce, people: Math.floor(Number(((atOnce * known) / mix.peak).toFixed(6))), binding };
}

export const POOL_VERDICTS = ['too big', 'too small', 'right'] as const;

/** What was measured of a pool against what it has. */
export interface PoolVerdict {
  readonly verdict: (typeof POOL_VERDICTS)[number];
  /** Hosts it needs to carry the most that were in at once, a tenth more, and one host to spare. */
  readonly needed: number;
  /** Hosts to take or to add. */
  readonly hosts: number;
}

/** Percent beyond the most that were measured, for what was not. Common practice, no source. */
const MARGIN = 10;

/** Whether a pool is too big or too small for what was measured of it. @param peak the most that were in at once */
export function judgePool(pool: {
  readonly hosts: number;
  readonly seats: number;
  readonly peak: number;
  /** 1: everyone has a host of their own, whether they are in at once or not. */
  readonly mostSeats?: number | undefined;
}): PoolVerdict {
  if (isPersonal(pool)) return { verdict: 'right', needed: pool.hosts, hosts: 0 };
  const needed = Math.max(1, hostsFor(Math.ceil((pool.peak * (100 + MARGIN)) / 100), pool.seats)) + 1;
  const hosts = Math.abs(pool.hosts - needed);
  return {
    verdict: pool.hosts > needed ? 'too big' : pool.hosts < needed ? 'too small' : 'right',
    needed,
    hosts,
  };
}

/** The part of those known who were in at the busiest moment, as it was measured: above 0, at most 1. */
export const measuredConcurrency = (peak: number, people: number): number =>
  people === 0 ? 1 : Math.min(1, Math.max(0.01, Math.ceil((peak * 100) / people) / 100));
