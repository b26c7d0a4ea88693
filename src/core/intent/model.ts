import type { ArrivalRule } from '../placement';
import type { ProfileKey } from '../sizing';

/** What one attribute of a resource may be: plain data that is compared, stored and shown as it is. */
export type Attribute = string | number | boolean | null | readonly string[];
export type Attributes = Readonly<Record<string, Attribute>>;

export const ITEM_KINDS = ['desktop', 'app'] as const;

/** Which version of an image a pool follows: the current one, or the newest on trial. */
export const IMAGE_TRACKS = ['current', 'trial'] as const;
export type ImageTrack = (typeof IMAGE_TRACKS)[number];

/** What may cross between a session and the place that it is shown at. */
export const CROSSINGS = ['clipboard', 'printers', 'drives', 'usb', 'microphone'] as const;
export type Crossing = (typeof CROSSINGS)[number];

/** How people come to a host of their own: named beforehand, or whoever signs in first. */
export const ASSIGNINGS = ['ahead', 'first sign-in'] as const;
export type Assigning = (typeof ASSIGNINGS)[number];

/** By this name an intent keeps disks that were archived. */
export const KEPT_DISKS = 'kept disks';

/** What people may do with a desktop of their own. */
export const OWN_ACTS = ['start', 'restart', 'sleep', 'rebuild', 'end'] as const;
export type OwnAct = (typeof OWN_ACTS)[number];

/** How large a session is shown: as large as the window that it is in, over every screen there is, or always the same. */
export const SCREENS = ['as the window', 'every screen', '1280 × 800', '1600 × 900', '1920 × 1080'] as const;
export type Screen = (typeof SCREENS)[number];

/** What may be drawn on an app's tile, where it is not drawn by its name. */
export const ITEM_ICONS = ['figures', 'map', 'tides', 'letters', 'book', 'tools', 'people', 'clock'] as const;
export type ItemIcon = (typeof ITEM_ICONS)[number];

export interface PublishedItem {
  readonly name: string;
  readonly kind: (typeof ITEM_KINDS)[number];
  /** Of an app: the program that it starts, by its name on the image or by its path; left out: the one of its own name. */
  readonly starts?: string | undefined;
  /** Of an app: what that program is started with. */
  readonly arguments?: string | undefined;
  /** Under which heading people find it; left out: under none. */
  readonly folder?: string | undefined;
  /** Granted as any other, and not shown on people's desks. */
  readonly hidden?: boolean | undefined;
  /** What of that which may cross in its pool may cross here; left out: all of it. */
  readonly crosses?: readonly Crossing[] | undefined;
  /** Left out: as the customer has it. */
  readonly screen?: Screen | undefined;
  readonly icon?: ItemIcon | undefined;
}

/** An item as a template offers it: to whom it is granted from the start. */
export interface OfferedItem extends PublishedItem {
  /** The input that names the group, as `=vets`; once filled, our id of that group. Left out: everyone. */
  readonly for?: string;
}

/** Whom an item is granted to: all of the customer's people, a group with all groups in it, or one person. */
export const GRANTED_TO = ['everyone', 'group', 'person'] as const;

/** The right of people to an item of a pool. */
export interface Grant {
  /** The item's name. */
  readonly item: string;
  readonly to: (typeof GRANTED_TO)[number];
  /** Our id of the group or person; empty for everyone. */
  readonly id: string;
  /** When it ends; null: it does not. */
  readonly until: number | null;
}

/** What is wanted of one host beyond what its pool says. */
export interface HostIntent {
  /** Its number in the pool, from 1; a slot keeps its host. */
  readonly slot: number;
  /** A size or disk of its own, where what is there was taken as wanted. */
  readonly size?: string;
  readonly diskGiB?: number;
  /** Taken from the ready shelf, where one like it is ready when it is made. */
  readonly ready?: true;
  /** Whose it is, where everyone has a host of their own; left out: nobody's yet. By account, as its provider knows them. */
  readonly person?: string;
  /** Our id of that person. Whoever is given the same account later is somebody else. */
  readonly personId?: string;
  /** When that person left: it is kept as long as the plan says. */
  readonly leftAt?: number;
  /** Which disk it has by now, counted from 1: a wiped or archived one makes room for the next. */
  readonly disk?: number;
  /** On the ready shelf: the server made by hand that it comes of, by its provider's name for it. */
  readonly from?: string;
}

export interface PoolIntent {
  /** Names the pool, and fills `{role}` in computer names; unique in its environment. */
  readonly role: string;
  readonly image: string;
  /** The line of images that it follows, where its image is a version of one. */
  readonly line?: string | undefined;
  readonly track?: ImageTrack | undefined;
  readonly size: string;
  /** Seats on each host; they follow from size, profile and the most that were set. */
  readonly seats: number;
  readonly profile: ProfileKey;
  readonly mostSeats: number;
  readonly arrival: ArrivalRule;
  readonly diskGiB: number;
  /** Of a person's own on each host, which stays when the host is made anew; 0: there is none. */
  readonly ownDiskGiB: number;
  /** Where everyone has a host of their own: how one comes to theirs. */
  readonly assign: Assigning;
  /** The most hosts it may ever have: its subnet is made for so many. */
  readonly ceiling: number;
  readonly people: number;
  readonly shareGiB: number;
  readonly items: readonly PublishedItem[];
  readonly grants: readonly Grant[];
  readonly crosses: readonly Crossing[];
  readonly may: readonly OwnAct[];
  readonly hosts: readonly HostIntent[];
  /** The highest number that a personal disk here ever had; left out: 1, or none. */
  readonly lastDisk?: number;
}

/** What a template gave to a pool; whatever is otherwise by now deviates from it. */
export type GivenPool = Omit<PoolIntent, 'hosts' | 'seats' | 'grants' | 'lastDisk'>;

export type InputValue = string | number | boolean;

/** What was filled into a template. */
export interface FilledInput {
  readonly key: string;
  readonly value: InputValue;
}

/** Where an environment came from. */
export interface Origin {
  readonly code: string;
  readonly revision: number;
  readonly inputs: readonly FilledInput[];
  readonly gave: { readonly naming: string; readonly tags: Tags; readonly pools: readonly GivenPool[] };
}

export type Tags = Readonly<Record<string, string>>;

/** Tags that say whose a resource is: nobody names one of theirs so. */
export const RESERVED_TAGS = [
  'customer',
  'environment',
  'template',
  'pool',
  'resource',
  'run',
  'step',
] as const;

/** A name that a tag of one's own may have. */
export const TAG_NAME = new RegExp(`^(?!(?:${RESERVED_TAGS.join('|')})$)[a-z][a-z0-9-]{0,30}$`);

/** Tags of one's own, without those that say whose a resource is. */
export const ownTags = (tags: Tags): Tags =>
  Object.fromEntries(Object.entries(tags).filter(([name]) => TAG_NAME.test(name)));

/** What an environment should be: one document, kept in versions. Everything else derives from it. */
export interface Intent {
  readonly name: string;
  readonly site: string;
  /** Null: the MSP's own are from none. */
  readonly template: Origin | null;
  /** The rule that makes computer names. */
  readonly naming: string;
  /** What its resources are tagged with, beside what the customer's are. */
  readonly tags: Tags;
  readonly people: number;
  readonly pools: readonly PoolIntent[];
  /** What further kinds of resource ask for, by the kind's key. */
  readonly more: Readonly<Record<string, readonly Attributes[]>>;
}

/** By this name the MSP's own environments hold what a ready shelf is to have. */
export const SHELF = 'shelf';

/** What an intent is of: desktops for people, or what the MSP has by the same way. */
export const HOLDINGS = ['desktops', 'image', 'shelf', 'services'] as const;
export type Holding = (typeof HOLDINGS)[number];

export const holdingOf = ({ more }: Pick<Intent, 'more'>): Holding =>
  HOLDINGS.find((one) => more[one] !== undefined) ?? 'desktops';

/** Whether it holds an image that is made here, and no desktops. */
export const isOfImage = (intent: Pick<Intent, 'more'>): boolean => holdingOf(intent) === 'image';

/** Whether it is a ready shelf: its hosts wait for whoever comes next, and nobody signs in there. */
export const isShelf = ({ more }: Pick<Intent, 'more'>): boolean => more[SHELF] !== undefined;

/** The intent with one pool changed; the same intent when it has no such pool. */
export const withPool = (intent: Intent, role: string, edit: (pool: PoolIntent) => PoolIntent): Intent => ({
  ...intent,
  pools: intent.pools.map((pool) => (pool.role === role ? edit(pool) : pool)),
});

/** The first `count` slots of a pool that no host has, in order. */
export function freeSlots(pool: PoolIntent, count: number): number[] {
  const taken = new Set(pool.hosts.map((host) => host.slot));
  const free: number[] = [];
  for (let slot = 1; free.length < count; slot++) if (!taken.has(slot)) free.push(slot);
  return free;
}
