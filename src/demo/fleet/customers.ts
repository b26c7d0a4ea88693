import { random, type Random } from './random';

/*
 * The fleet set: what an MSP with hundreds of customers looks like. Invented, and the same each time: customers of few and
 * of many people, with environments of unlike make, at three sites, in four currencies.
 */

export type Make = 'shared-office' | 'own-desktops' | 'desks-and-lab';

export interface FleetEnvironment {
  readonly name: string;
  readonly template: Make;
  readonly site: string;
  readonly people: number;
  /** When it was provisioned: days ago, and minutes after the hour that it is today. */
  readonly daysAgo: number;
  readonly minutes: number;
  readonly reason: string;
  /** Whether its hosts are off at night and at the weekend. */
  readonly sleeps: boolean;
}

export interface FleetCustomer {
  readonly code: string;
  readonly name: string;
  readonly plan: string;
  readonly site: string;
  readonly zone: string;
  readonly currency: string;
  readonly card: string;
  readonly state: 'active' | 'trial' | 'paused' | 'leaving';
  readonly people: number;
  readonly environments: readonly FleetEnvironment[];
}

const PLACES =
  'Alder Bracken Cinder Dapple Elder Fennel Gorse Hazel Iris Juniper Kestrel Linnet Mallow Nettle Osier Plover Quarry Rowan Sedge Thistle Umber Vetch Willow Yarrow'.split(
    ' ',
  );
const GROUND =
  'Bay Brook Cliff Dale Edge Ford Gate Hill Isle Knoll Lane Mere Ness Point Quay Ridge Sound Tarn Vale Weir'.split(
    ' ',
  );
const TRADES =
  'Auctioneers|Bakery Union|Boatyard|Brewers|Chandlers|Clinic|Cooperage|Dairy|Drapers|Engravers|Ferries|Foundry|Glaziers|Growers|Haulage|Housing|Insurers|Joinery|Law Office|Library|Lighthouse Trust|Mapmakers|Millers|Museum|Notaries|Nursery|Opticians|Orchards|Pharmacy|Potteries|Printers|Quarries|Rail Works|Ropeworks|Saddlers|School|Shipbrokers|Survey|Tannery|Theatre|Timber|Trust|Veterinary|Vintners|Waterworks|Weavers|Weighhouse|Yards'.split(
    '|',
  );

/** Where customers are at home: their site, and what goes with it. */
const HOMES = [
  { weight: 30, site: 'KQ', zone: 'Europe/London', currency: 'GBP' },
  { weight: 18, site: 'KQ', zone: 'Europe/Dublin', currency: 'EUR' },
  { weight: 22, site: 'TF', zone: 'Europe/Berlin', currency: 'EUR' },
  { weight: 14, site: 'NL', zone: 'Europe/Stockholm', currency: 'SEK' },
  { weight: 9, site: 'NL', zone: 'Europe/Helsinki', currency: 'EUR' },
  { weight: 7, site: 'NL', zone: 'Atlantic/Reykjavik', currency: 'ISK' },
] as const;

const STATES = [
  { weight: 90, state: 'active' },
  { weight: 5, state: 'trial' },
  { weight: 3, state: 'paused' },
  { weight: 2, state: 'leaving' },
] as const;

const MAKES = [
  { weight: 56, template: 'shared-office', names: ['office', 'desks', 'branch', 'front'] },
  { weight: 26, template: 'own-desktops', names: ['own', 'staff', 'design', 'home'] },
  { weight: 20, template: 'desks-and-lab', names: ['works', 'studio', 'plant', 'survey'] },
] as const;

const FEWEST = 3;
const MOST = 900;
const REASONS = [
  'first environment',
  'as ordered',
  'a new office',
  'moved from their own servers',
  'more people from next month',
] as const;

/** People of the median customer, and how far the others are from it: most are small, a few are very large. */
const MEDIAN = 70;
const SPREAD = 1.16;

/** The first `count` customers of the fleet, in the order in which they came. */
export function fleetCustomers(count: number): FleetCustomer[] {
  const dice = random(20_261);
  const codes = new Set<string>();
  const names = new Set<string>();
  let early = 2;
  return Array.from({ length: count }, () => {
    const name = nameOf(dice, names);
    const code = codeOf(name, codes);
    const people = peopleOf(dice);
    const { site, zone, currency } = dice.weighted(HOMES);
    const { state } = dice.weighted(STATES);
    // The first two who pay in euro have a card of their own.
    const card = currency === 'EUR' && early-- > 0 ? 'eur-early' : currency.toLowerCase();
    const plan = people > 45 ? 'breakwater' : people > 12 ? 'harbour' : 'jetty';
    const environments = environmentsOf(dice, site, people);
    return { code, name, plan, site, zone, currency, card, state, people, environments };
  });
}

function peopleOf(dice: Random): number {
  for (;;) {
    const people = Math.round(MEDIAN * Math.exp(SPREAD * dice.normal()));
    if (people >= FEWEST && people <= MOST) return people;
  }
}

function nameOf(dice: Random, taken: Set<string>): string {
  for (;;) {
    const name = `${dice.pick(PLACES)} ${dice.pick(GROUND)} ${dice.pick(TRADES)}`;
    if (taken.has(name)) continue;
    taken.add(name);
    return name;
  }
}

/** Three letters of its name: the beginnings of its words, else later letters of them. */
function codeOf(name: string, taken: Set<string>): string {
  const [first = '', second = '', third = ''] = name.toUpperCase().split(' ');
  for (const c of third + second)
    for (const b of second + first)
      for (const a of first) {
        const code = a + b + c;
        if (taken.has(code)) continue;
        taken.add(code);
        return code;
      }
  throw new Error(`there is no code left for ${name}`);
}

function environmentsOf(dice: Random, home: string, people: number): FleetEnvironment[] {
  const count = people < 20 ? 1 : dice.weighted(people < 100 ? FEW : MANY).count;
  const used = new Set<string>();
  let left = people;
  return Array.from({ length: count }, (_, n) => {
    const { template, names } = dice.weighted(MAKES);
    const free = names.filter((one) => !used.has(one));
    const name = dice.pick(free.length > 0 ? free : names.map((one) => `${one}${n}`));
    used.add(name);
    const last = n === count - 1;
    const mine = last ? left : Math.max(1, Math.round(left * (0.35 + 0.4 * dice.next())));
    left = Math.max(1, left - mine);
    return {
      name,
      template,
      // One in eight stands away from home.
      site: dice.next() < 0.12 ? dice.pick(['KQ', 'TF', 'NL']) : home,
      people: mine,
      daysAgo: 20 + Math.floor(dice.next() * 345),
      minutes: Math.floor(dice.next() * 420),
      reason: dice.pick(REASONS),
      sleeps: dice.next() < 0.6,
    };
  });
}

interface HowMany {
  readonly weight: number;
  readonly count: number;
}
const FEW: readonly HowMany[] = [
  { weight: 7, count: 1 },
  { weight: 3, count: 2 },
];
const MANY: readonly HowMany[] = [
  { weight: 2, count: 1 },
  { weight: 4, count: 2 },
  { weight: 3, count: 3 },
  { weight: 1, count: 4 },
];
