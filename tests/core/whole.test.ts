import { describe, expect, it } from 'vitest';
import { CHANGES } from '../../src/core/changes';
import type { Facts } from '../../src/core/facts';
import { compare, impactLine, type Proposal } from '../../src/core/planning';
import { RESOURCE_KINDS } from '../../src/core/resources';
import { plain } from '../../src/core/money';
import { block, carriedOut, facts, input, node, poolSpec, proposed, spec } from './setup/facts';

/*
 * What each change does, told in whole, in many situations: read once by a person, kept in expected/proposals.txt, and
 * from then on held against every word and figure. Where something is meant to be otherwise, `vitest -u` writes it anew,
 * and the difference is read again.
 */

/** Of so many new environments all is told; of the others their checks, cost and hosts. */
const WHOLE = 5;

/** A proposal in lines that one can read. */
function told(proposal: Proposal, isWhole: boolean): string[] {
  const { refused, checks, tasks, steps, policy, cost, wanted, critical, room, intent } = proposal;
  const touched = new Set(tasks.map((one) => one.key));
  const pools = intent?.pools.map(({ role, size, seats, diskGiB, people, hosts }) => [
    role,
    { size, seats, diskGiB, people },
    ...hosts.map((one) => JSON.stringify(one).replace('"power":"on","accepting":true', '')),
  ]);
  const inShort = [
    `"${proposal.title}", ${proposal.kind}: ${impactLine(proposal.impact, plain)}`,
    ...(refused ? [`refused: ${JSON.stringify(refused)}`] : []),
    `policy ${JSON.stringify(policy)}`,
    ...checks.map(
      (one) =>
        `  ${one.state} ${one.key} | ${one.title}: ${one.says}${one.do === undefined ? '' : ` | ${one.do}`}`,
    ),
    ...cost.map((one) => `  costs ${one.meter} ${one.size ?? ''} × ${one.quantity}: ${plain(one.amount)}`),
  ];
  if (!isWhole)
    return [
      ...inShort,
      ...wanted
        .filter((one) => one.kind === 'host')
        .map(
          ({ name, attributes: { address, node: on, size } }) =>
            `  ${name} ${String(address)} ${String(on)} ${String(size)}`,
        ),
      `  ${steps.length} steps; room ${room}`,
    ];
  return [
    ...inShort,
    ...tasks.map(
      ({ key, name, task }) =>
        `  ${task.do} ${key} "${name}"${task.people > 0 ? `, ${task.people} in` : ''}${task.do === 'change' ? `: ${task.differences.map((one) => `${one.attribute} ${one.how}, ${one.disturbs ? 'disturbs' : 'disturbs nobody'}, ${one.says ?? ''}`).join('; ')}` : ''}`,
    ),
    ...steps.map(
      (step) =>
        `    ${step.key} ${step.seconds} s, tail ${step.tail} s${step.needs.length > 0 ? `, after ${step.needs.join(' ')}` : ''}`,
    ),
    `critical: ${critical.join(' ')}; room ${room}`,
    ...(refused || intent === null
      ? []
      : [`intent of ${JSON.stringify(intent.template)}: ${JSON.stringify(pools).replaceAll('\\"', '')}`]),
    ...wanted
      .filter((one) => touched.has(one.key))
      .map(
        (one) =>
          `  wanted ${one.key} "${one.name}" ${JSON.stringify(one.attributes)} on ${one.needs.join(' ')}`,
      ),
  ];
}

const large: Facts = {
  ...facts,
  customer: { ...facts.customer, plan: { ...facts.customer.plan, mostHosts: 200, mostPeople: 2_000 } },
};
const standing = carriedOut(proposed('provision', input, large), large, {
  'host:desks:1': 3,
  'host:desks:4': 1,
});
const idOf = (key: string): string => standing.known.find((one) => one.key === key)?.id ?? '';
const lab = {
  ...poolSpec,
  role: 'lab',
  profile: 'heavy' as const,
  mostSeats: 4,
  partOfPeople: 0.25,
  arrival: 'fill' as const,
};
const twoPools: Facts = {
  ...large,
  template: {
    code: 'two',
    revision: 3,
    spec: { ...spec, naming: '{customer}-{role}{counter:2}', pools: [poolSpec, lab] },
  },
};
const own = { ...poolSpec, role: 'own', mostSeats: 1 };
const withSizes = (from: Facts): Facts => ({
  ...from,
  rates: [
    ...from.rates,
    { meter: 'host', size: 's4x16', unit: 'hour', price: '0.128', from: 0, to: null },
    { meter: 'host', size: 's8x32', unit: 'hour', price: '0.249', from: 0, to: null },
  ],
  site: {
    ...from.site,
    sizes: [
      ...from.site.sizes,
      { key: 's4x16', vcpu: 4, memoryGiB: 16 },
      { key: 's8x32', vcpu: 8, memoryGiB: 32 },
      { key: 's16x64', vcpu: 16, memoryGiB: 64 },
    ],
  },
});
const sized = withSizes(standing);
const site = (over: Partial<Facts['site']>, from: Facts = large): Facts => ({
  ...from,
  site: { ...from.site, ...over },
});
const customer = (over: Partial<Facts['customer']>, from: Facts = large): Facts => ({
  ...from,
  customer: { ...from.customer, ...over },
});
const template = (over: Partial<typeof spec>, from: Facts = large): Facts => ({
  ...from,
  template: { code: 'other', revision: 2, spec: { ...spec, ...over } },
});
const plan = (over: Partial<Facts['customer']['plan']>, from: Facts = large): Facts =>
  customer({ plan: { ...from.customer.plan, ...over } }, from);
/** What stands, with one resource there otherwise, or not there. */
const there = (key: string, over?: Partial<Facts['present'][number]>): Facts => ({
  ...standing,
  present: standing.present.flatMap((one) => (one.key !== key ? [one] : over ? [{ ...one, ...over }] : [])),
});
const attributes = (key: string, over: object): Facts => {
  const one = standing.present.find((each) => each.key === key);
  return there(key, { attributes: { ...one?.attributes, ...over } });
};
const stray: Facts = {
  ...standing,
  present: [
    ...standing.present,
    {
      ref: 'stray',
      kind: 'host',
      name: 'SVG-STRAY',
      key: null,
      condition: 'well',
      attributes: { size: 's2x8', power: 'on' },
    },
  ],
};
const earlier: Facts = {
  ...carriedOut(proposed('add-hosts', { pool: 'desks', hosts: 2 }, standing), standing),
};
const undoing: Facts = {
  ...earlier,
  environment: earlier.environment && {
    ...earlier.environment,
    ...(standing.environment ? { earlier: standing.environment.intent } : {}),
  },
};
const drained = proposed('drain', { hosts: [idOf('host:desks:2')] }, standing);

/** Every host of the pool has something of its own beside its pool. */
function withOwn(from: Facts, over: { size?: string; diskGiB?: number }): Facts {
  const own = Object.entries(over);
  const { environment } = from;
  return {
    ...from,
    known: from.known.map((one) =>
      one.kind === 'host' ? { ...one, attributes: { ...one.attributes, ...Object.fromEntries(own) } } : one,
    ),
    present: from.present.map((one) =>
      one.kind === 'host' ? { ...one, attributes: { ...one.attributes, ...Object.fromEntries(own) } } : one,
    ),
    environment: environment && {
      ...environment,
      intent: {
        ...environment.intent,
        pools: environment.intent.pools.map((pool) => ({
          ...pool,
          hosts: pool.hosts.map((host) => ({ ...host, ...over })),
        })),
      },
    },
  };
}
const standingTwo = carriedOut(proposed('provision', input, twoPools), twoPools, { 'host:lab:1': 2 });
/** Two hosts more are wanted and known; a run is at work on them, and they are not there yet. */
const building: Facts = {
  ...earlier,
  known: earlier.known.map((one) =>
    one.key === 'host:desks:6' || one.key === 'host:desks:7' ? { ...one, unsettled: true } : one,
  ),
  present: earlier.present.filter((one) => one.key !== 'host:desks:6' && one.key !== 'host:desks:7'),
};
/** The last host is not wanted any more; a run is at work on it, and it is there still. */
const afterTaking = carriedOut(proposed('take-hosts', { pool: 'desks', hosts: 1 }, standing), standing);
const leavingOne: Facts = {
  ...afterTaking,
  known: [
    ...afterTaking.known,
    ...standing.known
      .filter((one) => one.key === 'host:desks:5')
      .map((one) => ({ ...one, wanted: false, unsettled: true })),
  ],
  present: standing.present,
};
/** A run is at work on one of the resources: it is there in one way, and was wanted in another. */
function atWorkOn(key: string, is: object, was: object): Facts {
  const from = attributes(key, is);
  return {
    ...from,
    known: from.known.map((one) =>
      one.key === key ? { ...one, unsettled: true, attributes: { ...one.attributes, ...was } } : one,
    ),
  };
}

type Case = readonly [name: string, kind: string, raw: unknown, from: Facts, policy?: object];

const CASES: readonly Case[] = [
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
  ['too many for the plan', 'provision', input, plan({ mostHosts: 3 })],
  ['as many as the plan has', 'provision', input, plan({ mostHosts: 5 })],
  ['too many people for the plan', 'provision', { ...input, people: 20 }, plan({ mostPeople: 19 })],
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
    customer({ block: block('10.16.0.0/28'), subnets: [block('10.16.0.0/29'), block('10.16.0.8/29')] }),
  ],
  [
    'a block with others in it',
    'provision',
    input,
    customer({ subnets: [block('10.16.0.0/24'), block('10.16.1.0/26')] }),
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

  ['two more', 'add-hosts', { pool: 'desks', hosts: 2 }, standing],
  ['more than the pool’s ceiling', 'add-hosts', { pool: 'desks', hosts: 6 }, standing],
  ['as many as the ceiling', 'add-hosts', { pool: 'desks', hosts: 5 }, standing],
  ['to a pool that is not there', 'add-hosts', { pool: 'lab', hosts: 1 }, standing],
  ['none', 'add-hosts', { pool: 'desks', hosts: 0 }, standing],
  ['to nothing', 'add-hosts', { pool: 'desks', hosts: 1 }, large],
  ['more than the plan', 'add-hosts', { pool: 'desks', hosts: 3 }, plan({ mostHosts: 7 }, standing)],

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

  ['back to how it was', 'undo', { version: 1 }, undoing],
  ['back to what was not', 'undo', { version: 9 }, standing],
  ['all of it', 'retire', {}, standing],
  [
    'all of it, with others in the network',
    'retire',
    {},
    { ...standing, environment: standing.environment && { ...standing.environment, shares: true } },
  ],
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
  ['a size by hand', 'provision', { ...input, pools: [{ role: 'desks', size: 's8x32' }] }, withSizes(large)],
  ['a template that is not known', 'provision', input, { ...large, template: undefined }],
  [
    'to a size that carries nobody',
    'resize',
    { pool: 'desks', size: 's1x1' },
    site({ sizes: [...sized.site.sizes, { key: 's1x1', vcpu: 0, memoryGiB: 1 }] }, sized),
  ],
  ['what is nowhere', 'mend', { differences: [{ key: 'host:desks:1', how: 'as wanted' }] }, large],
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
  ['with a word and no minutes', 'resize', { pool: 'desks', size: 's4x16' }, sized, { message: 'Soon.' }],
  ['without a word', 'resize', { pool: 'desks', size: 's4x16' }, sized, { message: '' }],
  ['drained first, by wish', 'grow-disk', { pool: 'desks', diskGiB: 256 }, standing, { drainMinutes: 7 }],
  ['drained first, told so', 'grow-disk', { pool: 'desks', diskGiB: 256 }, standing, { message: 'Soon.' }],
  ['without waves', 'resize', { pool: 'desks', size: 's4x16' }, sized, { waves: 0 }],
  [
    'more people than a smaller plan has, though not more than before',
    'add-hosts',
    { pool: 'desks', hosts: 1 },
    plan({ mostPeople: 5 }, standing),
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
    plan({ mostHosts: 2 }, standing),
  ],
  ['as many people as the plan has', 'provision', input, plan({ mostPeople: 12 })],
  [
    'a host of a size that the plan has not, taken so',
    'mend',
    { differences: [{ key: 'host:desks:1', attribute: 'size', how: 'as present' }] },
    plan({ sizes: ['s2x8'] }, withSizes(attributes('host:desks:1', { size: 's4x16' }))),
  ],
  ['one more, while another is not there', 'add-hosts', { pool: 'desks', hosts: 1 }, there('host:desks:2')],
  [
    'off what is being built by itself',
    'power-off',
    { hosts: [idOf('host:desks:2')] },
    there('host:desks:2', { condition: 'building' }),
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

describe('each change, in whole', () => {
  it('does in each situation what was read and found right', async () => {
    const text = CASES.map(([name, kind, raw, from, policy], n) =>
      [
        `## ${kind}: ${name}`,
        ...told(proposed(kind, raw, from, policy), kind !== 'provision' || n < WHOLE),
      ].join('\n'),
    ).join('\n\n');
    await expect(`${text}\n`).toMatchFileSnapshot('./expected/proposals.txt');
  });

  it('has been looked at for every one of the list', () =>
    expect(new Set(CASES.map(([, kind]) => kind))).toEqual(new Set(CHANGES.map((one) => one.kind))));
});

describe('what differs, in whole', () => {
  it('is told as it was read and found right', async () => {
    const situations: readonly (readonly [string, Facts])[] = [
      ['nothing', standing],
      ['a host that is gone', there('host:desks:2')],
      ['a host that is unwell', there('host:desks:1', { condition: 'unwell' })],
      ['a host that is being built', there('host:desks:1', { condition: 'building' })],
      [
        'a host that is being built, and is not as it will be',
        there('host:desks:1', { condition: 'building', attributes: { power: 'off', size: 's9' } }),
      ],
      [
        'a host otherwise in everything',
        attributes('host:desks:1', {
          size: 's9',
          image: 'Old',
          diskGiB: 64,
          power: 'off',
          accepting: false,
          node: 'zz',
          address: '10.0.0.1',
        }),
      ],
      ['a host that tells less', there('host:desks:1', { attributes: {} })],
      ['a larger disk', attributes('host:desks:1', { diskGiB: 512 })],
      [
        'a share, a pool, a publication',
        {
          ...standing,
          present: standing.present.map((one) =>
            one.kind === 'share'
              ? { ...one, attributes: { gib: 1 } }
              : one.kind === 'pool'
                ? { ...one, attributes: { seats: 99, arrival: 'fill' } }
                : one.kind === 'publication'
                  ? { ...one, attributes: { items: [], licences: 1 } }
                  : one,
          ),
        },
      ],
      [
        'a network and a subnet elsewhere',
        {
          ...standing,
          present: standing.present.map((one) =>
            one.kind === 'network' || one.kind === 'subnet'
              ? { ...one, attributes: { cidr: '10.99.0.0/16' } }
              : one,
          ),
        },
      ],
      ['a stray', stray],
      [
        'one that a run is at work on',
        {
          ...there('host:desks:2'),
          known: standing.known.map((one) =>
            one.key === 'host:desks:2' ? { ...one, unsettled: true } : one,
          ),
        },
      ],
      ['a publication of several items less', attributes('publication:desks', { items: ['One', 'Two'] })],
      ['a node that is told as none', attributes('share:desks', { site: null })],
      ['one that goes, and a run is at work on it', leavingOne],
      [
        'one that should have gone',
        {
          ...leavingOne,
          known: leavingOne.known.map((one) => (one.wanted ? one : { ...one, unsettled: false })),
        },
      ],
      [
        'one that is there twice',
        {
          ...standing,
          present: standing.present.flatMap((one) =>
            one.key === 'host:desks:1' ? [one, { ...one, ref: 'its double' }] : [one],
          ),
        },
      ],
    ];
    const text = situations
      .map(([name, from]) =>
        [`## ${name}`, ...compare(RESOURCE_KINDS, from).map((one) => JSON.stringify(one))].join('\n'),
      )
      .join('\n\n');
    await expect(`${text}\n`).toMatchFileSnapshot('./expected/differences.txt');
  });
});
