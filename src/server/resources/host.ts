import type { Attribute, Attributes } from '../../core/intent';
import type { PresentResource } from '../providers';
import {
  act,
  done,
  failed,
  make,
  once,
  presentNow,
  presentOf,
  readPlainly,
  refOf,
  remove,
  set,
  wait,
  type NowOf,
  type Outcome,
  type ResourceWork,
} from './work';

const MINUTE = 60_000;

const wanted = ({ resource }: NowOf, name: string): Attribute => resource.attributes[name] ?? null;
const realmOf = (now: NowOf): string => String(wanted(now, 'realm'));

/** Warns those who are in, once for the step. */
async function warn(now: NowOf): Promise<Outcome> {
  const present = await presentOf(now);
  if (!present) return done('is not there');
  const sessions = await now.provider.sessions(present.ref);
  if (sessions.length === 0) return done('nobody is in');
  await now.provider.message(present.ref, now.step.id, now.policy.drain?.message ?? '');
  return done(`${sessions.length} ${sessions.length === 1 ? 'person was' : 'people were'} warned`);
}

/** Waits until nobody is in, as long as was promised; then sessions are closed. */
async function signOut(now: NowOf): Promise<Outcome> {
  const present = await presentOf(now);
  if (!present) return done('is not there');
  const sessions = await now.provider.sessions(present.ref);
  if (sessions.length === 0) return done('nobody is in');
  const minutes = now.policy.drain?.minutes ?? 0;
  const until = now.step.memo === '' ? now.clock.now() + minutes * MINUTE : Number(now.step.memo);
  const say = `${sessions.length} ${sessions.length === 1 ? 'person is' : 'people are'} still in`;
  if (now.clock.now() < until) return { kind: 'wait', says: say, memo: String(until) };
  await now.provider.endSessions(present.ref);
  return done(`${sessions.length} ${sessions.length === 1 ? 'session was' : 'sessions were'} closed`);
}

async function drain(now: NowOf): Promise<Outcome> {
  const present = await presentOf(now);
  if (!present) return done('is not there');
  if (present.attributes.accepting !== false)
    await now.provider.change(present.ref, present.version, { accepting: false });
  return done('takes nobody new');
}

async function unregister(now: NowOf): Promise<Outcome> {
  const present = await presentOf(now);
  if (!present) return done('is not there');
  if ((present.attributes.pool ?? null) !== null)
    await now.provider.change(present.ref, present.version, { pool: null });
  return done('out of its pool');
}

/** Looks whether it is well, and then switches it as it is wanted by now. */
async function check(now: NowOf): Promise<Outcome> {
  const { step, provider } = now;
  if (step.operation !== null) {
    const operation = await provider.operation(step.operation);
    if (operation.state === 'working') return { kind: 'wait', says: '', operation: operation.id };
    return operation.state === 'failed'
      ? { kind: 'failed', says: operation.says, anew: 'step' }
      : { kind: 'again', says: '', anew: 'step' };
  }
  const present = await presentNow(now);
  if (present.busyWith !== null) return wait('something is at work on it');
  const { agent, joined, pool, accepting } = present.attributes;
  const faults = [
    ...(present.state === 'on' || present.state === 'off' ? [] : [`is ${present.state}`]),
    ...(agent === 'ready' ? [] : ['its agent does not answer']),
    ...((joined ?? '') === realmOf(now) ? [] : ['is not joined']),
    ...(pool === (await refOf(now, String(wanted(now, 'pool')))) ? [] : ['is not in its pool']),
  ];
  if (faults.length > 0) return failed(`not well: ${faults.join(', ')}`);
  if (accepting !== wanted(now, 'accepting')) {
    await provider.change(present.ref, present.version, { accepting: wanted(now, 'accepting') });
    return { kind: 'again', says: '' };
  }
  if (present.state !== wanted(now, 'power')) return power(now);
  return done('answers, joined and registered');
}

const power = act(
  (now) => (wanted(now, 'power') === 'on' ? 'power-on' : 'power-off'),
  () => ({}),
  (present, now) => (present.state === wanted(now, 'power') ? `is ${present.state}` : undefined),
);

/** What of it is its person's: their disk is attached as it is made. */
async function ownOf(now: NowOf): Promise<Attributes> {
  const { person, ownDisk } = now.resource.attributes;
  return {
    ...(person === undefined ? {} : { person }),
    ...(typeof ownDisk === 'string' ? { ownDisk, ownDiskRef: await refOf(now, ownDisk) } : {}),
  };
}

/** What it is made of, as long as that stands: made anew, or when that is gone, it is made of its image. */
async function originOf({ resource, provider }: NowOf): Promise<Attributes> {
  const { from } = resource.attributes;
  if (typeof from !== 'string' || resource.round > 0) return {};
  const origin = await provider.resource(from);
  return origin && origin.state !== 'gone' ? { from } : {};
}

const lacksOf = (present: PresentResource): readonly string[] => {
  const { lacks } = present.attributes;
  return Array.isArray(lacks) ? (lacks as readonly string[]) : [];
};

/** What a server that was made by hand lacks: of that it is brought up. */
async function look(now: NowOf): Promise<Outcome> {
  const present = await presentNow(now);
  const lacks = [...(present.attributes.agent === 'ready' ? [] : ['the agent']), ...lacksOf(present)];
  return done(lacks.length === 0 ? 'lacks nothing' : `lacks ${lacks.join(', ')}`);
}

export const hostWork: ResourceWork = {
  read: (present) => {
    const { condition } = readPlainly(present);
    const { size, image, diskGiB, address, node, accepting, lacks, person, ownDisk, picture } =
      present.attributes;
    return {
      condition,
      attributes: Object.fromEntries(
        Object.entries({
          size,
          image,
          diskGiB,
          address,
          node,
          accepting,
          person,
          ownDisk,
          picture: picture === true ? true : undefined,
          lacks: Array.isArray(lacks) && lacks.length > 0 ? lacks : undefined,
          power: present.state === 'on' || present.state === 'off' ? present.state : undefined,
        }).flatMap(([name, value]) => (value === undefined ? [] : [[name, value]])),
      ),
    };
  },
  actions: {
    make: make(async (now) => {
      const pool = String(wanted(now, 'pool'));
      return {
        size: wanted(now, 'size'),
        image: wanted(now, 'image'),
        diskGiB: wanted(now, 'diskGiB'),
        address: wanted(now, 'address'),
        node: wanted(now, 'node'),
        subnet: await refOf(now, pool.replace('pool:', 'subnet:')),
        ...(await originOf(now)),
        ...(await ownOf(now)),
      };
    }),
    agent: act(
      'install-agent',
      () => ({}),
      (present) => (present.attributes.agent === 'ready' ? 'answers' : undefined),
    ),
    join: async (now) => {
      if (now.step.operation === null) await now.directory.join(realmOf(now), now.resource.name);
      return act(
        'join',
        () => ({ realm: realmOf(now) }),
        (present) => (present.attributes.joined === realmOf(now) ? `in ${realmOf(now)}` : undefined),
      )(now);
    },
    look,
    'bring-up': act(
      'bring-up',
      () => ({}),
      (present, now) => {
        const lacks = lacksOf(present);
        if (lacks.length === 0) return 'lacks nothing';
        return now.step.round > 0 ? `no ${lacks.join(', no ')} on it` : undefined;
      },
    ),
    restart: once('restart', 'restarted'),
    picture: act(
      'take-picture',
      () => ({}),
      (present) => (present.attributes.picture === true ? 'there is a picture of it' : undefined),
    ),
    'drop-picture': act(
      'drop-picture',
      () => ({}),
      (present) => (present.attributes.picture === true ? undefined : 'its picture is kept no more'),
    ),
    'go-back': once('go-back', 'is as on its picture'),
    register: set(
      async (now) => ({ pool: await refOf(now, String(wanted(now, 'pool'))) }),
      () => 'in its pool',
    ),
    check,
    drain,
    warn,
    'sign-out': signOut,
    unregister,
    leave: async (now) => {
      await now.directory.leave(realmOf(now), now.resource.name);
      return done(`${realmOf(now)} knows it no more`);
    },
    remove,
    accept: set(
      (now) => ({ accepting: wanted(now, 'accepting') }),
      (now) => (wanted(now, 'accepting') === true ? 'takes people' : 'takes nobody new'),
    ),
    power,
    attach: set(
      async (now) => {
        const key = String(wanted(now, 'ownDisk'));
        return { ownDisk: key, ownDiskRef: await refOf(now, key) };
      },
      () => 'has its disk',
    ),
    assign: set(
      (now) => ({ person: wanted(now, 'person') ?? '' }),
      (now) => `of ${String(wanted(now, 'person') ?? '') || 'nobody'}`,
    ),
    resize: act(
      'resize',
      (now) => ({ size: wanted(now, 'size'), node: wanted(now, 'node') }),
      (present, now) =>
        present.attributes.size === wanted(now, 'size') ? `is ${String(present.attributes.size)}` : undefined,
    ),
    'grow-disk': act(
      'grow-disk',
      (now) => ({ diskGiB: wanted(now, 'diskGiB') }),
      (present, now) =>
        Number(present.attributes.diskGiB) >= Number(wanted(now, 'diskGiB'))
          ? `disk has ${String(present.attributes.diskGiB)} GiB`
          : undefined,
    ),
    'grow-file-system': act(
      'grow-file-system',
      () => ({}),
      (present) =>
        present.attributes.fileSystemGiB === present.attributes.diskGiB
          ? `file system has ${String(present.attributes.fileSystemGiB)} GiB`
          : undefined,
    ),
    measure: async (now) => {
      const { diskGiB, fileSystemGiB } = (await presentNow(now)).attributes;
      if (diskGiB === fileSystemGiB && Number(diskGiB) >= Number(wanted(now, 'diskGiB')))
        return done(`measured: ${String(fileSystemGiB)} GiB to use`);
      return failed(`the disk has ${String(diskGiB)} GiB, the file system ${String(fileSystemGiB)} GiB`);
    },
  },
};
