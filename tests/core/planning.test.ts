import { describe, expect, it } from 'vitest';
import type { Facts } from '../../src/core/facts';
import type { Attribute, Intent } from '../../src/core/intent';
import {
  compare,
  differenceSays,
  editedOf,
  mayBegin,
  schedule,
  type Proposal,
} from '../../src/core/planning';
import { RESOURCE_KINDS, type Wanted } from '../../src/core/resources';
import { carriedOut, facts, hostsOf, input, node, proposed } from './setup/facts';

/* Changes of what stands, each as a difference: what is touched, in which order, and what is left alone. */

const standing = carriedOut(proposed('provision', input, facts), facts);
const hostKeys = standing.known.filter((one) => one.kind === 'host').map((one) => one.key);
const [firstKey = '', secondKey = ''] = hostKeys;
const idOf = (key: string): string => standing.known.find((one) => one.key === key)?.id ?? '';

const actionsOn = (proposal: Proposal, key: string): string[] =>
  proposal.steps.filter((step) => step.resource === key).map((step) => step.action);
const touched = (proposal: Proposal): string[] => proposal.tasks.map((task) => task.key);

/** The facts with something there otherwise than wanted. */
const with_ = (key: string, change: Partial<Facts['present'][number]> | undefined): Facts => ({
  ...standing,
  present: standing.present.flatMap((one) =>
    one.key !== key ? [one] : change ? [{ ...one, ...change }] : [],
  ),
});
const attributesOf = (key: string): Facts['known'][number]['attributes'] =>
  standing.known.find((one) => one.key === key)?.attributes ?? {};

const startsOf = (proposal: Proposal): ReadonlyMap<string, number> => {
  const result = schedule(proposal.steps, 1_000);
  if (!result.ok) throw new Error(result.problem);
  return result.value.startOf;
};

describe('what stands as wanted', () => {
  it('differs in nothing', () => expect(compare(RESOURCE_KINDS, standing)).toEqual([]));

  it('keeps what was allocated to it, whatever is added', () => {
    const grown = proposed('add-hosts', { pool: 'desks', hosts: 2 }, standing);
    const before = hostsOf(proposed('provision', input, facts));
    expect(hostsOf(grown).slice(0, before.length)).toEqual(before);
    expect(touched(grown)).toEqual(['host:desks:6', 'host:desks:7']);
  });
});

describe('switching hosts', () => {
  it('is one step each, and touches no others', () => {
    const proposal = proposed('drain', { hosts: [idOf(firstKey), idOf(secondKey)] }, standing);
    expect(proposal.steps.map((step) => step.key)).toEqual([`accept:${firstKey}`, `accept:${secondKey}`]);
    expect(proposal.monthly.minor).toBe(0);
  });

  it('off saves the host’s hours, and no more', () => {
    const { monthly } = proposed('power-off', { hosts: [idOf(firstKey)] }, standing);
    expect(monthly.minor).toBe(-Math.round(730 * 6.6));
  });

  it('again does nothing, and says so', () => {
    const { checks, steps } = proposed('power-on', { hosts: [idOf(firstKey)] }, standing);
    expect(steps).toEqual([]);
    expect(checks).toMatchObject([{ key: 'nothing', state: 'blocks' }]);
  });

  it('refuses a host of another environment', () =>
    expect(proposed('drain', { hosts: ['another'] }, standing).refused).toEqual({
      hosts: 'one of them is not a host of this environment',
    }));

  // What is being done may be there by the time this comes to it: so it is planned all the same.
  it('is planned also where what is there looks as wanted, while a run is at work on it', () => {
    const off = carriedOut(proposed('power-off', { hosts: [idOf(firstKey)] }, standing), standing);
    const under: Facts = {
      ...off,
      present: standing.present,
      known: off.known.map((one) => (one.key === firstKey ? { ...one, unsettled: true } : one)),
    };
    expect(actionsOn(proposed('power-on', { hosts: [idOf(firstKey)] }, under), firstKey)).toEqual(['power']);
  });
});

describe('taking hosts away', () => {
  const people = { [firstKey]: 3, [secondKey]: 1, [hostKeys[2] ?? '']: 2 };
  const busy = carriedOut(proposed('provision', input, facts), facts, people);

  it('takes the emptiest, and of the equally empty the last', () =>
    expect(touched(proposed('take-hosts', { pool: 'desks', hosts: 3 }, busy)).sort()).toEqual(
      [secondKey, ...hostKeys.slice(3)].sort(),
    ));

  it('drains, tells and empties each before it goes', () => {
    const proposal = proposed('take-hosts', { pool: 'desks', ids: [idOf(firstKey)] }, busy);
    expect(actionsOn(proposal, firstKey)).toEqual([
      'drain',
      'warn',
      'sign-out',
      'unregister',
      'leave',
      'remove',
    ]);
    expect(proposal.impact.people).toBe(3);
  });

  it('leaves at least one', () =>
    expect(proposed('take-hosts', { pool: 'desks', hosts: 5 }, busy).refused).toEqual({
      hosts: 'desks has 5; at least one stays: retire takes all',
    }));

  it('takes either so many or these', () =>
    expect(proposed('take-hosts', { pool: 'desks' }, busy).refused).toBeDefined());
});

describe('growing the disk', () => {
  it('grows the file system too, and measures both; nobody is disturbed', () => {
    const proposal = proposed('grow-disk', { pool: 'desks', diskGiB: 256 }, standing);
    expect(actionsOn(proposal, firstKey)).toEqual(['grow-disk', 'grow-file-system', 'measure']);
    expect(touched(proposal)).toEqual(hostKeys);
    // 5 hosts × 128 GiB × 0.07.
    expect(proposal.monthly.minor).toBe(4_480);
  });

  it.each([
    [32, 'Ostrel 12 multi-user alone takes 64 GiB'],
    [100, 'it has 128 GiB, and a disk in use cannot be made smaller'],
  ])('to %i GiB is refused with the reason', (diskGiB, why) =>
    expect(proposed('grow-disk', { pool: 'desks', diskGiB }, standing).refused).toEqual({ diskGiB: why }),
  );
});

describe('resizing', () => {
  const from: Facts = {
    ...standing,
    site: {
      ...standing.site,
      sizes: [...standing.site.sizes, { key: 's4x16', vcpu: 4, memoryGiB: 16 }],
    },
    rates: [
      ...standing.rates,
      { meter: 'host', size: 's4x16', unit: 'hour', price: '0.132', from: 0, to: null },
    ],
  };

  it('drains each host first and opens it again after, wave by wave', () => {
    const proposal = proposed('resize', { pool: 'desks', size: 's4x16' }, from, { waves: 2 });
    expect(actionsOn(proposal, firstKey)).toEqual(['drain', 'warn', 'sign-out', 'resize', 'accept']);
    const starts = startsOf(proposal);
    const end = (key: string): number => (starts.get(`accept:${key}`) ?? Number.NaN) + 5;
    const [one, two, three] = [0, 2, 4].map((at) => hostKeys[at] ?? '');
    expect(starts.get(`drain:${two}`)).toBeGreaterThanOrEqual(end(one ?? ''));
    expect(starts.get(`drain:${three}`)).toBeGreaterThanOrEqual(end(two ?? ''));
    // Seats follow from the size.
    expect(proposal.intent?.pools[0]?.seats).toBe(7);
    expect(actionsOn(proposal, 'pool:desks')).toEqual(['set']);
  });

  it('keeps a host on its node while that has room, and moves it when not', () => {
    const stay = proposed('resize', { pool: 'desks', size: 's4x16' }, from);
    expect(hostsOf(stay).map((host) => host.node)).toEqual(hostKeys.map((key) => attributesOf(key).node));
    const nodeOf = attributesOf(firstKey).node;
    const tight: Facts = {
      ...from,
      site: {
        ...from.site,
        nodes: [{ ...node(String(nodeOf), 'a'), memoryGiB: 40 }, node('c1', 'c')],
        present: [
          { id: 'all', customer: '', pool: '', node: String(nodeOf), vcpu: 0, memoryGiB: 40, diskGiB: 0 },
        ],
      },
    };
    const moved = hostsOf(proposed('resize', { pool: 'desks', size: 's4x16' }, tight));
    expect(moved.find((host) => host.name === 'SVG-OFFICE01')?.node).toBe('c1');
  });

  it('refuses a size that the site does not have', () =>
    expect(proposed('resize', { pool: 'desks', size: 's64' }, from).refused).toEqual({
      size: 'Kelp Quay does not have this size',
    }));
});

describe('mending', () => {
  it('is told in words: a size by what it holds, and by its key where the site does not have it', () => {
    const changed = with_(firstKey, { attributes: { ...attributesOf(firstKey), size: 's4x16' } });
    const [one] = compare(RESOURCE_KINDS, changed);
    if (!one) throw new Error('nothing differs');
    const sizes = [
      { key: 's2x8', vcpu: 2, memoryGiB: 8 },
      { key: 's4x16', vcpu: 4, memoryGiB: 16 },
    ];
    expect(differenceSays(one, sizes)).toBe('is 4 vCPU · 16 GiB, wanted 2 vCPU · 8 GiB');
    expect(differenceSays(one, [])).toBe('is s4x16, wanted s2x8');
  });

  const off = with_(firstKey, { attributes: { ...attributesOf(firstKey), power: 'off' } });
  const one = (key: string, how: string, attribute?: string): object => ({
    differences: [{ key, how, ...(attribute === undefined ? {} : { attribute }) }],
  });

  it('makes what was chosen as wanted, and only that', () => {
    const both = { ...off, present: off.present.filter((other) => other.key !== secondKey) };
    expect(compare(RESOURCE_KINDS, both).map((found) => found.says)).toEqual([
      'is off, wanted on',
      'wanted, not there',
    ]);
    const proposal = proposed('mend', one(firstKey, 'as wanted', 'power'), both);
    expect(touched(proposal)).toEqual([firstKey]);
    expect(actionsOn(proposal, firstKey)).toEqual(['power']);
  });

  it('takes what is there as wanted: nothing is done, and nothing differs any more', () => {
    const proposal = proposed('mend', one(firstKey, 'as present', 'power'), off);
    expect(proposal.steps).toEqual([]);
    expect(mayBegin(proposal.checks)).toBe(true);
    expect(proposal.overrides.set).toEqual([
      { host: firstKey, attribute: 'power', value: 'off', until: null },
    ]);
    expect(proposal.wanted.find(({ key }) => key === firstKey)?.attributes.power).toBe('off');
    expect(proposal.intent).toEqual(off.environment?.intent);
  });

  it('makes a missing host again, from its first step on, under its own name', () => {
    const proposal = proposed('mend', one(firstKey, 'as wanted'), with_(firstKey, undefined));
    expect(actionsOn(proposal, firstKey)).toEqual(['make', 'agent', 'join', 'register', 'check']);
    expect(hostsOf(proposal)[0]?.name).toBe('SVG-OFFICE01');
  });

  it('takes a missing host as not wanted any more', () => {
    const proposal = proposed('mend', one(firstKey, 'as present'), with_(firstKey, undefined));
    expect(hostsOf(proposal)).toHaveLength(4);
    expect(proposal.tasks.map((task) => [task.key, task.task.do])).toEqual([[firstKey, 'remove']]);
  });

  it('makes a host anew that does not answer, drained as far as it can be', () => {
    const proposal = proposed(
      'mend',
      one(firstKey, 'as wanted', 'condition'),
      with_(firstKey, { condition: 'unwell' }),
    );
    expect(actionsOn(proposal, firstKey).slice(-6)).toEqual([
      'remove',
      'make',
      'agent',
      'join',
      'register',
      'check',
    ]);
  });

  it('takes away what is there a second time', () => {
    const twice: Facts = {
      ...standing,
      present: [
        ...standing.present,
        { ref: 'twin', kind: 'host', name: 'SVG-OFFICE01', key: firstKey, condition: 'well', attributes: {} },
      ],
    };
    expect(compare(RESOURCE_KINDS, twice)).toMatchObject([{ key: 'extra:twin', difference: 'extra' }]);
    const proposal = proposed('mend', one('extra:twin', 'as wanted'), twice);
    expect(proposal.tasks.map((task) => [task.key, task.ref])).toEqual([['extra:twin', 'twin']]);
    expect(proposed('mend', one('extra:twin', 'as present'), twice).refused).toBeDefined();
  });

  it('refuses what differs no more', () =>
    expect(proposed('mend', one(firstKey, 'as wanted', 'power'), standing).refused).toEqual({
      'differences.0': 'differs no more',
    }));
});

describe('undoing', () => {
  it('is the difference back: what was added goes, what was is left alone', () => {
    const grown = carriedOut(proposed('add-hosts', { pool: 'desks', hosts: 2 }, standing), standing);
    const back: Facts = {
      ...grown,
      environment: grown.environment && {
        ...grown.environment,
        ...(standing.environment ? { earlier: standing.environment.intent } : {}),
      },
    };
    const proposal = proposed('undo', { version: 1 }, back);
    expect(proposal.tasks.map((task) => [task.key, task.task.do])).toEqual([
      ['host:desks:6', 'remove'],
      ['host:desks:7', 'remove'],
    ]);
    expect(proposed('undo', { version: 9 }, grown).refused).toEqual({ version: 'there is no such version' });
  });
});

describe('retiring', () => {
  const proposal = proposed('retire', {}, standing);

  it('takes everything apart, each after what stands on it: people warned first, the proof last', () => {
    const starts = startsOf(proposal);
    const order = [
      'warn:environment',
      'remove:publication:desks',
      `remove:${firstKey}`,
      'remove:subnet:desks',
      'remove:network:KQ',
      'sweep:environment',
      'prove:environment',
    ];
    for (const [at, key] of order.slice(1).entries())
      expect(starts.get(key)).toBeGreaterThan(starts.get(order[at] ?? '') ?? Number.NaN);
    expect(touched(proposal).sort()).toEqual(standing.known.map((one) => one.key).sort());
    expect(starts.get('remove:pool:desks')).toBeGreaterThan(
      starts.get(`unregister:${firstKey}`) ?? Number.NaN,
    );
  });

  it('saves all that it costs, and cannot be undone', () => {
    expect(proposal.monthly.minor).toBe(-34_690);
    expect(proposal.impact).toMatchObject({ people: 12, hosts: 5, undo: 'cannot be undone' });
  });

  it('leaves what other environments of the customer still use', () => {
    const shared: Facts = {
      ...standing,
      environment: standing.environment && { ...standing.environment, shares: true },
    };
    expect(touched(proposed('retire', {}, shared))).not.toContain('network:KQ');
  });

  it('also takes what was on its way out already', () => {
    const half: Facts = {
      ...standing,
      known: standing.known.map((one) => (one.key === firstKey ? { ...one, wanted: false } : one)),
    };
    expect(touched(proposed('retire', {}, half))).toContain(firstKey);
  });
});

describe('a policy', () => {
  it('is as the change has it, unless someone wants it otherwise', () => {
    const own = proposed('take-hosts', { pool: 'desks', hosts: 1 }, standing).policy;
    expect(own).toMatchObject({ atATime: 8, failureLimit: 3, drain: { minutes: 30 } });
    const wished = proposed('take-hosts', { pool: 'desks', hosts: 1 }, standing, {
      drainMinutes: 5,
      waves: 0,
      failureLimit: 1,
    }).policy;
    expect(wished).toMatchObject({ failureLimit: 1, drain: { minutes: 5 } });
    expect(wished.waves).toBeUndefined();
  });

  // Common practice, no source: ten hosts in waves of five at 10 to 15 minutes a wave are done in 20 to 30 minutes.
  it('in waves takes the waves one after the other', () => {
    const ten = carriedOut(
      proposed('add-hosts', { pool: 'desks', hosts: 5 }, standing),
      standing,
      Object.fromEntries(hostKeys.map((key) => [key, 1])),
    );
    const from: Facts = {
      ...ten,
      site: { ...ten.site, sizes: [...ten.site.sizes, { key: 's4x16', vcpu: 4, memoryGiB: 16 }] },
    };
    const { seconds } = proposed('resize', { pool: 'desks', size: 's4x16' }, from, {
      waves: 5,
      drainMinutes: 8,
      atATime: 10,
    });
    expect(seconds / 60).toBeGreaterThan(15);
    expect(seconds / 60).toBeLessThan(30);
  });
});

describe('what is written when a change begins', () => {
  const keys = (after: readonly Wanted[], from: Facts = standing): string[] =>
    editedOf(from, after).map((one) => one.key);
  const wanted: readonly Wanted[] = proposed('add-hosts', { pool: 'desks', hosts: 1 }, standing).wanted;
  const otherwise = (key: string, over: Partial<Wanted>): Wanted[] =>
    wanted.map((one) => (one.key === key ? { ...one, ...over } : one));

  it('is what is new, and nothing that stays as it was', () => {
    expect(keys(wanted)).toEqual(['host:desks:6', 'publication:desks']);
    expect(keys(wanted, { ...standing, known: [] })).toEqual(wanted.map((one) => one.key));
    expect(keys([])).toEqual([]);
  });

  it('is what has another name, is otherwise, or stands on something else', () => {
    const more = ['host:desks:6', 'publication:desks'];
    expect(keys(otherwise(firstKey, { name: 'OTHER' }))).toEqual([firstKey, ...more]);
    expect(keys(otherwise(firstKey, { attributes: { ...attributesOf(firstKey), power: 'off' } }))).toEqual([
      firstKey,
      ...more,
    ]);
    expect(keys(otherwise(firstKey, { needs: [] }))).toEqual([firstKey, ...more]);
  });

  it('is what was not wanted any more, and is again', () =>
    expect(
      keys(wanted, {
        ...standing,
        known: standing.known.map((one) => (one.key === firstKey ? { ...one, wanted: false } : one)),
      }),
    ).toContain(firstKey));
});

describe('what is refused', () => {
  it('leaves what is wanted as it is, and does nothing', () => {
    const refused = proposed('grow-disk', { pool: 'desks', diskGiB: 1 }, standing);
    expect(refused).toMatchObject({
      intent: standing.environment?.intent,
      wanted: [],
      tasks: [],
      steps: [],
      critical: [],
      cost: [],
      room: 0,
    });
    expect(mayBegin(refused.checks)).toBe(false);
    expect(proposed('grow-disk', { pool: 'desks', diskGiB: 1 }, facts).intent).toBeNull();
  });
});

describe('what is told of a resource in part', () => {
  const kind = RESOURCE_KINDS.find((one) => one.key === 'host');

  it('costs nothing while its size or its power is not known', () => {
    expect(kind?.meters({ power: 'on' })).toEqual([]);
    expect(kind?.meters({ size: 's2x8' })).toEqual([]);
    expect(kind?.meters({ size: 's2x8', power: 'off' })).toEqual([
      { meter: 'host', state: 'off', size: 's2x8', quantity: 1 },
      { meter: 'disk', state: 'on', size: null, quantity: 0 },
    ]);
  });

  it('claims its name, its address and its room, and a host of the shelf where it is made of one', () => {
    const { sizes } = facts.site;
    const at = { realm: 'svg.example', site: 'KQ', sizes };
    const one = { node: 'a1', size: 's2x8', diskGiB: 64, address: '10.16.0.6' };
    const room = { takes: 'room', node: 'a1', family: '', vcpu: 2, memoryGiB: 8, diskGiB: 64 };
    const own = [
      { takes: 'value', space: 'name', within: 'svg.example', value: 'SVG-01' },
      { takes: 'value', space: 'address', within: '', value: '10.16.0.6' },
    ];
    expect(kind?.claims?.({ name: 'svg-01', attributes: one }, at)).toEqual([...own, room]);
    expect(kind?.claims?.({ name: 'svg-01', attributes: { ...one, from: 'vm-7' } }, at)).toEqual([
      ...own,
      { takes: 'value', space: 'ready', within: 'KQ', value: 'vm-7' },
      { ...room, stands: true },
    ]);
    // Of a size that the site has no more, nothing is known.
    const gone = kind?.claims?.({ name: '', attributes: { ...one, size: 'gone', address: '' } }, at);
    expect(gone).toEqual([{ ...room, vcpu: 0, memoryGiB: 0 }]);
  });

  it('is told as nothing where it is none', () => {
    const one = { key: firstKey, kind: 'host', name: 'H', says: '' };
    const size = { attribute: 'size', wanted: 's2x8', how: 'in place', disturbs: true, says: '' } as const;
    const says = (present: Attribute): string =>
      differenceSays({ ...one, difference: { ...size, present } }, facts.site.sizes);
    expect(says(null)).toBe('is nothing, wanted 2 vCPU · 8 GiB');
    const disk = {
      attribute: 'diskGiB',
      wanted: 128,
      present: 100,
      how: 'in place',
      disturbs: false,
      says: 'disk is 100 GiB, wanted 128 GiB',
    } as const;
    expect(differenceSays({ ...one, difference: disk }, facts.site.sizes)).toBe(
      'disk is 100 GiB, wanted 128 GiB',
    );
    expect(says('s9')).toBe('is s9, wanted 2 vCPU · 8 GiB');
    expect(differenceSays({ ...one, says: 'wanted, not there', difference: 'missing' }, [])).toBe(
      'wanted, not there',
    );
  });
});

describe('a kind that is in no list', () => {
  it('is named', () =>
    expect(() => compare(RESOURCE_KINDS.slice(0, 1), standing)).toThrow(
      new RangeError('subnet is no kind of resource'),
    ));
});

describe('the seats that are left while hosts are away', () => {
  /** All five hosts stand, and the first is drained; so many people are in on each. */
  const after = (people: number): Facts => {
    const drained = proposed('drain', { hosts: [idOf(firstKey)] }, standing);
    const inOn = Object.fromEntries(hostKeys.map((key) => [key, people]));
    return carriedOut(drained, standing, inOn);
  };
  const seatsOf = (host: string, from: Facts): string | undefined =>
    proposed('maintain-hosts', { hosts: [idOf(host)], picture: false }, from).checks.find(
      ({ key }) => key === 'seats',
    )?.state;
  const seats = standing.environment?.intent.pools[0]?.seats ?? 0;

  it('are no fewer for a host that takes nobody anyway', () => {
    // The four that are open have just as many seats as people are in.
    const full = after(Math.floor((seats * 4) / 5));
    expect([seatsOf(firstKey, full), seatsOf(secondKey, full)]).toEqual(['passes', 'warns']);
  });

  it('are too few for those who are signed out of it where the others are full', () =>
    expect(seatsOf(firstKey, after(seats))).toBe('warns'));
});

describe('what a plan and a rule allow', () => {
  const bare = {
    ...standing,
    site: { ...standing.site, sizes: [...standing.site.sizes, { key: 's4x16', vcpu: 4, memoryGiB: 16 }] },
  };
  const small: Facts = {
    ...bare,
    customer: { ...bare.customer, plan: { ...bare.customer.plan, sizes: ['s2x8'] } },
  };
  /** One host with a size of its own that the plan does not have: it was given before the plan was. */
  const ownSize: Facts = {
    ...small,
    environment: small.environment && {
      ...small.environment,
      intent: {
        ...small.environment.intent,
        pools: small.environment.intent.pools.map((pool) => ({
          ...pool,
          hosts: pool.hosts.map((host, n) => (n === 0 ? { ...host, size: 's4x16' } : host)),
        })),
      },
    },
  };
  const blocked = (kind: string, raw: object, from: Facts): string[] =>
    proposed(kind, raw, from)
      .checks.filter(({ state }) => state === 'blocks')
      .map(({ key }) => key);

  it('does not keep a host with a size of its own from being drained or seen to', () => {
    expect(blocked('drain', { hosts: [idOf(firstKey)] }, ownSize)).not.toContain('plan size');
    expect(blocked('maintain-hosts', { hosts: [idOf(firstKey)], picture: false }, ownSize)).toEqual([]);
    expect(blocked('resize', { pool: 'desks', size: 's4x16' }, small).length).toBeGreaterThan(0);
  });

  it('charges the counter of a pool with the names of that pool', () => {
    const names = (more: (intent: Intent) => Intent['pools']): string | undefined => {
      const from: Facts = {
        ...standing,
        environment: standing.environment && {
          ...standing.environment,
          intent: {
            ...standing.environment.intent,
            naming: '{customer}-{role}{counter:1}',
            pools: more(standing.environment.intent),
          },
        },
      };
      return proposed('add-hosts', { pool: 'desks', hosts: 2 }, from).checks.find(
        ({ key }) => key === 'names',
      )?.state;
    };
    const [desks] = standing.environment?.intent.pools ?? [];
    if (!desks) throw new Error('no pool stands');
    const lab = { ...desks, role: 'lab', hosts: [], ceiling: 9 };
    // 5 hosts stand, named by another rule: of the 9 names of each role 4 more are wanted, and 9.
    expect(names(() => [{ ...desks, ceiling: 9 }, lab])).toBe('passes');
    expect(
      names(() => [
        { ...desks, ceiling: 9 },
        { ...lab, ceiling: 10 },
      ]),
    ).toBe('warns');
  });
});
