import { NO_LIMITS } from '../core/plans';
import type { FilledInput } from '../core/intent';
import { peopleOf } from './people';
import { SHARED_OFFICE_LATER } from './templates';
import type { ProfileKey } from '../core/sizing';
import type { Role, SentCustomer } from '../contract';
import type { MakeAsk } from '../server/providers';

/** The demo's world: Tern & Tallow Managed Desks and its customers on an invented coast. All of it is made up. */

export const PROVIDERS = [
  { code: 'coast', name: 'Coast Compute', account: 'tern' },
  { code: 'northern', name: 'Northern Hours', account: 'tern' },
] as const;

export const DEMO_PASSWORD = 'lantern-on-the-quay';

/** With it the customers' simulated directories are read. */
export const DIRECTORY_SECRET = 'a-candle-for-the-reader';

export interface DemoOperator {
  readonly name: string;
  readonly mail: string;
  readonly role: Role;
  /** Codes of the customers reached; undefined: every customer. */
  readonly customers?: readonly string[];
}

export const OPERATORS: readonly DemoOperator[] = [
  { name: 'Ida Quist', mail: 'ida@terntallow.example', role: 'engineer' },
  { name: 'Bram Oyelaran', mail: 'bram@terntallow.example', role: 'lead' },
  { name: 'Petra Lindqvist', mail: 'petra@terntallow.example', role: 'bookkeeper' },
  { name: 'Runa Falk', mail: 'runa@terntallow.example', role: 'auditor' },
  { name: 'Jonah Weir', mail: 'jonah@terntallow.example', role: 'engineer', customers: ['SVG', 'FPS'] },
];

export const PLANS = [
  {
    code: 'harbour',
    name: 'Harbour',
    most: { ...NO_LIMITS, people: 400, hosts: 60, vcpu: 960, storageGiB: 48_000 },
    fees: [
      { currency: 'EUR', monthly: '390.00' },
      { currency: 'GBP', monthly: '335.00' },
    ],
    included: [
      { meter: 'share', quantity: 200 },
      { meter: 'licence', quantity: 20 },
    ],
    retentionDays: 365,
    localAdministrator: true,
    readyHosts: 2,
  },
  {
    code: 'jetty',
    name: 'Jetty',
    most: { people: 120, hosts: 20, vcpu: 320, memoryGiB: 1_280, storageGiB: 12_000, personal: 20 },
    sizes: ['s2x8', 's4x16', 's8x32', 's16x64'],
    fees: [
      { currency: 'EUR', monthly: '140.00' },
      { currency: 'GBP', monthly: '120.00' },
    ],
    retentionDays: 90,
    readyHosts: 1,
  },
  {
    code: 'skiff',
    name: 'Skiff',
    most: { people: 15, hosts: 4, vcpu: 32, memoryGiB: 128, storageGiB: 2_000, personal: 4 },
    sizes: ['s2x4', 's2x8', 's4x16'],
    sites: ['KQ', 'NL'],
    fees: [
      { currency: 'EUR', monthly: '35.00' },
      { currency: 'GBP', monthly: '30.00' },
    ],
  },
] as const;

/** What was said anew of a plan, so many days ago, when customers were on it already. */
export const LATER_VERSION = {
  code: 'jetty',
  daysAgo: 12,
  terms: {
    name: 'Jetty',
    most: { people: 120, hosts: 10, vcpu: 240, memoryGiB: 1_024, storageGiB: 12_000, personal: 20 },
    sizes: ['s2x8', 's4x16', 's8x32', 's16x64'],
    fees: [
      { currency: 'EUR', monthly: '148.00' },
      { currency: 'GBP', monthly: '127.00' },
    ],
    retentionDays: 90,
    readyHosts: 1,
    note: 'fewer hosts, and the price of this year',
  },
} as const;

export interface DemoCustomer extends Omit<SentCustomer, 'card' | 'state'> {
  readonly people: number;
}

/** In the order in which they came. */
export const CUSTOMERS: readonly DemoCustomer[] = [
  {
    code: 'MHP',
    gatewayName: 'desks.mhp.example',
    name: 'Marram Harbour Pilots',
    plan: 'jetty',
    site: 'KQ',
    zone: 'Europe/London',
    currency: 'GBP',
    contacts: [
      { name: 'Wenna Tresk', mail: 'wenna@mhp.example', phone: '', what: 'everything, day and night' },
      { name: 'Piran Holm', mail: 'accounts@mhp.example', phone: '', what: 'invoices' },
    ],
    tags: { sector: 'pilotage', hours: 'round-the-clock' },
    people: 42,
  },
  {
    code: 'FPS',
    gatewayName: 'desks.fps.example',
    name: 'Ferrow & Pike Land Surveyors',
    plan: 'jetty',
    site: 'KQ',
    zone: 'Europe/Dublin',
    currency: 'EUR',
    people: 28,
  },
  {
    code: 'SVG',
    gatewayName: 'desks.svg.example',
    name: 'Saltmirren Veterinary Group',
    plan: 'harbour',
    site: 'KQ',
    zone: 'Europe/Dublin',
    currency: 'EUR',
    contacts: [{ name: 'Orla Fenn', mail: 'orla@svg.example', phone: '', what: 'the six clinics' }],
    calendar: {
      country: 'IE',
      region: '',
      days: [{ date: '2026-12-24', name: 'Clinics close at noon' }],
    },
    tags: { sector: 'veterinary', clinics: '6' },
    administrator: 'it@svg.example',
    people: 96,
  },
  {
    code: 'CAO',
    name: 'Copperbeck Assay Office',
    plan: 'harbour',
    site: 'KQ',
    zone: 'Europe/London',
    currency: 'GBP',
    people: 31,
  },
  {
    code: 'QFB',
    name: 'Quillfeather Bindery',
    plan: 'skiff',
    site: 'NL',
    zone: 'Europe/Dublin',
    currency: 'EUR',
    people: 9,
  },
  {
    code: 'APT',
    name: 'Ardmoth Puppet Theatre',
    plan: 'jetty',
    site: 'NL',
    zone: 'Europe/Dublin',
    currency: 'EUR',
    people: 14,
  },
  {
    code: 'HSB',
    name: 'Hollin Seed Bank',
    plan: 'jetty',
    site: 'TF',
    zone: 'Europe/London',
    currency: 'GBP',
    people: 23,
  },
  {
    code: 'WAP',
    name: 'Waymarch Almanac Press',
    plan: 'jetty',
    site: 'TF',
    zone: 'Europe/Dublin',
    currency: 'EUR',
    people: 17,
  },
];

/** The MSP's ranges, one a site (RFC 1918); customers get blocks of them. */
export const RANGES = [
  { site: 'KQ', cidr: '10.16.0.0/12' },
  { site: 'TF', cidr: '10.32.0.0/12' },
  { site: 'NL', cidr: '10.48.0.0/12' },
] as const;

/** What is kept ready from some days ago on: like what the templates ask for where most customers are. */
export const SHELF = {
  daysAgo: 9,
  input: { site: 'KQ', image: 'Ostrel 12 multi-user', size: 's4x16', diskGiB: 128, hosts: 3, most: '600.00' },
} as const;

/** For how many days from today each one's certificate holds: about the pilots' one has to be thought of. */
export const CERTIFICATES = [
  { customer: 'MHP', days: 31 },
  { customer: 'FPS', days: 152 },
  { customer: 'SVG', days: 244 },
] as const;

interface DemoRate {
  readonly meter: 'host' | 'disk' | 'share' | 'licence' | 'image';
  readonly size: string;
  readonly unit: 'hour' | 'month';
  readonly price: string;
  /** The price from 40 days before today; null: it stays. */
  readonly later: string | null;
}

const euro: readonly DemoRate[] = [
  { meter: 'host', size: 's2x4', unit: 'hour', price: '0.048', later: null },
  { meter: 'host', size: 's2x8', unit: 'hour', price: '0.066', later: null },
  { meter: 'host', size: 's4x16', unit: 'hour', price: '0.128', later: '0.132' },
  { meter: 'host', size: 's8x32', unit: 'hour', price: '0.249', later: '0.256' },
  { meter: 'host', size: 's16x64', unit: 'hour', price: '0.486', later: null },
  { meter: 'host', size: 's4x16g4', unit: 'hour', price: '0.265', later: null },
  { meter: 'host', size: 's8x32g8', unit: 'hour', price: '0.530', later: null },
  { meter: 'host', size: 's16x64g16', unit: 'hour', price: '1.060', later: null },
  { meter: 'disk', size: '', unit: 'month', price: '0.07', later: null },
  { meter: 'share', size: '', unit: 'month', price: '0.11', later: null },
  { meter: 'licence', size: '', unit: 'month', price: '4', later: null },
  { meter: 'image', size: '', unit: 'month', price: '0.06', later: null },
];

const POUNDS_A_EURO = 0.86;

export const CARDS = [
  { code: 'eur', name: 'Standard, euro', currency: 'EUR', rates: euro },
  {
    code: 'gbp',
    name: 'Standard, pound',
    currency: 'GBP',
    rates: euro.map((rate) => ({
      ...rate,
      price: (Number(rate.price) * POUNDS_A_EURO).toFixed(4),
      later: rate.later === null ? null : (Number(rate.later) * POUNDS_A_EURO).toFixed(4),
    })),
  },
] as const;

/** Those of the surveyors who have a desktop of their own. */
const DRAWERS = peopleOf('FPS', 28)
  .slice(0, 4)
  .map(({ account }) => account);

/** When something was done, at an hour of the day in UTC: days before today, or the Friday or Monday of a past weekend. */
export type DemoMoment =
  | { readonly daysAgo: number; readonly hour: number }
  | { readonly weekendsAgo: number; readonly day: 'Friday' | 'Monday'; readonly hour: number };

/** Something that someone did. */
export type DemoEvent = DemoMoment &
  (
    | {
        readonly do: 'provision';
        readonly customer: string;
        readonly site?: string;
        readonly environment: string;
        /** `shared-office` where none is named. */
        readonly template?: string;
        readonly people: number;
        readonly profile: ProfileKey;
        /** What fills the template's inputs; left out: the profile. */
        readonly inputs?: readonly FilledInput[];
        readonly reason: string;
        /** Hosts that fail while they are made, so many times each; a failed run is resumed unless it is to stay so. */
        readonly fails?: { readonly host: string; readonly times: number };
        readonly staysStopped?: boolean;
      }
    | {
        readonly do: 'retire';
        readonly customer: string;
        readonly environment: string;
        readonly reason: string;
      }
    | {
        readonly do: 'change';
        readonly customer: string;
        readonly environment: string;
        readonly change: 'power-on' | 'power-off' | 'drain' | 'put-back' | 'keep-desktops';
        /** Of one pool alone. */
        readonly pool?: string;
        /** So many of its hosts, the last ones first. */
        readonly hosts: number;
        readonly reason: string;
      }
    | {
        /** A change of a pool. */
        readonly do: 'pool';
        readonly customer: string;
        readonly environment: string;
        readonly change:
          | 'add-hosts'
          | 'take-hosts'
          | 'grow-disk'
          | 'resize'
          | 'use-image'
          | 'assign-desktops'
          | 'publish-items';
        readonly input: Readonly<Record<string, unknown>>;
        readonly reason: string;
      }
    | {
        /** Items for groups by their names, and for everyone no more. */
        readonly do: 'grants';
        readonly customer: string;
        readonly environment: string;
        readonly pool: string;
        readonly add: readonly { readonly item: string; readonly group: string }[];
        readonly take: readonly string[];
        readonly reason: string;
      }
    | {
        /** Of an image of the MSP's own; null: it is begun. */
        readonly do: 'image';
        readonly image: string | null;
        /** Whose it is; left out: the MSP's own. */
        readonly owner?: string;
        readonly change:
          'new-image' | 'write-recipe' | 'build-image' | 'make-current' | 'copy-image' | 'refresh-by-rule';
        readonly input: Readonly<Record<string, unknown>>;
        readonly reason: string;
      }
    | {
        /** A template's next revision. */
        readonly do: 'template';
        readonly code: string;
        readonly note: string;
        readonly text: string;
      }
    | {
        /** Made at the provider, past Laager, and forgotten. */
        readonly do: 'by hand';
        readonly customer: string;
        readonly make: MakeAsk;
      }
    | {
        /** A host says otherwise of itself than it usually does. */
        readonly do: 'ails';
        readonly customer: string;
        readonly environment: string;
        /** Which of its hosts, from 0. */
        readonly host: number;
        readonly given: object;
      }
    | {
        readonly do: 'state';
        readonly customer: string;
        readonly state: 'paused' | 'leaving' | 'active' | 'trial';
      }
  );

const OFFICE_RECIPE = (
  updates: string,
  more = '',
): string => `# What everyone who writes, reckons and mails has.
steps:
  - install: Ostrel updates ${updates}
    tries: 2
  - install: Office letters 5
    holds: Office letters starts
  - install: Tallybrook 4.2
  - install: Murrelmail 7
${more}  - use: house-look
  - check: Tallybrook starts
`;
const ASSAY_RECIPE = `steps:
  - install: Ostrel updates 2026-10
    tries: 2
  - install: Tallybrook 4.2
    holds: Tallybrook starts
  - use: house-look
  - set: screen lock
    to: 2 min
`;

/** What is said to people again and again. */
export const MESSAGE_TEXTS = [
  'Please save your work: {host} restarts soon.',
  '{person}, please save your work, sign out and sign in again: you come to another host.',
  'We are looking into the slowness that some of you see.',
  'The trouble of this morning is over. Thank you for waiting.',
  'You are signed out in {minutes} minutes, for the monthly care of {host}. Please save your work.',
] as const;

/** Steps that several recipes share. */
export const SAVED_STEPS = {
  name: 'house-look',
  text: `steps:
  - copy: house/paper
    to: /srv/look
  - set: screen lock
    to: 10 min
  - run: |
      clean leftovers
      empty the bin
`,
};
const DRAWING_RECIPE = `steps:
  - install: Ostrel updates 2026-11
    tries: 2
  - set: power plan
    to: full
  - install: Contourwick 13
    holds: Contourwick starts
  - check: Contourwick starts
`;
const image = (daysAgo: number, hour: number, event: Omit<ImageEvent, 'do'>): DemoEvent => ({
  daysAgo,
  hour,
  do: 'image',
  ...event,
});
type ImageEvent = Omit<Extract<DemoEvent, { do: 'image' }>, 'daysAgo' | 'hour' | 'weekendsAgo' | 'day'>;

/** An image of the MSP's own that two customers stand on, another whose first build has just stopped, and one of a customer's own. */
const IMAGE_HISTORY: readonly DemoEvent[] = [
  image(66, 9, {
    image: null,
    change: 'new-image',
    reason: 'one image for all offices',
    input: {
      code: 'office',
      name: 'Office',
      says: 'Letters, mail and figures, for many people on a host',
      site: 'KQ',
      from: 'Ostrel 12 multi-user',
      recipe: OFFICE_RECIPE('2026-09'),
      keep: 2,
      size: 's4x16',
      diskGiB: 96,
      licences: ['Tallybrook'],
    },
  }),
  image(66, 10, { image: 'office', change: 'build-image', reason: '', input: { note: 'the first' } }),
  image(65, 9, { image: 'office', change: 'make-current', reason: 'tried by hand', input: { version: 1 } }),
  {
    daysAgo: 64,
    hour: 6,
    do: 'pool',
    customer: 'MHP',
    environment: 'watch',
    change: 'use-image',
    input: { pool: 'desks', image: 'office@1' },
    reason: 'between two shifts',
  },
  image(34, 8, {
    image: 'office',
    change: 'write-recipe',
    reason: '',
    input: { recipe: OFFICE_RECIPE('2026-10') },
  }),
  image(34, 9, {
    image: 'office',
    change: 'build-image',
    reason: '',
    input: { note: 'the updates of October' },
  }),
  image(34, 14, {
    image: 'office',
    change: 'copy-image',
    reason: 'the theatre tries it',
    input: { version: 2, site: 'NL' },
  }),
  {
    daysAgo: 33,
    hour: 6,
    do: 'pool',
    customer: 'APT',
    environment: 'stage',
    change: 'use-image',
    input: { pool: 'desks', image: 'office@2', track: 'trial' },
    reason: 'they are few, and say what they think',
  },
  image(31, 9, {
    owner: 'CAO',
    image: null,
    change: 'new-image',
    reason: 'their inspectors ask for one that nobody else has',
    input: {
      code: 'hallmark',
      name: 'Hallmark',
      says: 'Weighing and hallmarking, locked after two minutes',
      site: 'TF',
      from: 'Ostrel 12 multi-user',
      recipe: ASSAY_RECIPE,
      keep: 3,
      size: 's4x16',
      diskGiB: 96,
      licences: ['Tallybrook'],
    },
  }),
  image(31, 10, {
    owner: 'CAO',
    image: 'hallmark',
    change: 'build-image',
    reason: '',
    input: { note: 'the first, for the inspectors' },
  }),
  image(30, 9, {
    owner: 'CAO',
    image: 'hallmark',
    change: 'make-current',
    reason: 'the inspectors have seen it',
    input: { version: 1 },
  }),
  image(28, 9, {
    image: 'office',
    change: 'make-current',
    reason: 'a week without a word',
    input: { version: 2 },
  }),
  {
    daysAgo: 27,
    hour: 6,
    do: 'pool',
    customer: 'MHP',
    environment: 'watch',
    change: 'use-image',
    input: { pool: 'desks', image: 'office@2' },
    reason: 'the updates of October',
  },
  image(20, 9, {
    image: 'office',
    change: 'refresh-by-rule',
    reason: 'some days after the vendor’s, to hear of faults',
    input: {
      refresh: {
        rule: 'FREQ=MONTHLY;BYDAY=2TU',
        after: 20,
        time: '06:00',
        zone: 'Europe/Dublin',
        country: 'IE',
      },
    },
  }),
  image(3, 8, {
    image: 'office',
    change: 'write-recipe',
    reason: '',
    input: { recipe: OFFICE_RECIPE('2026-11', '  - install: Paddockbook 3.4\n') },
  }),
  image(3, 9, {
    image: 'office',
    change: 'build-image',
    reason: '',
    input: { note: 'the updates of November, and Paddockbook' },
  }),
  {
    daysAgo: 2,
    hour: 6,
    do: 'pool',
    customer: 'QFB',
    environment: 'bench',
    change: 'use-image',
    input: { pool: 'desks', image: 'office@3', track: 'trial' },
    reason: 'tried here first',
  },
  image(1, 13, {
    image: null,
    change: 'new-image',
    reason: 'Ferrow & Pike draw all day',
    input: {
      code: 'drawing',
      name: 'Drawing office',
      says: 'Contourwick on strong hosts',
      site: 'KQ',
      from: 'Ostrel 12 multi-user',
      recipe: DRAWING_RECIPE,
      keep: 2,
      size: 's4x16',
      diskGiB: 128,
      licences: ['Contourwick'],
    },
  }),
  image(0, 8, {
    image: 'drawing',
    change: 'build-image',
    reason: '',
    input: { note: 'the first', keepHours: 72 },
  }),
];

const weekends = (customer: string, environment: string, hosts: number, weeks: number): DemoEvent[] =>
  Array.from({ length: weeks }, (_, week): DemoEvent[] => [
    {
      weekendsAgo: week,
      day: 'Friday',
      hour: 20,
      do: 'change',
      customer,
      environment,
      change: 'power-off',
      hosts,
      reason: 'nobody works at the weekend',
    },
    {
      weekendsAgo: week,
      day: 'Monday',
      hour: 5.5,
      do: 'change',
      customer,
      environment,
      change: 'power-on',
      hosts,
      reason: 'before the week begins',
    },
  ]).flat();

export const HISTORY: readonly DemoEvent[] = [
  ...IMAGE_HISTORY,
  {
    daysAgo: 90,
    hour: 9,
    do: 'provision',
    customer: 'MHP',
    environment: 'watch',
    people: 42,
    profile: 'standard',
    reason: 'first environment',
  },
  {
    daysAgo: 89,
    hour: 10,
    do: 'provision',
    customer: 'WAP',
    environment: 'press',
    people: 17,
    profile: 'standard',
    reason: 'first environment',
  },
  {
    daysAgo: 88,
    hour: 9,
    do: 'provision',
    customer: 'SVG',
    environment: 'clinic',
    people: 96,
    profile: 'light',
    reason: 'six clinics move in',
  },
  {
    daysAgo: 85,
    hour: 13,
    do: 'provision',
    customer: 'FPS',
    environment: 'survey',
    people: 28,
    profile: 'graphics',
    reason: 'drawing office',
  },
  {
    daysAgo: 80,
    hour: 8,
    do: 'provision',
    customer: 'CAO',
    environment: 'assay',
    template: 'desks-and-lab',
    people: 31,
    profile: 'standard',
    reason: 'on nodes of their own',
  },
  {
    daysAgo: 75,
    hour: 11,
    do: 'provision',
    customer: 'APT',
    environment: 'stage',
    people: 14,
    profile: 'light',
    reason: 'autumn season',
  },
  {
    daysAgo: 70,
    hour: 9,
    do: 'provision',
    customer: 'WAP',
    environment: 'proof',
    people: 8,
    profile: 'light',
    reason: 'proof readers',
  },
  {
    daysAgo: 60,
    hour: 10,
    do: 'provision',
    customer: 'HSB',
    environment: 'seed',
    people: 23,
    profile: 'standard',
    reason: 'second room of the seed bank',
    fails: { host: 'HSB-SEED01', times: 1 },
  },
  {
    daysAgo: 33,
    hour: 14,
    do: 'provision',
    customer: 'SVG',
    environment: 'front',
    people: 24,
    profile: 'light',
    reason: 'front desks, apps only',
  },
  {
    daysAgo: 32,
    hour: 9,
    do: 'grants',
    customer: 'SVG',
    environment: 'front',
    pool: 'desks',
    add: [
      { item: 'Full desktop', group: 'Front desk' },
      { item: 'Tallybrook', group: 'Front desk' },
      { item: 'Tallybrook', group: 'Office' },
      { item: 'Murrelmail', group: 'Front desk' },
      { item: 'Murrelmail', group: 'Office' },
    ],
    take: ['Full desktop', 'Tallybrook', 'Murrelmail'],
    reason: 'only who sits at a front desk, and the office for its figures',
  },
  {
    daysAgo: 32,
    hour: 10,
    do: 'pool',
    customer: 'SVG',
    environment: 'front',
    change: 'publish-items',
    input: {
      pool: 'desks',
      items: [
        { name: 'Full desktop', kind: 'desktop' },
        { name: 'Tallybrook' },
        { name: 'Murrelmail' },
        {
          name: 'Day sheet',
          starts: 'Tallybrook',
          arguments: '--book day',
          folder: 'Figures',
          icon: 'clock',
          crosses: ['printers'],
        },
        {
          name: 'Stocktake',
          starts: 'Tallybrook',
          arguments: '--book stock',
          folder: 'Figures',
          hidden: true,
        },
      ],
    },
    reason: 'the day sheet in one press',
  },
  {
    daysAgo: 32,
    hour: 11,
    do: 'grants',
    customer: 'SVG',
    environment: 'front',
    pool: 'desks',
    add: [
      { item: 'Day sheet', group: 'Front desk' },
      { item: 'Stocktake', group: 'Office' },
    ],
    take: [],
    reason: 'each to whom it is for',
  },
  {
    daysAgo: 31,
    hour: 10,
    do: 'grants',
    customer: 'SVG',
    environment: 'clinic',
    pool: 'desks',
    add: [
      { item: 'Tallybrook', group: 'Office' },
      { item: 'Tallybrook', group: 'Clinical staff' },
    ],
    take: ['Tallybrook'],
    reason: 'figures are not for the front desks',
  },
  {
    daysAgo: 20,
    hour: 9,
    do: 'provision',
    customer: 'QFB',
    environment: 'bench',
    people: 9,
    profile: 'light',
    reason: 'trial',
  },
  {
    daysAgo: 26,
    hour: 17,
    do: 'pool',
    customer: 'CAO',
    environment: 'assay',
    change: 'grow-disk',
    input: { pool: 'lab', diskGiB: 320 },
    reason: 'the new spectra take more room',
  },
  {
    daysAgo: 14,
    hour: 18,
    do: 'pool',
    customer: 'HSB',
    environment: 'seed',
    change: 'add-hosts',
    input: { pool: 'desks', hosts: 1 },
    reason: 'students for the winter',
  },
  {
    daysAgo: 9,
    hour: 10,
    do: 'template',
    code: 'shared-office',
    note: 'drives may cross, and more room for what people keep',
    text: SHARED_OFFICE_LATER,
  },
  {
    daysAgo: 12,
    hour: 9,
    do: 'provision',
    customer: 'FPS',
    environment: 'studio',
    template: 'studio',
    people: 10,
    profile: 'standard',
    inputs: [
      { key: 'drawers', value: 4 },
      { key: 'pilot', value: false },
    ],
    reason: 'those who draw get desktops of their own',
  },
  {
    daysAgo: 11,
    hour: 8,
    do: 'pool',
    customer: 'FPS',
    environment: 'studio',
    change: 'assign-desktops',
    input: { pool: 'draw', people: DRAWERS },
    reason: 'who draws',
  },
  {
    daysAgo: 4,
    hour: 17,
    do: 'change',
    customer: 'FPS',
    environment: 'studio',
    change: 'keep-desktops',
    pool: 'draw',
    hosts: 1,
    reason: 'left at the end of the month',
  },
  ...weekends('SVG', 'clinic', 5, 6),
  ...weekends('FPS', 'survey', 3, 6),
  {
    daysAgo: 12,
    hour: 16,
    do: 'change',
    customer: 'MHP',
    environment: 'watch',
    change: 'drain',
    hosts: 1,
    reason: 'fan noise on its node',
  },
  {
    daysAgo: 11,
    hour: 9,
    do: 'change',
    customer: 'MHP',
    environment: 'watch',
    change: 'put-back',
    hosts: 1,
    reason: 'fan replaced',
  },
  { daysAgo: 9, hour: 10, do: 'state', customer: 'WAP', state: 'leaving' },
  {
    daysAgo: 31,
    hour: 16,
    do: 'by hand',
    customer: 'HSB',
    make: { kind: 'share', site: 'KQ', name: 'scan-copies', attributes: { gib: 250 }, tags: {} },
  },
  {
    daysAgo: 12,
    hour: 17,
    do: 'by hand',
    customer: 'HSB',
    make: {
      kind: 'host',
      site: 'KQ',
      name: 'OLD-PLOTTER',
      attributes: {
        size: 's4x16',
        image: 'Ostrel 12 multi-user',
        diskGiB: 128,
        node: 'kq-b2',
        address: '10.99.0.9',
        lacks: ['updates', 'office set'],
      },
      tags: {},
    },
  },
  {
    daysAgo: 6,
    hour: 15,
    do: 'retire',
    customer: 'WAP',
    environment: 'proof',
    reason: 'leaving us: first the proof readers',
  },
  {
    daysAgo: 0,
    hour: 7.5,
    do: 'provision',
    customer: 'FPS',
    environment: 'field',
    people: 10,
    profile: 'heavy',
    reason: 'field office for the winter',
    fails: { host: 'FPS-FIELD02', times: 1 },
    staysStopped: true,
  },
  {
    daysAgo: 0,
    hour: 8,
    do: 'change',
    customer: 'SVG',
    environment: 'clinic',
    change: 'drain',
    hosts: 1,
    reason: 'watching a slow profile disk',
  },
  {
    daysAgo: 0,
    hour: 7,
    do: 'ails',
    customer: 'SVG',
    environment: 'clinic',
    host: 1,
    given: { sign_in_seconds: 74, tried: 6 },
  },
  { daysAgo: 0, hour: 7, do: 'ails', customer: 'CAO', environment: 'assay', host: 0, given: { disk: 94 } },
  {
    daysAgo: 0,
    hour: 7,
    do: 'ails',
    customer: 'FPS',
    environment: 'studio',
    host: 2,
    given: { agent: '4.1' },
  },
];
