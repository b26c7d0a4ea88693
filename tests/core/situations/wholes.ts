import type { Facts } from '../../../src/core/facts';
import { carriedOut, facts, proposed } from '../setup/facts';
import {
  large,
  standing,
  standingTwo,
  there,
  stray,
  undoing,
  building,
  leavingOne,
  type Case,
} from './standing';

/** As it stands, and shared services with it. */
const served: Facts = {
  ...standing,
  site: {
    ...standing.site,
    services: {
      network: 'our network',
      cidr: '10.16.32.0/20',
      nameServers: ['10.16.32.6', '10.16.32.7'],
      directory: '10.16.32.4',
    },
  },
};

/** As it stands, and where its people sign in has a certificate. */
const certified: Facts = {
  ...standing,
  customer: {
    ...standing.customer,
    gateway: { name: 'desks.svg.example', certificate: 'the newest', until: standing.now + 90 * 86_400_000 },
  },
};

/** Our own, and the shelf of two hosts that we keep ready, with a server beside it that somebody made by hand. */
const ours: Facts = { ...facts, customer: { ...facts.customer, code: 'MSP', realm: '' } };
const stocked = proposed(
  'stock-shelf',
  { site: 'KQ', image: 'Ostrel 12 multi-user', size: 's2x8', diskGiB: 128, hosts: 2, most: '200.00' },
  ours,
);
const byHand = { name: 'OLD-SERVER', size: 's2x8', image: 'Ostrel 12 multi-user', diskGiB: 200, node: 'b1' };
const standingShelf = carriedOut(stocked, ours);
const shelf: Facts = {
  ...standingShelf,
  site: { ...standingShelf.site, strays: [{ ref: 'by hand', ...byHand }] },
};

/** What may be undone or retired. */
export const OF_WHOLES: readonly Case[] = [
  ['back to how it was', 'undo', { version: 1 }, undoing],
  ['back to what was not', 'undo', { version: 9 }, standing],
  ['all of it', 'retire', {}, standing],
  [
    'all of it, with others in the network',
    'retire',
    {},
    { ...standing, environment: standing.environment && { ...standing.environment, shares: true } },
  ],
  ['one pool of two', 'retire-pool', { pool: 'lab' }, standingTwo],
  ['the only pool', 'retire-pool', { pool: 'desks' }, standing],
  ['a pool that is not there', 'retire-pool', { pool: 'attic' }, standingTwo],
  ['of what was there before there were any', 'join-services', {}, served],
  ['of a gateway that has another', 'serve-certificate', {}, certified],
  ['of a customer that has none', 'serve-certificate', {}, standing],
  ['where they are reached already', 'join-services', {}, standing],
  ['at a site that has none', 'provide-services', { site: 'KQ' }, ours],
  [
    'of a kind that is not kept yet',
    'stock-shelf',
    { site: 'KQ', image: 'Ostrel 12 multi-user', size: 's2x8', diskGiB: 128, hosts: 2, most: '200.00' },
    ours,
  ],
  ['more than before', 'change-stock', { hosts: 5, most: null }, shelf],
  ['of what is no shelf', 'change-stock', { hosts: 5, most: null }, standing],
  ['a server made by hand', 'shelve', { server: 'by hand' }, shelf],
  ['a server that somebody owns', 'shelve', { server: 'host 1' }, shelf],
  ['what is not there', 'retire', {}, large],
  [
    'what is half there',
    'retire',
    {},
    {
      ...there('host:desks:2'),
      present: there('host:desks:2').present.filter((one) => one.kind !== 'publication'),
    },
  ],
  ['what holds a stray', 'retire', {}, stray],
  [
    'back to how it was while the new ones are being built',
    'undo',
    { version: 1 },
    { ...building, environment: undoing.environment && { ...building.environment, ...undoing.environment } },
  ],
  ['all of it while some are being built', 'retire', {}, building],
  ['all of it while one goes already', 'retire', {}, leavingOne],
  [
    'what was retired and goes on going',
    'retire',
    {},
    { ...standing, known: standing.known.map((one) => ({ ...one, wanted: false, unsettled: true })) },
  ],
  ['of what is not there', 'undo', { version: 1 }, large],
  [
    'back to a host that is going',
    'undo',
    { version: 1 },
    {
      ...leavingOne,
      environment: leavingOne.environment && {
        ...leavingOne.environment,
        ...(standing.environment ? { earlier: standing.environment.intent } : {}),
      },
    },
  ],
];
