import type { MachineSize } from '../machines';
import { money, type Money } from '../money';
import type { ArrivalRule } from '../placement';

/** What one signed-in person of a kind of work takes. */
export interface WorkProfile {
  readonly key: ProfileKey;
  readonly peoplePerVcpu: number;
  readonly memoryGiB: number;
  /** Disk operations a second. */
  readonly diskOperations: number;
  /** Memory of a graphics processor, in GiB; 0: none is needed. */
  readonly graphicsGiB: number;
}

export const PROFILE_KEYS = ['light', 'standard', 'heavy', 'graphics'] as const;
export type ProfileKey = (typeof PROFILE_KEYS)[number];

/**
 * Editable defaults. People per vCPU: from memory of published sizing guidance, light 6, standard 4, heavy 2, graphics
 * 1. Memory and disk operations: common practice, no source. Graphics memory is as a customer says: programs differ too much.
 */
export const WORK_PROFILES: Readonly<Record<ProfileKey, WorkProfile>> = {
  light: { key: 'light', peoplePerVcpu: 6, memoryGiB: 1, diskOperations: 6, graphicsGiB: 0 },
  standard: { key: 'standard', peoplePerVcpu: 4, memoryGiB: 2, diskOperations: 12, graphicsGiB: 0 },
  heavy: { key: 'heavy', peoplePerVcpu: 2, memoryGiB: 3, diskOperations: 25, graphicsGiB: 0 },
  graphics: { key: 'graphics', peoplePerVcpu: 1, memoryGiB: 6, diskOperations: 40, graphicsGiB: 0 },
};

/** Memory that the system itself takes on a host. Common practice, no source. */
export const SYSTEM_MEMORY_GIB = 2;

/** Disk operations a second that one host's system disk gives. Common practice, no source. */
export const DISK_OPERATIONS_A_HOST = 1_000;

export type Resource = 'vCPU' | 'memory' | 'disk operations' | 'graphics memory' | 'seats set by hand';

export interface SeatCount {
  readonly seats: number;
  /** The resource that runs out first. */
  readonly binding: Resource;
}

/** Whole numbers below an amount, where what is a whole number but for the way it is reckoned counts as one. */
export const whole = (amount: number): number => Math.floor(Number(amount.toFixed(9)));

/** How many people of a profile one host of a size carries, and what binds. 0 seats: the size is too small. */
export function seatsOn(size: MachineSize, profile: WorkProfile, most?: number): SeatCount {
  const limits: SeatCount[] = [
    { seats: whole(size.vcpu * profile.peoplePerVcpu), binding: 'vCPU' },
    { seats: whole((size.memoryGiB - SYSTEM_MEMORY_GIB) / profile.memoryGiB), binding: 'memory' },
    { seats: whole(DISK_OPERATIONS_A_HOST / profile.diskOperations), binding: 'disk operations' },
  ];
  if (profile.graphicsGiB > 0)
    limits.push({
      seats: whole((size.graphicsGiB ?? 0) / profile.graphicsGiB),
      binding: 'graphics memory',
    });
  if (most !== undefined) limits.push({ seats: most, binding: 'seats set by hand' });
  const least = limits.reduce((a, b) => (b.seats < a.seats ? b : a));
  return { seats: Math.max(0, least.seats), binding: least.binding };
}

/** People at the busiest moment: people × concurrency (0 to 1), rounded up. */
export const peakOf = (people: number, concurrency: number): number =>
  Math.ceil(Number((people * concurrency).toFixed(9)));

/** Hosts that `people` at once need at `seats` a host. Shared hosts: seats above 1; personal: one person a host. */
export const hostsFor = (people: number, seats: number): number => Math.ceil(people / seats);

export interface Alternative {
  readonly size: MachineSize;
  readonly seats: number;
  readonly binding: Resource;
  readonly hosts: number;
  /** Whether everyone still has a seat when one host fails. */
  readonly keepsOneSpare: boolean;
  /** Of everyone at the busiest moment, the share on the host that has most of them: 0 to 1. */
  readonly hitByOneLoss: number;
  /** With all that each host takes. */
  readonly monthly: Money;
  readonly monthlyPerSeat: Money;
  /** Another does as well at each of cost, people hit and N+1, and better at one of them. */
  readonly isBeaten: boolean;
}

export interface SizingQuestion {
  readonly people: number;
  readonly concurrency: number;
  readonly profile: WorkProfile;
  readonly sizes: readonly MachineSize[];
  /** What so many hosts of a size cost a month, with their disks and all. */
  readonly monthlyOf: (size: MachineSize, hosts: number) => Money;
  /** Under *fill* the fullest host is full; under *spread* all have alike. */
  readonly arrival: ArrivalRule;
  /** 1: a personal pool, in which everyone has a host of their own and no host stands by. */
  readonly mostSeats?: number;
  /** Hosts that may fail while everyone has a seat, 0 or 1; left out: 1. */
  readonly spare?: number;
}

export interface SizingAnswer {
  /** All that would do: what a person may choose. */
  readonly all: readonly Alternative[];
  /** The cheapest that keeps what is to be spare; in a personal pool the cheapest. Undefined when no size can carry the profile. */
  readonly chosen: Alternative | undefined;
}

/** Whether everyone in a pool has a host of their own. */
export const isPersonal = ({ mostSeats }: { readonly mostSeats?: number | undefined }): boolean =>
  mostSeats === 1;

/**
 * Compares the sizes for so many people. Two answers a size: just enough hosts, and one more (N+1). In a personal pool
 * one: a host for each person, whether they are in at once or not.
 */
export function compareSizes(question: SizingQuestion): SizingAnswer {
  const found = question.sizes.flatMap((size) => alternativesOf(size, question));
  const all = found.map((one) => ({ ...one, isBeaten: found.some((other) => beats(other, one)) }));
  const [chosen] = all
    .filter((one) => isPersonal(question) || question.spare === 0 || one.keepsOneSpare)
    .sort(cheapestFirst);
  return { all, chosen };
}

const cheapestFirst = (a: Alternative, b: Alternative): number =>
  a.monthly.minor - b.monthly.minor || a.hitByOneLoss - b.hitByOneLoss || a.hosts - b.hosts;

/** One that is not yet held against the others. */
type Candidate = Omit<Alternative, 'isBeaten'>;

function beats(a: Candidate, b: Candidate): boolean {
  const noWorse =
    a.monthly.minor <= b.monthly.minor &&
    a.hitByOneLoss <= b.hitByOneLoss &&
    (a.keepsOneSpare || !b.keepsOneSpare);
  const better =
    a.monthly.minor < b.monthly.minor ||
    a.hitByOneLoss < b.hitByOneLoss ||
    (a.keepsOneSpare && !b.keepsOneSpare);
  return noWorse && better;
}

function alternativesOf(size: MachineSize, question: SizingQuestion): Candidate[] {
  const { seats, binding } = seatsOn(size, question.profile, question.mostSeats);
  const peak = isPersonal(question) ? question.people : peakOf(question.people, question.concurrency);
  if (seats === 0 || peak === 0) return [];
  const enough = hostsFor(peak, seats);
  return (isPersonal(question) ? [enough] : [enough, enough + 1]).map((hosts) => {
    const monthly = question.monthlyOf(size, hosts);
    const most = question.arrival === 'fill' ? seats : Math.ceil(peak / hosts);
    return {
      size,
      seats,
      binding,
      hosts,
      keepsOneSpare: (hosts - 1) * seats >= peak,
      hitByOneLoss: Math.min(most, peak) / peak,
      monthly,
      monthlyPerSeat: money(Math.round(monthly.minor / (hosts * seats)), monthly.currency),
    };
  });
}
