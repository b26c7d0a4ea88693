import type { Facts } from '../../../src/core/facts';
import { standing, type Case } from './standing';

const VETS = '01J00000000000000000000000';
const LOCUMS = '01J00000000000000000000001';
const EMPTY = '01J00000000000000000000002';
const TAMSIN = '01J00000000000000000000003';

/** As it stands, and who is in the directory. */
const withPeople: Facts = {
  ...standing,
  grantees: [
    { id: VETS, to: 'group', name: 'Vets', unit: 'People', inScope: true, people: 24 },
    { id: LOCUMS, to: 'group', name: 'Locum vets', unit: 'Partners/Locums', inScope: false, people: 0 },
    { id: EMPTY, to: 'group', name: 'Students', unit: 'People', inScope: true, people: 0 },
    { id: TAMSIN, to: 'person', name: 'Tamsin Yarrow', unit: 'People', inScope: true, people: 1 },
  ],
};
const to = (kind: string, id: string, over: object = {}): object => ({
  pool: 'desks',
  item: 'Full desktop',
  to: kind,
  id,
  until: null,
  ...over,
});
const everyone = { pool: 'desks', item: 'Full desktop', to: 'everyone' };

/** What may be granted, and what not. */
export const OF_GRANTS: readonly Case[] = [
  [
    'to a group instead of everyone',
    'grant-items',
    { add: [to('group', VETS)], take: [everyone] },
    withPeople,
  ],
  [
    'to one person for a day',
    'grant-items',
    { add: [to('person', TAMSIN, { until: standing.now + 86_400_000 })] },
    withPeople,
  ],
  ['to a group outside what is read', 'grant-items', { add: [to('group', LOCUMS)] }, withPeople],
  ['to a group with nobody in it', 'grant-items', { add: [to('group', EMPTY)] }, withPeople],
  ['to nobody', 'grant-items', { add: [], take: [] }, withPeople],
  [
    'to a group of somebody else',
    'grant-items',
    { add: [to('group', '01J0000000000000000000009X')] },
    withPeople,
  ],
  ['to a person as if they were a group', 'grant-items', { add: [to('group', TAMSIN)] }, withPeople],
  [
    'of what is not published',
    'grant-items',
    { add: [to('group', VETS, { item: 'Contourwick' })] },
    withPeople,
  ],
  ['of a pool that is not there', 'grant-items', { add: [to('group', VETS, { pool: 'lab' })] }, withPeople],
  [
    'with an end that is over',
    'grant-items',
    { add: [to('group', VETS, { until: standing.now })] },
    withPeople,
  ],
  ['from whom it is not granted to', 'grant-items', { take: [to('group', VETS)] }, withPeople],
  ['twice the same', 'grant-items', { add: [to('group', VETS), to('group', VETS)] }, withPeople],
  [
    'one app twice, with other arguments, under a heading',
    'publish-items',
    {
      pool: 'desks',
      items: [
        { name: 'Full desktop', kind: 'desktop', screen: 'every screen' },
        {
          name: 'Ledgers',
          starts: 'Tallybrook',
          arguments: '--book ledgers',
          folder: 'Figures',
          crosses: ['printers'],
        },
        { name: 'Wages', starts: 'Tallybrook', arguments: '--book wages', folder: 'Figures', hidden: true },
      ],
    },
    withPeople,
  ],
  [
    'what may not cross there',
    'publish-items',
    { pool: 'desks', items: [{ name: 'Ledgers', crosses: ['usb'] }] },
    withPeople,
  ],
  ['nothing at all', 'publish-items', { pool: 'desks', items: [] }, withPeople],
  [
    'with the licence seats that it takes',
    'grant-items',
    { add: [to('group', VETS)], licences: [{ pool: 'desks', seats: 20 }] },
    withPeople,
  ],
  [
    'with no more seats than there are',
    'grant-items',
    { add: [to('group', VETS)], licences: [{ pool: 'desks', seats: 12 }] },
    withPeople,
  ],
];
