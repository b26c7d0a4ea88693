import { carriedOut, node, proposed } from '../setup/facts';
import {
  large,
  standing,
  idOf,
  withSizes,
  sized,
  site,
  most,
  plan,
  there,
  drained,
  withOwn,
  standingTwo,
  building,
  leavingOne,
  atWorkOn,
  type Case,
} from './standing';

const PICTURED = { hosts: [idOf('host:desks:1')], picture: true };
const pictured = carriedOut(proposed('maintain-hosts', PICTURED, standing), standing);

/** What may be done to hosts: more, fewer, on and off, drained, larger. */
export const OF_HOSTS: readonly Case[] = [
  ['two more', 'add-hosts', { pool: 'desks', hosts: 2 }, standing],
  ['more than the pool’s ceiling', 'add-hosts', { pool: 'desks', hosts: 6 }, standing],
  ['as many as the ceiling', 'add-hosts', { pool: 'desks', hosts: 5 }, standing],
  ['to a pool that is not there', 'add-hosts', { pool: 'lab', hosts: 1 }, standing],
  ['none', 'add-hosts', { pool: 'desks', hosts: 0 }, standing],
  ['to nothing', 'add-hosts', { pool: 'desks', hosts: 1 }, large],
  ['more than the plan', 'add-hosts', { pool: 'desks', hosts: 3 }, most({ hosts: 7 }, standing)],
  ['one away, the emptiest', 'take-hosts', { pool: 'desks', hosts: 1 }, standing],
  ['three away, people in one of them', 'take-hosts', { pool: 'desks', hosts: 4 }, standing],
  ['all away', 'take-hosts', { pool: 'desks', hosts: 5 }, standing],
  [
    'these away',
    'take-hosts',
    { pool: 'desks', ids: [idOf('host:desks:4'), idOf('host:desks:1')] },
    standing,
  ],
  [
    'all of these away',
    'take-hosts',
    { pool: 'desks', ids: [1, 2, 3, 4, 5].map((n) => idOf(`host:desks:${n}`)) },
    standing,
  ],
  ['someone else’s away', 'take-hosts', { pool: 'desks', ids: ['other'] }, standing],
  ['away from a pool that is not there', 'take-hosts', { pool: 'lab', hosts: 1 }, standing],
  ['both ways at once', 'take-hosts', { pool: 'desks', hosts: 1, ids: [idOf('host:desks:1')] }, standing],
  [
    'one away at once',
    'take-hosts',
    { pool: 'desks', ids: [idOf('host:desks:1')] },
    standing,
    { drainMinutes: 0 },
  ],
  ['off', 'power-off', { hosts: [idOf('host:desks:1'), idOf('host:desks:2')] }, standing],
  ['off what is empty', 'power-off', { hosts: [idOf('host:desks:2')] }, standing],
  ['on what is on', 'power-on', { hosts: [idOf('host:desks:2')] }, standing],
  [
    'on what was put off',
    'power-on',
    { hosts: [idOf('host:desks:2')] },
    carriedOut(proposed('power-off', { hosts: [idOf('host:desks:2')] }, standing), standing),
  ],
  ['drained', 'drain', { hosts: [idOf('host:desks:1')] }, standing],
  ['put back', 'put-back', { hosts: [idOf('host:desks:2')] }, carriedOut(drained, standing)],
  [
    'drained, what is not there',
    'drain',
    { hosts: [idOf('host:desks:2'), idOf('host:desks:3')] },
    there('host:desks:2'),
  ],
  [
    'two restarted in turn',
    'restart-hosts',
    { hosts: [idOf('host:desks:1'), idOf('host:desks:2')] },
    standing,
  ],
  [
    'all restarted: never so many that somebody finds no seat',
    'restart-hosts',
    { hosts: [1, 2, 3, 4, 5].map((n) => idOf(`host:desks:${n}`)) },
    standing,
  ],
  [
    'restarted, what is off',
    'restart-hosts',
    { hosts: [idOf('host:desks:2')] },
    carriedOut(proposed('power-off', { hosts: [idOf('host:desks:2')] }, standing), standing),
  ],
  [
    'restarted, what its provider cannot reach',
    'restart-hosts',
    { hosts: [idOf('host:desks:2')] },
    {
      ...standing,
      present: standing.present.map((one) =>
        one.key === 'host:desks:2' ? { ...one, condition: 'unwell' as const } : one,
      ),
    },
  ],
  ['someone else’s restarted', 'restart-hosts', { hosts: ['other'] }, standing],
  ['in maintenance', 'maintain-hosts', { hosts: [idOf('host:desks:1')] }, standing],
  [
    'all of them in maintenance, with people in',
    'maintain-hosts',
    { hosts: [1, 2, 3, 4, 5].map((n) => idOf(`host:desks:${n}`)) },
    standing,
  ],
  ['in maintenance, a picture before', 'maintain-hosts', PICTURED, standing],
  ['back to its picture', 'go-back-to-picture', { hosts: PICTURED.hosts }, pictured],
  ['back to a picture that nobody took', 'go-back-to-picture', { hosts: PICTURED.hosts }, standing],
  ['taken back, its picture no more', 'end-maintenance', { hosts: PICTURED.hosts }, pictured],
  [
    'taken back from maintenance',
    'end-maintenance',
    { hosts: [idOf('host:desks:1')] },
    carriedOut(proposed('maintain-hosts', { hosts: [idOf('host:desks:1')] }, standing), standing),
  ],
  ['someone else’s host', 'drain', { hosts: ['other'] }, standing],
  ['no host', 'drain', { hosts: [] }, standing],
  ['one host twice', 'drain', { hosts: [idOf('host:desks:2'), idOf('host:desks:2')] }, standing],
  ['to a larger size', 'resize', { pool: 'desks', size: 's4x16' }, sized],
  ['to the size that it has', 'resize', { pool: 'desks', size: 's2x8' }, sized],
  ['to a size that is not there', 'resize', { pool: 'desks', size: 's99' }, sized],
  ['to a size without a price', 'resize', { pool: 'desks', size: 's16x64' }, sized],
  [
    'to a size that the plan has not',
    'resize',
    { pool: 'desks', size: 's8x32' },
    plan({ sizes: ['s2x8', 's4x16'] }, sized),
  ],
  ['in waves of two', 'resize', { pool: 'desks', size: 's4x16' }, sized, { waves: 2, drainMinutes: 5 }],
  [
    'on nodes without room',
    'resize',
    { pool: 'desks', size: 's8x32' },
    site(
      {
        nodes: [
          { ...node('a1', 'a'), vcpu: 12 },
          { ...node('b1', 'b'), vcpu: 6 },
        ],
      },
      sized,
    ),
  ],
  [
    'under a quota',
    'resize',
    { pool: 'desks', size: 's4x16' },
    site({ kind: 'hosted region', nodes: [], quota: { vcpu: 20, vcpuUsed: 10 } }, sized),
  ],
  ['a larger disk', 'grow-disk', { pool: 'desks', diskGiB: 256 }, standing],
  ['the same disk', 'grow-disk', { pool: 'desks', diskGiB: 128 }, standing],
  ['a smaller disk', 'grow-disk', { pool: 'desks', diskGiB: 100 }, standing],
  ['a disk smaller than the image', 'grow-disk', { pool: 'desks', diskGiB: 32 }, standing],
  ['a disk of a pool that is not there', 'grow-disk', { pool: 'lab', diskGiB: 256 }, standing],
  [
    'to a size that carries nobody',
    'resize',
    { pool: 'desks', size: 's1x1' },
    site({ sizes: [...sized.site.sizes, { key: 's1x1', vcpu: 0, memoryGiB: 1 }] }, sized),
  ],
  [
    'someone’s only desktop away at once',
    'take-hosts',
    { pool: 'desks', ids: [idOf('host:desks:4')] },
    standing,
    { drainMinutes: 0 },
  ],
  [
    'two that are not there',
    'drain',
    { hosts: [idOf('host:desks:2'), idOf('host:desks:3')] },
    {
      ...standing,
      present: standing.present.filter((one) => one.key !== 'host:desks:2' && one.key !== 'host:desks:3'),
    },
  ],
  [
    'a larger disk where the size has no price any more',
    'grow-disk',
    { pool: 'desks', diskGiB: 256 },
    { ...standing, rates: standing.rates.filter((one) => one.meter !== 'disk') },
  ],
  [
    'a larger size for hosts of their own disks',
    'resize',
    { pool: 'desks', size: 's4x16' },
    withOwn(sized, { diskGiB: 200 }),
  ],
  [
    'a larger disk for hosts of their own sizes',
    'grow-disk',
    { pool: 'desks', diskGiB: 300 },
    withOwn(sized, { size: 's4x16' }),
  ],
  [
    'a disk smaller than that of one host',
    'grow-disk',
    { pool: 'desks', diskGiB: 199 },
    withOwn(sized, { diskGiB: 200 }),
  ],
  [
    'a disk as large as that of one host',
    'grow-disk',
    { pool: 'desks', diskGiB: 200 },
    withOwn(sized, { diskGiB: 200 }),
  ],
  [
    'a disk as large as the image',
    'grow-disk',
    { pool: 'desks', diskGiB: 130 },
    site({ images: [{ name: 'Ostrel 12 multi-user', diskGiB: 130 }] }, standing),
  ],
  [
    'a disk smaller than the image by one',
    'grow-disk',
    { pool: 'desks', diskGiB: 129 },
    site({ images: [{ name: 'Ostrel 12 multi-user', diskGiB: 130 }] }, standing),
  ],
  ['to a size that the site has not', 'resize', { pool: 'lab', size: 's4x16' }, sized],
  ['two more of one of two pools', 'add-hosts', { pool: 'lab', hosts: 2 }, standingTwo],
  ['one away of one of two pools', 'take-hosts', { pool: 'lab', hosts: 1 }, standingTwo],
  [
    'these away, one of another pool',
    'take-hosts',
    { pool: 'lab', ids: ['id of host:lab:1', 'id of host:desks:1'] },
    standingTwo,
  ],
  ['one of two pools resized', 'resize', { pool: 'lab', size: 's4x16' }, withSizes(standingTwo)],
  ['the disk of one of two pools', 'grow-disk', { pool: 'lab', diskGiB: 256 }, standingTwo],
  ['away while another goes already', 'take-hosts', { pool: 'desks', hosts: 1 }, leavingOne],
  ['two more while some are being built', 'add-hosts', { pool: 'desks', hosts: 2 }, building],
  ['a larger disk while some are being built', 'grow-disk', { pool: 'desks', diskGiB: 256 }, building],
  [
    'as wanted, once what was set by hand is over',
    'follow-overrides',
    {},
    {
      ...carriedOut(
        proposed('power-off', { hosts: [idOf('host:desks:1')], until: standing.now + 60_000 }, standing),
        standing,
      ),
      now: standing.now + 60_000,
    },
  ],
  ['as wanted, where nothing is set otherwise', 'follow-overrides', {}, standing],
  ['off while it is being built', 'power-off', { hosts: ['id of host:desks:6'] }, building],
  [
    'off while it begins to be there',
    'power-off',
    { hosts: ['id of host:desks:6'] },
    {
      ...building,
      present: [
        ...building.present,
        {
          ref: 'six',
          kind: 'host',
          name: 'SVG-OFFICE07',
          key: 'host:desks:6',
          condition: 'building',
          attributes: { power: 'off' },
        },
      ],
    },
  ],
  [
    'another size while a run is at work on the first one',
    'resize',
    { pool: 'desks', size: 's8x32' },
    withSizes(atWorkOn('host:desks:1', { size: 's2x8' }, { size: 's4x16' })),
  ],
  [
    'back to what is there while a run is at work on it',
    'resize',
    { pool: 'desks', size: 's2x8' },
    withSizes(atWorkOn('host:desks:1', { size: 's2x8' }, { size: 's4x16' })),
  ],
  ['with a word and no minutes', 'resize', { pool: 'desks', size: 's4x16' }, sized, { message: 'Soon.' }],
  ['without a word', 'resize', { pool: 'desks', size: 's4x16' }, sized, { message: '' }],
  ['drained first, by wish', 'grow-disk', { pool: 'desks', diskGiB: 256 }, standing, { drainMinutes: 7 }],
  ['drained first, told so', 'grow-disk', { pool: 'desks', diskGiB: 256 }, standing, { message: 'Soon.' }],
  ['without waves', 'resize', { pool: 'desks', size: 's4x16' }, sized, { waves: 0 }],
  [
    'more people than a smaller plan has, though not more than before',
    'add-hosts',
    { pool: 'desks', hosts: 1 },
    most({ people: 5 }, standing),
  ],
  [
    'more hosts of a size that a smaller plan has no more',
    'add-hosts',
    { pool: 'desks', hosts: 1 },
    plan({ sizes: ['s4x16'] }, sized),
  ],
  [
    'on nodes with just as much memory left as it takes more',
    'resize',
    { pool: 'desks', size: 's4x16' },
    site(
      {
        nodes: [
          { ...node('a1', 'a'), vcpu: 6, memoryGiB: 24, diskGiB: 1 },
          { ...node('b1', 'b'), vcpu: 4, memoryGiB: 16, diskGiB: 1 },
        ],
      },
      sized,
    ),
  ],
  [
    'on nodes with just as much disk left as it takes more',
    'grow-disk',
    { pool: 'desks', diskGiB: 256 },
    site(
      {
        nodes: [
          { ...node('a1', 'a'), memoryGiB: 1, diskGiB: 384 },
          { ...node('b1', 'b'), memoryGiB: 1, diskGiB: 256 },
        ],
      },
      standing,
    ),
  ],
  [
    'on a node with too little disk left, by one GiB',
    'grow-disk',
    { pool: 'desks', diskGiB: 256 },
    site(
      {
        nodes: [
          { ...node('a1', 'a'), diskGiB: 383 },
          { ...node('b1', 'b'), diskGiB: 256 },
        ],
      },
      standing,
    ),
  ],
  [
    'off under a quota',
    'power-off',
    { hosts: [idOf('host:desks:2')] },
    site({ kind: 'hosted region', nodes: [], quota: { vcpu: 20, vcpuUsed: 20 } }, standing),
  ],
  [
    'of one that has no node, on nodes',
    'resize',
    { pool: 'desks', size: 's4x16' },
    {
      ...sized,
      known: sized.known.map((one) =>
        one.kind === 'host' ? { ...one, attributes: { ...one.attributes, node: null } } : one,
      ),
    },
  ],
  [
    'another size while a run is at work on the size and the power',
    'resize',
    { pool: 'desks', size: 's8x32' },
    withSizes(atWorkOn('host:desks:1', { size: 's2x8' }, { size: 's4x16', power: 'off' })),
  ],
  ['what is no host', 'drain', { hosts: ['id of pool:desks'] }, standing],
  ['a host that goes already', 'drain', { hosts: [idOf('host:desks:5')] }, leavingOne],
  [
    'so many away that the second of two pools has too few seats',
    'take-hosts',
    { pool: 'lab', hosts: 2 },
    standingTwo,
  ],
  [
    'one away, where they are known in another order',
    'take-hosts',
    { pool: 'desks', hosts: 1 },
    { ...standing, known: [...standing.known].reverse() },
  ],
  ['all away, by number, and more', 'take-hosts', { pool: 'desks', hosts: 9 }, standing],
  ['five off', 'power-off', { hosts: [1, 2, 3, 4, 5].map((n) => idOf(`host:desks:${n}`)) }, standing],
  [
    'to a subnet that has room for some',
    'add-hosts',
    { pool: 'desks', hosts: 5 },
    site({ reservedAddresses: 12 }, standing),
  ],
  [
    'one away, under a plan that is too small for the others too',
    'take-hosts',
    { pool: 'desks', hosts: 1 },
    most({ hosts: 2 }, standing),
  ],
  ['one more, while another is not there', 'add-hosts', { pool: 'desks', hosts: 1 }, there('host:desks:2')],
  [
    'off what is being built by itself',
    'power-off',
    { hosts: [idOf('host:desks:2')] },
    there('host:desks:2', { condition: 'building' }),
  ],
  ...(
    [
      ['s4x8', 4, 8],
      ['s2x16', 2, 16],
    ] as const
  ).map(([key, vcpu, memoryGiB]): Case => [
    `to ${key} on nodes with no more room`,
    'resize',
    { pool: 'desks', size: key },
    {
      ...standing,
      rates: [...standing.rates, { meter: 'host', size: key, unit: 'hour', price: '0.1', from: 0, to: null }],
      site: {
        ...standing.site,
        sizes: [...standing.site.sizes, { key, vcpu, memoryGiB }],
        nodes: [
          { ...node('a1', 'a'), vcpu: 1, memoryGiB: 1 },
          { ...node('b1', 'b'), vcpu: 1, memoryGiB: 1 },
        ],
      },
    },
  ]),
  [
    'two more, where one in the middle was taken away',
    'add-hosts',
    { pool: 'desks', hosts: 2 },
    carriedOut(proposed('take-hosts', { pool: 'desks', ids: [idOf('host:desks:2')] }, standing), standing),
  ],
  [
    'a disk smaller than its image, larger than another',
    'grow-disk',
    { pool: 'desks', diskGiB: 129 },
    site(
      {
        images: [
          { name: 'Another', diskGiB: 10 },
          { name: 'Ostrel 12 multi-user', diskGiB: 130 },
        ],
      },
      standing,
    ),
  ],
  [
    'to a size with fewer seats than people',
    'resize',
    { pool: 'desks', size: 's4x16' },
    {
      ...sized,
      environment: sized.environment && {
        ...sized.environment,
        intent: {
          ...sized.environment.intent,
          pools: sized.environment.intent.pools.map((pool) => ({ ...pool, people: 36 })),
        },
      },
    },
  ],
  [
    'to a subnet that is full',
    'add-hosts',
    { pool: 'desks', hosts: 3 },
    {
      ...standing,
      known: standing.known.map((one) =>
        one.kind === 'subnet' ? { ...one, attributes: { ...one.attributes, cidr: '10.16.0.0/29' } } : one,
      ),
    },
  ],
];
