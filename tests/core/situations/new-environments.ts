import { block, input, node } from '../setup/facts';
import { large, twoPools, own, withSizes, site, customer, template, most, plan, type Case } from './standing';

/** What may be asked of a new environment. */
export const NEW_ENVIRONMENTS: readonly Case[] = [
  ['a first environment', 'provision', input, large],
  ['two pools', 'provision', input, twoPools],
  [
    'two pools, one of another profile, one of a size by hand',
    'provision',
    {
      ...input,
      pools: [
        { role: 'lab', profile: 'light' },
        { role: 'desks', size: 's8x32' },
      ],
    },
    withSizes(twoPools),
  ],
  [
    'a size that no one has',
    'provision',
    { ...input, pools: [{ role: 'desks', size: 's9x9' }] },
    withSizes(large),
  ],
  ['a desktop each', 'provision', { ...input, people: 3 }, template({ pools: [own] })],
  [
    'a choice for a pool that is not there',
    'provision',
    { ...input, pools: [{ role: 'nowhere', profile: 'light' }] },
    large,
  ],
  ['nobody', 'provision', { ...input, people: 0 }, large],
  ['no name yet', 'provision', { ...input, environment: '' }, large],
  ['a name that cannot be', 'provision', { ...input, environment: 'Bad Name' }, large],
  ['a name that is there', 'provision', { ...input, environment: 'clinic' }, large],
  ['a name of one letter', 'provision', { ...input, environment: 'a', people: 1 }, large],
  ['too many for the plan', 'provision', input, most({ hosts: 3 })],
  ['as many as the plan has', 'provision', input, most({ hosts: 5 })],
  ['too many people for the plan', 'provision', { ...input, people: 20 }, most({ people: 19 })],
  [
    'a size that the plan has not',
    'provision',
    { ...input, pools: [{ role: 'desks', size: 's8x32' }] },
    plan({ sizes: ['s2x8'] }, withSizes(large)),
  ],
  ['no size that the plan has', 'provision', input, plan({ sizes: ['s16x64'], name: 'Skiff' })],
  [
    'a size without a price',
    'provision',
    input,
    { ...large, rates: large.rates.filter((one) => one.meter !== 'host') },
  ],
  [
    'a share without a price',
    'provision',
    input,
    { ...large, rates: large.rates.filter((one) => one.meter !== 'share') },
  ],
  ['more people than known', 'provision', { ...input, people: 14 }, customer({ people: 13 })],
  ['nobody known', 'provision', input, customer({ people: 0 })],
  ['a customer who leaves', 'provision', input, customer({ state: 'leaving' })],
  ['a customer who has gone', 'provision', input, customer({ state: 'retired' })],
  ['a customer who pauses', 'provision', input, customer({ state: 'paused' })],
  ['no block', 'provision', input, customer({ block: undefined })],
  [
    'a block that is full',
    'provision',
    input,
    customer({
      block: block('10.16.0.0/28'),
      taken: { name: ['SVG-OFFICE02'], subnet: ['10.16.0.0/29', '10.16.0.8/29'] },
    }),
  ],
  [
    'a block with others in it',
    'provision',
    input,
    customer({ taken: { name: ['SVG-OFFICE02'], subnet: ['10.16.0.0/24', '10.16.1.0/26'] } }),
  ],
  ['an image that is not there', 'provision', input, site({ images: [{ name: 'Another', diskGiB: 10 }] })],
  [
    'an image too large for the disk',
    'provision',
    input,
    site({ images: [{ name: 'Ostrel 12 multi-user', diskGiB: 129 }] }),
  ],
  [
    'an image that just fits the disk',
    'provision',
    input,
    site({ images: [{ name: 'Ostrel 12 multi-user', diskGiB: 128 }] }),
  ],
  ['no node with room', 'provision', input, site({ nodes: [{ ...node('a1', 'a'), memoryGiB: 20 }] })],
  [
    'nodes with room for some',
    'provision',
    input,
    site({
      nodes: [
        { ...node('a1', 'a'), memoryGiB: 16 },
        { ...node('b1', 'b'), vcpu: 3 },
      ],
    }),
  ],
  [
    'a node of one’s own that is down',
    'provision',
    input,
    site({ nodes: [node('a1', 'a'), { ...node('b1', 'b'), dedicatedTo: 'SVG', isDown: true }] }),
  ],
  [
    'a quota with room',
    'provision',
    input,
    site({ kind: 'hosted region', nodes: [], quota: { vcpu: 20, vcpuUsed: 10 } }),
  ],
  [
    'a quota that is short by one',
    'provision',
    input,
    site({ kind: 'hosted region', nodes: [], quota: { vcpu: 20, vcpuUsed: 11 } }),
  ],
  [
    'credentials that do not work',
    'provision',
    input,
    site({ signIn: { worked: false, says: 'account or secret is wrong' } }),
  ],
  [
    'a directory that is silent',
    'provision',
    input,
    site({ directory: { worked: false, says: 'does not answer' } }),
  ],
  [
    'a rule that runs out',
    'provision',
    { ...input, people: 30 },
    template({ naming: '{customer}-{counter:1}' }),
  ],
  [
    'a rule that will run out',
    'provision',
    { ...input, people: 16 },
    template({ naming: '{customer}-{counter:1}' }),
  ],
  [
    'a rule that makes long names',
    'provision',
    input,
    template({ naming: '{customer}-{environment}-{environment}{counter:2}' }),
  ],
  ['a rule that is none', 'provision', input, template({ naming: 'no counter' })],
  ['by another policy', 'provision', input, large, { atATime: 2, failureLimit: 1 }],
  ['in waves', 'provision', input, large, { waves: 2 }],
  ['what is not an input', 'provision', { site: 'KQ' }, large],
  ['a size by hand', 'provision', { ...input, pools: [{ role: 'desks', size: 's8x32' }] }, withSizes(large)],
  ['a template that is not known', 'provision', input, { ...large, template: undefined }],
  [
    'a size by hand that would do for one',
    'provision',
    { ...input, people: 1, pools: [{ role: 'desks', size: 's2x8' }] },
    withSizes(large),
  ],
  [
    'several sizes without a price',
    'provision',
    input,
    (() => {
      const from = withSizes(large);
      return { ...from, rates: from.rates.filter((one) => one.meter !== 'host') };
    })(),
  ],
  ['a name that ends wrongly', 'provision', { ...input, environment: 'office!' }, large],
  ['a name of twenty-five letters', 'provision', { ...input, environment: 'o'.repeat(25) }, large],
  ['as many people as are known', 'provision', input, customer({ people: 12 })],
  [
    'one size that carries nobody, and one without a price',
    'provision',
    input,
    site({
      sizes: [
        { key: 's2x8', vcpu: 0, memoryGiB: 1 },
        { key: 's4x16', vcpu: 4, memoryGiB: 16 },
      ],
    }),
  ],
  ['as many people as the plan has', 'provision', input, most({ people: 12 })],
  [
    'a desktop each, of a size by hand',
    'provision',
    { ...input, people: 3, pools: [{ role: 'own', size: 's4x16' }] },
    withSizes(template({ pools: [own] })),
  ],
  [
    'a size by hand that costs as much',
    'provision',
    { ...input, people: 3, pools: [{ role: 'own', size: 's3x8' }] },
    {
      ...template({ pools: [own] }),
      site: { ...large.site, sizes: [...large.site.sizes, { key: 's3x8', vcpu: 3, memoryGiB: 8 }] },
      rates: [
        ...large.rates,
        { meter: 'host', size: 's3x8', unit: 'hour', price: '0.066', from: 0, to: null },
      ],
    },
  ],
  ['one person, and no size', 'provision', { ...input, people: 1 }, site({ sizes: [] })],
  [
    'a size by hand where the plan has none',
    'provision',
    { ...input, pools: [{ role: 'desks', size: 's2x8' }] },
    plan({ sizes: ['s0'] }),
  ],
  [
    'a size by hand, dearer and equally good',
    'provision',
    { ...input, people: 1, pools: [{ role: 'desks', size: 's4x16' }] },
    withSizes(large),
  ],
  [
    'a size by hand without a price',
    'provision',
    { ...input, pools: [{ role: 'desks', size: 's16x64' }] },
    withSizes(large),
  ],
];
