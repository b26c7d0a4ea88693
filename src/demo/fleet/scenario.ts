import { NO_LIMITS } from '../../core/plans';
import type { PoolSpec, TemplateSpec } from '../../core/templates';
import { CARDS, DESKS_AND_LAB, SHARED_OFFICE } from '../scenario';

/** What the fleet stands on, beyond the ground of the eight: larger ranges and plans, more currencies, one more template. */

export const FLEET_RANGES = [
  { site: 'KQ', cidr: '10.64.0.0/10' },
  { site: 'TF', cidr: '10.128.0.0/10' },
  { site: 'NL', cidr: '10.192.0.0/10' },
] as const;

export const FLEET_PLANS = [
  { code: 'breakwater', name: 'Breakwater', most: { ...NO_LIMITS, hosts: 2_000, people: 2_000 } },
] as const;

const [EURO] = CARDS;
const card = (code: string, name: string, currency: string, times: number, digits: number) => ({
  code,
  name,
  currency,
  lapsed: '',
  rates: EURO.rates.map((rate) => ({
    ...rate,
    price: (Number(rate.price) * times).toFixed(digits),
    later: rate.later === null ? null : (Number(rate.later) * times).toFixed(digits),
  })),
});

const EARLY = card('eur-early', 'Early customers, euro', 'EUR', 0.9, 4);

export const FLEET_CARDS = [
  card('sek', 'Standard, Swedish krona', 'SEK', 11.2, 4),
  card('isk', 'Standard, Icelandic króna', 'ISK', 148, 2),
  // What storage costs on it was said until a while ago, and nobody has said more.
  { ...EARLY, lapsed: 'share' },
];

const OWN: PoolSpec = {
  role: 'own',
  image: 'Ostrel 12 multi-user',
  arrival: 'spread',
  profile: 'standard',
  partOfPeople: 1,
  concurrency: 1,
  mostSeats: 1,
  diskGiB: 128,
  shareGiBPerPerson: 5,
  ceilingFactor: 1.25,
  items: [{ name: 'Full desktop', kind: 'desktop' }],
};

const OWN_DESKTOPS: TemplateSpec = {
  naming: '{customer}-{environment}{counter:4}',
  pools: [OWN],
  atATime: 12,
  failureLimit: 2,
};

export const FLEET_TEMPLATES = [
  {
    code: 'own-desktops',
    name: 'Own desktops',
    says: 'A desktop of one’s own for each of the people',
    note: 'first revision',
    spec: OWN_DESKTOPS,
  },
  {
    code: 'shared-office',
    name: 'Shared office',
    says: 'One shared pool of desktops for office work, with profiles on a share',
    note: 'hosts are counted to 999',
    spec: { ...SHARED_OFFICE, naming: '{customer}-{environment}{counter:3}' },
  },
  {
    code: 'desks-and-lab',
    name: 'Desks and lab',
    says: 'A pool of desktops for everyone, and a pool of strong hosts for the few who reckon and draw',
    note: 'names tell their environment',
    spec: {
      ...DESKS_AND_LAB,
      naming: '{customer}{environment}-{role}{counter:2}',
      pools: DESKS_AND_LAB.pools.map((pool) => (pool.role === 'desks' ? { ...pool, role: 'pc' } : pool)),
    },
  },
] as const;
