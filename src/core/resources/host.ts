import Joi from 'joi';
import type { ReadyHost } from '../facts';
import {
  freeSlots,
  isShelf,
  patchHost,
  withPool,
  type Attributes,
  type HostIntent,
  type Intent,
  type PoolIntent,
} from '../intent';
import type { HostNeed } from '../placement';
import type { MachineSize } from '../machines';
import { wayOut } from './peering';
import { onlyOne, roomOf, SPACES } from './claim';
import { diskKey } from './personal-disk';
import { poolKey } from './pool';
import { shareKey } from './share';
import {
  differing,
  type Ask,
  type Desk,
  type Difference,
  type Policy,
  type ResourceKind,
  type StepSpec,
  type Wanted,
} from './kind';

export type Host = {
  readonly site: string;
  readonly pool: string;
  readonly size: string;
  readonly image: string;
  readonly diskGiB: number;
  readonly address: string;
  readonly node: string | null;
  readonly power: 'on' | 'off';
  readonly accepting: boolean;
  /** The directory that it is joined to; empty: none, it waits on the ready shelf. */
  readonly realm: string;
  /** What it is made of, by the provider's name for it; left out: of its image. */
  readonly from?: string;
  /** Where everyone has a host of their own: whose it is, by account; empty: nobody's yet. */
  readonly person?: string;
  /** Our id of that person; empty: nobody's yet. */
  readonly personId?: string;
  /** Whether it is kept for somebody who left: then nobody signs in there. */
  readonly kept?: true;
  /** The key of the person's disk that it has. */
  readonly ownDisk?: string;
  /** Whether a picture of its disk is kept; left out: none is. */
  readonly picture?: true;
};

export const hostKey = (role: string, slot: number): string => `host:${role}:${slot}`;

export const isHost = ({ kind }: { readonly kind: string }): boolean => kind === host.key;

/** Whether it is a host of a pool. */
export const isHostOf = (
  one: { readonly kind: string; readonly attributes: Attributes },
  role: string,
): boolean => isHost(one) && one.attributes.pool === poolKey(role);

/** A machine that carries sessions. */
export const host: ResourceKind<Host> = {
  key: 'host',
  words: { one: 'host', many: 'hosts' },
  attributes: Joi.object<Host, true>({
    site: Joi.string().required(),
    pool: Joi.string().required(),
    size: Joi.string().required(),
    image: Joi.string().required(),
    diskGiB: Joi.number().integer().min(1).required(),
    address: Joi.string().required(),
    node: Joi.string().allow(null).required(),
    power: Joi.string().valid('on', 'off').required(),
    accepting: Joi.boolean().required(),
    realm: Joi.string().allow('').required(),
    from: Joi.string(),
    person: Joi.string().allow(''),
    personId: Joi.string().allow(''),
    kept: Joi.boolean().valid(true),
    ownDisk: Joi.string(),
    picture: Joi.boolean().valid(true),
  }),
  carriesSessions: true,
  // What is on a disk of their own is that disk's.
  holdsData: ({ person = '', ownDisk }) =>
    person !== '' && ownDisk === undefined ? [`what ${person} keeps on their host`] : [],
  wanted: (intent, { realm, services }) =>
    intent.pools.flatMap((pool) =>
      pool.hosts.map((one) => ({
        key: hostKey(pool.role, one.slot),
        kind: 'host',
        name: '',
        attributes: {
          site: intent.site,
          pool: poolKey(pool.role),
          size: one.size ?? pool.size,
          image: pool.image,
          diskGiB: one.diskGiB ?? pool.diskGiB,
          address: '',
          node: null,
          // What is kept for somebody who left is off. All else is on and takes people, unless something overrides it.
          power: one.leftAt === undefined ? 'on' : 'off',
          accepting: true,
          realm: isShelf(intent) ? '' : realm,
          ...ownOf(pool, one),
        },
        // Joining a directory takes a way to it.
        needs: [
          `subnet:${pool.role}`,
          poolKey(pool.role),
          // Profiles are written to until the last session ends.
          ...(isShelf(intent) ? [] : [shareKey(pool.role)]),
          ...(pool.ownDiskGiB > 0 ? [diskKey(pool.role, one.slot, one.disk)] : []),
          ...(services ? [wayOut(intent.site)] : []),
        ],
      })),
    ),
  allocate: allocateHosts,
  differences: (wanted, present, condition) =>
    condition === 'unwell' ? UNWELL : differences(wanted, present),
  steps: (task, policy) => {
    switch (task.do) {
      case 'make':
        return making(task.wanted.attributes);
      case 'remove':
        return [...emptying(policy, task.people), ...LEAVING];
      case 'replace':
        // Made anew it is made of its image, whatever it came of.
        return [...emptying(policy, task.people), ...LEAVING, ...withoutFrom(task.wanted.attributes)];
      case 'change':
        return changing(task.differences, task.wanted, policy, task.people);
    }
  },
  // A picture takes as much room as the disk that it is of.
  meters: ({ size, power, diskGiB, picture = false }) =>
    size === undefined || power === undefined
      ? []
      : [
          { meter: 'host', state: power, size, quantity: 1 },
          { meter: 'disk', state: 'on', size: null, quantity: (diskGiB ?? 0) * (picture ? 2 : 1) },
        ],
  asked: (ask) => ({ attribute: ask, wanted: true, present: false, disturbs: true, ...ASKS[ask] }),
  claims: ({ name, attributes }, { realm, site, sizes }) => [
    ...onlyOne(SPACES.name, realm, name.toUpperCase()),
    ...onlyOne(SPACES.address, '', attributes.address),
    ...onlyOne(SPACES.ready, site, attributes.from),
    { ...roomOf(attributes, sizes), ...(attributes.from === undefined ? {} : { stands: true }) },
  ],
  take: (intent, key, difference) => {
    const [, role = '', slot = ''] = key.split(':');
    const one = intent.pools
      .find((pool) => pool.role === role)
      ?.hosts.find((host) => host.slot === Number(slot));
    const now = one && taken(one, difference);
    return (
      now &&
      withPool(intent, role, ({ hosts, ...pool }) => ({
        ...pool,
        hosts: hosts.flatMap((host) => (host === one ? now : [host])),
      }))
    );
  },
};

/** What of a host is its person's, in a pool where everyone has one of their own. */
const ownOf = (pool: PoolIntent, { slot, person, personId, leftAt, disk }: HostIntent): Partial<Host> =>
  pool.mostSeats === 1 && pool.people > 0
    ? {
        person: person ?? '',
        personId: personId ?? '',
        ...(leftAt === undefined ? {} : { kept: true as const }),
        ...(pool.ownDiskGiB > 0 ? { ownDisk: diskKey(pool.role, slot, disk) } : {}),
      }
    : {};

const UNWELL: Difference[] = [
  {
    attribute: 'condition',
    wanted: 'well',
    present: 'unwell',
    how: 'by replacement',
    disturbs: true,
    says: 'does not answer',
  },
];

function differences(wanted: Host, present: Partial<Host>): Difference[] {
  const powerSays = `is ${present.power ?? ''}, wanted ${wanted.power}`;
  const drainSays = wanted.accepting ? 'takes nobody, wanted open' : 'takes people, wanted drained';
  return [
    ...differing(wanted, present, 'image', 'by replacement', true),
    ...pictureDifference(wanted, present),
    ...differing(wanted, present, 'size', 'in place', true),
    ...diskDifference(wanted, present),
    ...differing(wanted, present, 'power', 'in place', wanted.power === 'off', powerSays),
    ...differing(wanted, present, 'accepting', 'in place', false, drainSays),
    ...differing(wanted, present, 'ownDisk', 'in place', true, 'has another disk than wanted'),
    ...personDifference(wanted, present),
  ];
}

/** A picture that is to be taken, or that is kept no more. */
function pictureDifference(host: Host, present: Partial<Host>): Difference[] {
  // A provider that counts its pictures has one where it counts any.
  const [wanted, is] = [host.picture === true, Boolean(present.picture)];
  if (wanted === is) return [];
  const says = wanted ? 'a picture of it is to be taken' : 'its picture is kept no more';
  return [{ attribute: 'picture', wanted, present: is, how: 'in place', disturbs: false, says }];
}

/** What a host can be asked for that is no state of it: each is done once, by the run that it was asked of. */
const ASKS: Readonly<Record<Ask, Pick<Difference, 'how' | 'says'>>> = {
  restart: { how: 'in place', says: 'asked to restart' },
  'go back': { how: 'in place', says: 'asked to go back to its picture' },
  rebuild: { how: 'by replacement', says: 'asked to be made anew' },
};

/** Whoever has it still signs out before it is another's. */
function personDifference(wanted: Host, present: Partial<Host>): Difference[] {
  const who = (person: string | undefined): string => (person ? `of ${person}` : 'nobody’s');
  const says = `is ${who(present.person)}, wanted ${who(wanted.person)}`;
  return differing(wanted, present, 'person', 'in place', (present.person ?? '') !== '', says);
}

/** A disk that is larger than wanted cannot be made smaller: then only a new host is as wanted. */
function diskDifference(wanted: Host, present: Partial<Host>): Difference[] {
  const larger = present.diskGiB !== undefined && present.diskGiB > wanted.diskGiB;
  const says = `disk is ${present.diskGiB ?? 0} GiB, wanted ${wanted.diskGiB} GiB`;
  return differing(wanted, present, 'diskGiB', larger ? 'by replacement' : 'in place', larger, says);
}

/** The host's intent as it is there: none where it is missing. Undefined: what is there cannot be wanted. */
function taken(one: HostIntent, difference: Difference | 'missing'): HostIntent[] | undefined {
  // What is somebody's is ended, with a word on its data; it does not go because it is missing.
  if (difference === 'missing') return one.person === undefined ? [] : undefined;
  const { attribute, present } = difference;
  if (attribute === 'size' && typeof present === 'string') return [patchHost(one, { size: present })];
  if (attribute === 'diskGiB' && typeof present === 'number') return [patchHost(one, { diskGiB: present })];
  return undefined;
}

/*
 * Expected seconds. Common practice, no source: chosen so that an environment of a few hosts on existing ground takes
 * about 15 to 30 minutes, and a host about 14; what is no machine takes seconds.
 */

const MAKING: readonly StepSpec[] = [
  { action: 'make', seconds: 540 },
  { action: 'agent', seconds: 180 },
  { action: 'join', seconds: 90 },
  { action: 'register', seconds: 10 },
  { action: 'check', seconds: 10 },
];

/** On the ready shelf no directory is joined. */
const withoutFrom = (host: Host): StepSpec[] => [
  ...MAKING.filter((one) => host.realm !== '' || one.action !== 'join'),
  ...pictureOf(host),
];

/** Made in maintenance that wants a picture of it, it has one from its beginning. */
const pictureOf = ({ picture }: Host): StepSpec[] => (picture === true ? [PICTURE] : []);

const PICTURE: StepSpec = { action: 'picture', seconds: 60 };

/** What was ready before is in a minute; a server made by hand is first brought up to what is wanted. */
function making(host: Host): StepSpec[] {
  if (host.from === undefined) return withoutFrom(host);
  return [...(host.realm === '' ? BRINGING_UP : TAKING), ...pictureOf(host)];
}

const TAKING: readonly StepSpec[] = [
  { action: 'make', seconds: 12 },
  { action: 'agent', seconds: 1 },
  { action: 'join', seconds: 12 },
  { action: 'register', seconds: 3 },
  { action: 'check', seconds: 3 },
];

const BRINGING_UP: readonly StepSpec[] = [
  { action: 'make', seconds: 12 },
  { action: 'look', seconds: 5 },
  { action: 'agent', seconds: 150 },
  { action: 'bring-up', seconds: 600 },
  { action: 'restart', seconds: 90 },
  { action: 'register', seconds: 10 },
  { action: 'check', seconds: 10 },
];

const LEAVING: readonly StepSpec[] = [
  { action: 'unregister', seconds: 10 },
  { action: 'leave', seconds: 30 },
  { action: 'remove', seconds: 120 },
];

/** Takes nobody new, tells those who are in, and waits for them as long as the policy says. */
function emptying(policy: Policy, people: number): StepSpec[] {
  const minutes = policy.drain?.minutes ?? 0;
  return [
    { action: 'drain', seconds: 5 },
    ...(policy.drain && policy.drain.message !== '' ? [{ action: 'warn', seconds: 5 }] : []),
    { action: 'sign-out', seconds: people > 0 ? 10 + 60 * minutes : 10 },
  ];
}

function changing(
  found: readonly Difference[],
  wanted: Wanted<Host>,
  policy: Policy,
  people: number,
): StepSpec[] {
  const has = (attribute: string): boolean => found.some((one) => one.attribute === attribute);
  const drains = policy.drain !== undefined && found.some((one) => one.disturbs);
  return [
    ...(drains ? emptying(policy, people) : []),
    // Before anything else is done to it, and once nobody is on it.
    ...(has('picture') && wanted.attributes.picture === true ? [PICTURE] : []),
    ...(has('go back') ? [{ action: 'go-back', seconds: 90 }] : []),
    ...(has('size') ? [{ action: 'resize', seconds: 240 }] : []),
    ...(has('diskGiB')
      ? [
          { action: 'grow-disk', seconds: 60 },
          { action: 'grow-file-system', seconds: 30 },
          { action: 'measure', seconds: 10 },
        ]
      : []),
    ...(has('restart')
      ? [
          { action: 'restart', seconds: 90 },
          { action: 'check', seconds: 10 },
        ]
      : []),
    ...(has('power') ? [{ action: 'power', seconds: wanted.attributes.power === 'on' ? 120 : 60 }] : []),
    ...(has('picture') && wanted.attributes.picture !== true
      ? [{ action: 'drop-picture', seconds: 10 }]
      : []),
    ...(has('ownDisk') ? [{ action: 'attach', seconds: 20 }] : []),
    ...(has('person') ? [{ action: 'assign', seconds: 5 }] : []),
    ...(has('accepting') || drains ? [{ action: 'accept', seconds: 5 }] : []),
  ];
}

type Amounts = Pick<HostNeed, 'vcpu' | 'memoryGiB' | 'diskGiB'>;

function amounts(
  size: string | undefined,
  diskGiB: number | undefined,
  sizes: readonly MachineSize[],
): Amounts {
  const found = sizes.find((one) => one.key === size);
  return { vcpu: found?.vcpu ?? 0, memoryGiB: found?.memoryGiB ?? 0, diskGiB: diskGiB ?? 0 };
}

/** What was given to a host once: it keeps it. */
interface Given {
  readonly name: string;
  readonly address: string;
  readonly node: string | null;
  readonly from: string | undefined;
}

function allocateHosts(wanted: readonly Wanted<Host>[], intent: Intent, desk: Desk): Wanted<Host>[] {
  return intent.pools.flatMap((pool) => {
    const own = wanted.filter((one) => one.attributes.pool === poolKey(pool.role));
    const fresh = giveToNew(
      own.filter((one) => !desk.known(one.key)),
      pool,
      intent,
      desk,
    );
    return own.map((one) => {
      const { name, address, node, from } = fresh.get(one.key) ?? kept(one, pool, desk);
      const attributes = { ...one.attributes, address, node };
      return { ...one, name, attributes: from === undefined ? attributes : { ...attributes, from } };
    });
  });
}

function giveToNew(
  fresh: readonly Wanted<Host>[],
  pool: PoolIntent,
  intent: Intent,
  desk: Desk,
): Map<string, Given> {
  const names = desk.names(intent.naming, pool.role, fresh.length);
  const subnet = String(desk.of(`subnet:${pool.role}`)?.attributes.cidr ?? '');
  const addresses = desk.addresses(subnet, fresh.length);
  const origins = fresh.map((one) => originOf(pool, one, desk));
  // What stands already stays on its node; the others are placed together.
  const built = fresh.flatMap((one, index) =>
    origins[index] ? [] : [{ key: one.key, need: needOf(one, names[index] ?? '', pool, desk) }],
  );
  const nodes = desk.nodes(built.map(({ need }) => need));
  const nodeOf = new Map(built.map(({ key }, index) => [key, nodes[index] ?? null]));
  return new Map(
    fresh.map((one, index) => [
      one.key,
      {
        name: names[index] ?? '',
        address: addresses[index] ?? '',
        node: origins[index]?.node ?? nodeOf.get(one.key) ?? null,
        from: origins[index]?.ref,
      },
    ]),
  );
}

/** What a new host is made of, where it is not of its image: one from the ready shelf, or a server made by hand. */
function originOf(pool: PoolIntent, one: Wanted<Host>, desk: Desk): ReadyHost | undefined {
  const intent = pool.hosts.find(({ slot }) => hostKey(pool.role, slot) === one.key);
  if (intent?.from !== undefined) return desk.stray(intent.from);
  return intent?.ready === true ? desk.ready(one.attributes) : undefined;
}

const needOf = (one: Wanted<Host>, name: string, pool: PoolIntent, desk: Desk): HostNeed => ({
  id: name,
  customer: desk.customer,
  pool: `${desk.customer}/${pool.role}`,
  ...amounts(one.attributes.size, one.attributes.diskGiB, desk.sizes),
});

/** A host that comes to need more stays on its node as long as that has room. */
function kept(one: Wanted<Host>, home: PoolIntent, desk: Desk): Given {
  const before = desk.known(one.key);
  const { address, node: at, size, diskGiB, from } = before?.attributes ?? {};
  const node = typeof at === 'string' ? at : null;
  const name = before?.name ?? '';
  const had = amounts(String(size), Number(diskGiB), desk.sizes);
  const needs = needOf(one, name, home, desk);
  const same = had.vcpu === needs.vcpu && had.memoryGiB === needs.memoryGiB && had.diskGiB === needs.diskGiB;
  return {
    name,
    address: String(address ?? ''),
    node: same ? node : desk.moved({ ...needs, ...had, node }, needs),
    from: typeof from === 'string' ? from : undefined,
  };
}

/** A pool with so many hosts more, each in a free slot; the first `ready` of them from the ready shelf. */
/**
 * A pool with so many more hosts, in its free slots. Where each has a disk of its person's own, those are numbered on from
 * the last that there ever was: a disk that was put aside keeps its key.
 * @param ready so many of them from the ready shelf
 * @param lastDisk the highest number that a disk of the pool ever had; 0: there was none
 */
export const moreHosts = (pool: PoolIntent, count: number, ready = 0, lastDisk = 0): PoolIntent => ({
  ...pool,
  hosts: [
    ...pool.hosts,
    ...freeSlots(pool, count).map((slot, index): HostIntent => ({
      slot,
      ...(index < ready ? { ready: true } : {}),
      ...(pool.ownDiskGiB > 0 && lastDisk > 0 ? { disk: lastDisk + 1 } : {}),
    })),
  ].sort((a, b) => a.slot - b.slot),
});
