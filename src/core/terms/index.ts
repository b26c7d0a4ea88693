import {
  ASSIGNINGS,
  CROSSINGS,
  IMAGE_TRACKS,
  OWN_ACTS,
  type Assigning,
  type Crossing,
  type ImageTrack,
  type OwnAct,
  type OfferedItem,
} from '../intent';
import { writeItem } from '../items';
import type { MachineSize } from '../machines';
import { ARRIVAL_RULES, type ArrivalRule } from '../placement';
import { PROFILE_KEYS, type ProfileKey } from '../sizing';

/** Many people a host, or one. */
export const POOL_KINDS = ['shared', 'personal'] as const;
export type PoolKind = (typeof POOL_KINDS)[number];

/** What a template says of one pool, once its inputs are filled. */
export interface PoolSpec {
  /** Fills `{role}` in names; also the pool's name. */
  readonly role: string;
  readonly kind: PoolKind;
  /** An image of the provider's, or a line of ours by its code. */
  readonly image: string;
  /** Of a line of ours: its current version, or the newest on trial, which makes it a pilot. */
  readonly track: ImageTrack;
  /** How many it is for at most. */
  readonly people: number;
  readonly profile: ProfileKey;
  /** `cheapest`, `4 vCPU · 16 GiB`, or `at least` that: the cheapest of those. */
  readonly size: string;
  /** Hosts that may fail while everyone still has a seat: 0 or 1. */
  readonly spare: number;
  readonly arrival: ArrivalRule;
  /** Of the pool's people, the part that is in at the busiest moment: above 0, at most 1. */
  readonly concurrency: number;
  /** Most seats on one host, however large it is. */
  readonly mostSeats: number;
  readonly diskGiB: number;
  /** Of a person's own on each host, which stays when the host is made anew; 0: there is none. */
  readonly ownDiskGiB: number;
  readonly assign: Assigning;
  readonly shareGiBPerPerson: number;
  /** The pool's ceiling as a multiple of the hosts for all its people, from 1: its subnet is made for the ceiling. */
  readonly ceilingFactor: number;
  readonly items: readonly OfferedItem[];
  readonly crosses: readonly Crossing[];
  readonly may: readonly OwnAct[];
}

/** What of a pool is said by a term: all but its name. */
export type TermKey = Exclude<keyof PoolSpec, 'role'>;

/** How a term is filled in, and within which limits. */
export type TermForm =
  | {
      readonly form: 'figure';
      readonly least: number;
      readonly most: number;
      readonly isWhole: boolean;
      readonly unit?: string;
    }
  | { readonly form: 'choice' | 'choices'; readonly choices: readonly string[] }
  | { readonly form: 'words'; readonly most: number; readonly pattern?: RegExp; readonly otherwise?: string }
  | { readonly form: 'items'; readonly most: number };

/** One thing that a template says of a pool: form, text, picture, comparison and drift are made from these. */
export type Term<Value = unknown> = TermForm & {
  readonly title: string;
  /** What it is where nothing is said; undefined: it has to be said. */
  readonly usual: Value | undefined;
  /** Whether an input may fill it. */
  readonly fillable: boolean;
  readonly help: string;
};

const SIZE = /^(cheapest|(at least )?(\d{1,4}) vCPU · (\d{1,5}) GiB(?: · (\d{1,4}) GiB graphics)?)$/;

const figure = (least: number, most: number, unit?: string) =>
  ({ form: 'figure', least, most, isWhole: true, ...(unit === undefined ? {} : { unit }) }) as const;
const choice = (choices: readonly string[]) => ({ form: 'choice', choices }) as const;
const choices = (all: readonly string[]) => ({ form: 'choices', choices: all }) as const;

/** In the order in which they are written and shown. */
export const TERMS: { readonly [Key in TermKey]: Term<PoolSpec[Key]> } = {
  kind: {
    title: 'Kind',
    ...choice(POOL_KINDS),
    usual: 'shared',
    fillable: false,
    help: 'many people a host, or one',
  },
  image: {
    title: 'Image',
    form: 'words',
    most: 80,
    usual: undefined,
    fillable: true,
    help: 'one of ours by its code, or of the provider’s by its name',
  },
  track: {
    title: 'Version',
    ...choice(IMAGE_TRACKS),
    usual: 'current',
    fillable: true,
    help: 'a pilot has the newest on trial',
  },
  people: { title: 'People', ...figure(0, 5_000), usual: undefined, fillable: true, help: 'at most so many' },
  profile: {
    title: 'Work',
    ...choice(PROFILE_KEYS),
    usual: 'standard',
    fillable: true,
    help: 'what one person takes of a host',
  },
  size: {
    title: 'Size',
    form: 'words',
    most: 40,
    pattern: SIZE,
    otherwise: 'write "cheapest", "4 vCPU · 16 GiB" or "at least 4 vCPU · 16 GiB"',
    usual: 'cheapest',
    fillable: true,
    help: 'cheapest, or by what it holds',
  },
  spare: {
    title: 'Hosts to spare',
    ...figure(0, 1),
    usual: 1,
    fillable: true,
    help: 'so many may fail and everyone has a seat',
  },
  arrival: {
    title: 'Arrivals',
    ...choice(ARRIVAL_RULES),
    usual: 'spread',
    fillable: true,
    help: 'fewest sessions first, or fullest first',
  },
  concurrency: {
    title: 'At the busiest moment',
    form: 'figure',
    least: 0.01,
    most: 1,
    isWhole: false,
    usual: 0.85,
    fillable: false,
    help: 'the part of the people that is in, up to 1',
  },
  mostSeats: {
    title: 'Seats on a host, at most',
    ...figure(1, 200),
    usual: 16,
    fillable: true,
    help: 'however large it is',
  },
  diskGiB: { title: 'Disk', ...figure(1, 16_384, 'GiB'), usual: 128, fillable: true, help: 'of each host' },
  ownDiskGiB: {
    title: 'Own disk',
    ...figure(0, 4_096, 'GiB'),
    usual: 0,
    fillable: true,
    help: 'of each person; it stays when the host is made anew',
  },
  assign: {
    title: 'Given out',
    ...choice(ASSIGNINGS),
    usual: 'ahead',
    fillable: true,
    help: 'to whom is named, or who signs in first',
  },
  shareGiBPerPerson: {
    title: 'Profiles',
    ...figure(1, 1_024, 'GiB a person'),
    usual: 10,
    fillable: true,
    help: 'on the share',
  },
  ceilingFactor: {
    title: 'Room to grow',
    form: 'figure',
    least: 1,
    most: 20,
    isWhole: false,
    unit: 'times',
    usual: 2,
    fillable: false,
    help: 'the subnet is made for so many hosts',
  },
  items: {
    title: 'Items',
    form: 'items',
    most: 60,
    usual: [{ name: 'Full desktop', kind: 'desktop' }],
    fillable: false,
    help: 'what people find',
  },
  crosses: {
    title: 'May cross',
    ...choices(CROSSINGS),
    usual: ['clipboard', 'printers'],
    fillable: false,
    help: 'between a session and where it is shown',
  },
  may: {
    title: 'People may',
    ...choices(OWN_ACTS),
    usual: [],
    fillable: false,
    help: 'with a desktop of their own',
  },
};

export const TERM_KEYS = Object.keys(TERMS) as readonly TermKey[];

/** What a size rule asks for; undefined: the cheapest of all. */
function readSizeRule(
  rule: string,
):
  | (Required<Pick<MachineSize, 'vcpu' | 'memoryGiB' | 'graphicsGiB'>> & { readonly orMore: boolean })
  | undefined {
  const [, , orMore, vcpu, memoryGiB, graphicsGiB] = SIZE.exec(rule) ?? [];
  if (vcpu === undefined || memoryGiB === undefined) return undefined;
  return {
    vcpu: Number(vcpu),
    memoryGiB: Number(memoryGiB),
    graphicsGiB: Number(graphicsGiB ?? 0),
    orMore: orMore !== undefined,
  };
}

/** Whether a size is one of those that the rule allows. */
export function fitsRule(
  rule: string,
  { vcpu, memoryGiB, graphicsGiB = 0 }: Omit<MachineSize, 'key'>,
): boolean {
  const wanted = readSizeRule(rule);
  if (!wanted) return true;
  return wanted.orMore
    ? vcpu >= wanted.vcpu && memoryGiB >= wanted.memoryGiB && graphicsGiB >= wanted.graphicsGiB
    : vcpu === wanted.vcpu && memoryGiB === wanted.memoryGiB && graphicsGiB === wanted.graphicsGiB;
}

/** A value as people read it. */
export function writeTerm(key: TermKey, value: unknown): string {
  const term: Term = TERMS[key];
  const unit = term.form === 'figure' ? term.unit : undefined;
  if (Array.isArray(value)) {
    const names = (value as readonly (string | OfferedItem)[]).map((each) =>
      typeof each === 'string' ? each : writeItem(each),
    );
    return names.length === 0 ? 'nothing' : names.join(', ');
  }
  if (typeof value === 'string' && value.startsWith('=')) return value.slice(1).replace('*', '×');
  const text =
    key === 'concurrency' && typeof value === 'number' ? `${Math.round(value * 100)} %` : String(value);
  return unit === undefined ? text : `${text} ${unit}`;
}

/** What is wrong with a value of a term; undefined: nothing is. */
export function termFault(key: TermKey, value: unknown): string | undefined {
  const term: Term = TERMS[key];
  switch (term.form) {
    case 'figure':
      if (
        typeof value !== 'number' ||
        value < term.least ||
        value > term.most ||
        (term.isWhole && !Number.isInteger(value))
      )
        return `is a ${term.isWhole ? 'whole number' : 'figure'} from ${term.least} to ${term.most}`;
      return undefined;
    case 'choice':
      return term.choices.some((one) => one === value) ? undefined : `is one of ${term.choices.join(', ')}`;
    case 'choices':
      return Array.isArray(value) && value.every((one) => term.choices.includes(String(one)))
        ? undefined
        : `is some of ${term.choices.join(', ')}`;
    case 'words': {
      const isWords = typeof value === 'string' && value.trim() !== '' && value.length <= term.most;
      if (isWords && term.pattern?.test(value) !== false) return undefined;
      return term.otherwise ?? `is written in up to ${term.most} letters`;
    }
    case 'items':
      return Array.isArray(value) && value.length > 0
        ? undefined
        : 'nothing is published: people would find nothing';
  }
}
