import { carriedOut, proposed } from '../setup/facts';
import {
  large,
  standing,
  idOf,
  withSizes,
  plan,
  there,
  attributes,
  stray,
  standingTwo,
  type Case,
} from './standing';

/** What may be there otherwise than wanted, and be mended. */
export const OF_DIFFERENCES: readonly Case[] = [
  ['nothing amiss', 'mend', { differences: [{ key: 'host:desks:1', how: 'as wanted' }] }, standing],
  [
    'a host that is not there',
    'mend',
    { differences: [{ key: 'host:desks:2', how: 'as wanted' }] },
    there('host:desks:2'),
  ],
  [
    'a host that is not there, left so',
    'mend',
    { differences: [{ key: 'host:desks:2', how: 'as present' }] },
    there('host:desks:2'),
  ],
  [
    'a host that is unwell',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'condition', how: 'as wanted' }] },
    there('host:desks:1', { condition: 'unwell' }),
  ],
  [
    'a host of another size',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'size', how: 'as wanted' }] },
    withSizes(attributes('host:desks:1', { size: 's4x16' })),
  ],
  [
    'a host of another size, taken so',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'size', how: 'as present' }] },
    withSizes(attributes('host:desks:1', { size: 's4x16' })),
  ],
  [
    'a host that is off, taken so',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'power', how: 'as present' }] },
    attributes('host:desks:1', { power: 'off' }),
  ],
  [
    'a host of another image',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'image', how: 'as wanted' }] },
    attributes('host:desks:1', { image: 'Old' }),
  ],
  [
    'a host of another image, taken so',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'image', how: 'as present' }] },
    attributes('host:desks:1', { image: 'Old' }),
  ],
  [
    'a disk that is larger',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'diskGiB', how: 'as wanted' }] },
    attributes('host:desks:1', { diskGiB: 256 }),
  ],
  [
    'a disk that is smaller',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'diskGiB', how: 'as wanted' }] },
    attributes('host:desks:1', { diskGiB: 100 }),
  ],
  [
    'a share that is smaller',
    'mend',
    { differences: [{ key: 'share:desks', attribute: 'gib', how: 'as wanted' }] },
    attributes('share:desks', { gib: 10 }),
  ],
  [
    'a share that is smaller, taken so',
    'mend',
    { differences: [{ key: 'share:desks', attribute: 'gib', how: 'as present' }] },
    attributes('share:desks', { gib: 10 }),
  ],
  [
    'a pool of other seats',
    'mend',
    { differences: [{ key: 'pool:desks', attribute: 'seats', how: 'as wanted' }] },
    attributes('pool:desks', { seats: 2 }),
  ],
  [
    'a pool of other seats, taken so',
    'mend',
    { differences: [{ key: 'pool:desks', attribute: 'seats', how: 'as present' }] },
    attributes('pool:desks', { seats: 2 }),
  ],
  [
    'a publication of other items',
    'mend',
    { differences: [{ key: 'publication:desks', attribute: 'items', how: 'as wanted' }] },
    attributes('publication:desks', { items: ['Other'] }),
  ],
  [
    'a publication of fewer licences, taken so',
    'mend',
    { differences: [{ key: 'publication:desks', attribute: 'licences', how: 'as present' }] },
    attributes('publication:desks', { licences: 3 }),
  ],
  ['a stray host', 'mend', { differences: [{ key: 'extra:stray', how: 'as wanted' }] }, stray],
  ['a stray host, taken so', 'mend', { differences: [{ key: 'extra:stray', how: 'as present' }] }, stray],
  [
    'a network that is not there',
    'mend',
    { differences: [{ key: 'network:KQ', how: 'as wanted' }] },
    there('network:KQ'),
  ],
  ['nothing chosen', 'mend', { differences: [] }, standing],
  [
    'two at once',
    'mend',
    {
      differences: [
        { key: 'host:desks:2', how: 'as wanted' },
        { key: 'pool:desks', attribute: 'seats', how: 'as present' },
      ],
    },
    {
      ...there('host:desks:2'),
      present: [
        ...there('host:desks:2').present.filter((one) => one.key !== 'pool:desks'),
        ...attributes('pool:desks', { seats: 2 }).present.filter((one) => one.key === 'pool:desks'),
      ],
    },
  ],
  ['what is nowhere', 'mend', { differences: [{ key: 'host:desks:1', how: 'as wanted' }] }, large],
  [
    'two of which one does not differ',
    'mend',
    {
      differences: [
        { key: 'host:desks:1', attribute: 'power', how: 'as wanted' },
        { key: 'host:desks:2', attribute: 'accepting', how: 'as present' },
      ],
    },
    attributes('host:desks:2', { accepting: false }),
  ],
  [
    'a host of another size among like ones, all of it',
    'mend',
    { differences: [{ key: 'host:desks:1', how: 'as wanted' }] },
    withSizes(attributes('host:desks:1', { size: 's4x16', power: 'off' })),
  ],
  [
    'one of two that a host differs in',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'power', how: 'as wanted' }] },
    withSizes(attributes('host:desks:1', { size: 's4x16', power: 'off' })),
  ],
  [
    'the other of two that a host differs in, taken so',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'size', how: 'as present' }] },
    withSizes(attributes('host:desks:1', { size: 's4x16', power: 'off' })),
  ],
  [
    'a larger disk, taken so',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'diskGiB', how: 'as present' }] },
    attributes('host:desks:1', { diskGiB: 256 }),
  ],
  [
    'a drained host, taken so',
    'mend',
    { differences: [{ key: 'host:desks:2', attribute: 'accepting', how: 'as present' }] },
    attributes('host:desks:2', { accepting: false }),
  ],
  [
    'what a host says that is no power, taken so',
    'mend',
    { differences: [{ key: 'host:desks:2', attribute: 'power', how: 'as present' }] },
    attributes('host:desks:2', { power: 'asleep' }),
  ],
  [
    'two of which the first is nowhere',
    'mend',
    {
      differences: [
        { key: 'host:desks:9', how: 'as wanted' },
        { key: 'host:desks:2', attribute: 'accepting', how: 'as present' },
      ],
    },
    attributes('host:desks:2', { accepting: false }),
  ],
  [
    'both that a host differs in, one of which disturbs',
    'mend',
    {
      differences: [
        { key: 'host:desks:1', attribute: 'size', how: 'as wanted' },
        { key: 'host:desks:1', attribute: 'accepting', how: 'as wanted' },
      ],
    },
    withSizes(attributes('host:desks:1', { size: 's4x16', accepting: false })),
  ],
  [
    'of the second of two that differ alike',
    'mend',
    { differences: [{ key: 'host:desks:2', attribute: 'power', how: 'as present' }] },
    {
      ...standing,
      present: standing.present.map((one) =>
        one.kind === 'host' ? { ...one, attributes: { ...one.attributes, power: 'off' } } : one,
      ),
    },
  ],
  [
    'the first of two that differ alike',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'power', how: 'as wanted' }] },
    {
      ...standing,
      present: standing.present.map((one) =>
        one.kind === 'host' ? { ...one, attributes: { ...one.attributes, power: 'off' } } : one,
      ),
    },
  ],
  [
    'a host of the second pool that is off, taken so',
    'mend',
    { differences: [{ key: 'host:lab:1', attribute: 'power', how: 'as present' }] },
    {
      ...standingTwo,
      present: standingTwo.present.map((one) =>
        one.key === 'host:lab:1' ? { ...one, attributes: { ...one.attributes, power: 'off' } } : one,
      ),
    },
  ],
  [
    'a host that is on and should be off, taken so',
    'mend',
    { differences: [{ key: 'host:desks:2', attribute: 'power', how: 'as present' }] },
    {
      ...carriedOut(proposed('power-off', { hosts: [idOf('host:desks:2')] }, standing), standing),
      present: standing.present,
    },
  ],
  ...(
    [
      ['accepting', 'perhaps'],
      ['size', 7],
      ['diskGiB', 'large'],
    ] as const
  ).map(([attribute, is]): Case => [
    `a host whose ${attribute} is ${is}, taken so`,
    'mend',
    { differences: [{ key: 'host:desks:2', attribute, how: 'as present' }] },
    attributes('host:desks:2', { [attribute]: is }),
  ]),
  [
    'a host of a size that the plan has not, taken so',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'size', how: 'as present' }] },
    plan({ sizes: ['s2x8'] }, withSizes(attributes('host:desks:1', { size: 's4x16' }))),
  ],
  [
    'an image and a power, of one host',
    'mend',
    {
      differences: [
        { key: 'host:desks:1', attribute: 'power', how: 'as wanted' },
        { key: 'host:desks:1', attribute: 'image', how: 'as wanted' },
      ],
    },
    attributes('host:desks:1', { image: 'Old', power: 'off' }),
  ],
  [
    'an attribute of what is not there',
    'mend',
    { differences: [{ key: 'host:desks:2', attribute: 'power', how: 'as wanted' }] },
    there('host:desks:2'),
  ],
  [
    'a network that is not there, left so',
    'mend',
    { differences: [{ key: 'network:KQ', how: 'as present' }] },
    there('network:KQ'),
  ],
];
