import { NO_LIMITS } from '../../core/plans';
import { CARDS } from '../scenario';
import { DESKS_AND_LAB, SHARED_OFFICE } from '../templates';

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

const OWN_DESKTOPS = `name: Own desktops
says: A desktop of one’s own for each of the people
naming: '{customer}-{environment}{counter:4}'
atATime: 12
pools:
  - role: own
    kind: personal
    image: Ostrel 12 multi-user
    people: =people
    shareGiBPerPerson: 5
    ceilingFactor: 1.25
`;

export const FLEET_TEMPLATES = [
  { code: 'own-desktops', note: 'first revision', text: OWN_DESKTOPS },
  {
    code: 'shared-office',
    note: 'hosts are counted to 999',
    text: SHARED_OFFICE.replace('{counter:2}', '{counter:3}'),
  },
  {
    code: 'desks-and-lab',
    note: 'names tell their environment',
    text: DESKS_AND_LAB.replace('{customer}-{role}', '{customer}{environment}-{role}').replace(
      'role: desks',
      'role: pc',
    ),
  },
] as const;
