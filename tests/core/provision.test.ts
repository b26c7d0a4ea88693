import { describe, expect, it } from 'vitest';
import type { Facts } from '../../src/core/facts';
import { sizePools } from '../../src/core/changes';
import { money } from '../../src/core/money';
import { impactLine, mayBegin } from '../../src/core/planning';
import { dearerFor } from '../../src/core/plans';
import {
  customersThatMeet,
  readTemplate,
  starterOn,
  STARTERS,
  writeTemplate,
} from '../../src/core/templates';
import { block, facts, hostsOf, input, node, planOf, poolSpec, proposed, spec } from './setup/facts';

interface Over {
  readonly input?: object;
  readonly customer?: object;
  readonly site?: object;
  readonly spec?: object;
  readonly pool?: object;
  readonly rates?: [];
}

const proposedWith = (over: Over) => {
  const from: Facts = {
    ...facts,
    ...(over.rates ? { rates: over.rates } : {}),
    customer: { ...facts.customer, ...over.customer },
    site: { ...facts.site, ...over.site },
    template: {
      code: 'shared-office',
      revision: 1,
      document: { ...spec, pools: [{ ...poolSpec, ...over.pool }], ...over.spec },
    },
  };
  return proposed('provision', { ...input, ...over.input }, from);
};

describe('a proposal to provision', () => {
  const proposal = proposed('provision', input, facts);

  it('names, addresses and places every host', () => {
    const hosts = hostsOf(proposal);
    expect(hosts.map((host) => host.name)).toEqual([
      'SVG-OFFICE01',
      'SVG-OFFICE03',
      'SVG-OFFICE04',
      'SVG-OFFICE05',
      'SVG-OFFICE06',
    ]);
    expect(hosts.map((host) => host.address)).toEqual([
      '10.16.0.4',
      '10.16.0.5',
      '10.16.0.6',
      '10.16.0.7',
      '10.16.0.8',
    ]);
    expect(new Set(hosts.map((host) => host.node))).toEqual(new Set(['a1', 'b1']));
    // Room for twice the first hosts and the site's five reserved addresses: 15, so 16.
    expect(proposal.wanted.find((one) => one.kind === 'subnet')?.attributes.cidr).toBe('10.16.0.0/28');
  });

  it('refuses a choice for a pool that the template has not, or that is there twice', () => {
    const refusedFor = (pools: object[]) => proposed('provision', { ...input, pools }, facts).refused;
    expect(refusedFor([{ role: 'lab', profile: 'heavy' }])).toEqual({
      pools: 'shared-office has no pool lab',
    });
    expect(Object.values(refusedFor([{ role: 'desks' }, { role: 'desks', profile: 'heavy' }]) ?? {})).toEqual(
      ['one pool is there twice'],
    );
  });

  it('has as many hosts of a size chosen by hand as the rule has of it', () => {
    for (const spare of [0, 1]) {
      const pool = { ...poolSpec, spare };
      const count = (pools: object[]): number => hostsOf(proposedWith({ input: { pools }, pool })).length;
      expect(count([{ role: 'desks', size: 's2x8' }])).toBe(count([]));
    }
  });

  it('is ready for as many as there are, however many are asked for, and for a person at least', () => {
    const count = (over: object): number => hostsOf(proposedWith({ input: over })).length;
    expect(count({ people: 12, ready: 40 })).toBe(count({ people: 12 }));
    expect(count({ people: 12, ready: 1 })).toBeLessThan(count({ people: 12 }));
  });

  it('says of an image without a current version that it has none', () => {
    const draft = {
      name: 'office@1',
      diskGiB: 64,
      of: { line: 'office', number: 1, state: 'trial', at: 0, licences: [], programs: [] },
    } as const;
    const wish = { ...input, pools: [{ role: 'desks', image: 'office' }] };
    const check = (site: Partial<Facts['site']>) =>
      proposed('provision', wish, { ...facts, site: { ...facts.site, ...site } }).checks.find(
        ({ key }) => key === 'image',
      );
    expect(check({ imagesElsewhere: [draft] })).toMatchObject({ says: 'office has no current version' });
    expect(check({})).toMatchObject({ state: 'blocks', says: `office is not at ${facts.site.name}` });
  });

  it('tells what cannot be used beside its field, and sizes as the template has it until it can', () => {
    const typed = {
      ...input,
      pools: [{ role: 'desks', diskGiB: 'abc', spare: 0 }],
    } as unknown as typeof input;
    const [pool] = sizePools(typed, facts);
    const [otherwise] = sizePools({ ...input, pools: [{ role: 'desks', spare: 0 }] }, facts);
    expect(pool?.spec).toMatchObject({ diskGiB: 'abc', spare: 0 });
    expect(pool?.sizing).toEqual(otherwise?.sizing);
    expect(proposed('provision', typed, facts).checks).toMatchObject([
      { key: 'field pools.0.diskGiB', state: 'blocks' },
    ]);
  });

  it('takes a part of people as whole ones, and no more than the part makes', () => {
    // 100 × 0.07 is 7.000000000000001 in binary fractions (IEEE 754); 10 × 0.25 is two and a half people.
    const people = (asked: number, times: number): number =>
      sizePools(
        { ...input, people: asked },
        {
          ...facts,
          template: {
            code: 'shared-office',
            revision: 1,
            document: { ...spec, pools: [{ ...poolSpec, people: `=people * ${times}` }] },
          },
        },
      )[0]?.spec.people ?? NaN;
    expect([people(100, 0.07), people(10, 0.25), people(12, 0.5)]).toEqual([7, 3, 6]);
  });

  it('says which size cannot be had, and which can', () => {
    const check = (size: string, from: Facts = facts) =>
      proposed('provision', { ...input, pools: [{ role: 'desks', size }] }, from).checks.find(
        ({ key }) => key === 'size desks',
      );
    expect(check('s2x8')).toMatchObject({ state: 'passes' });
    expect(check('s99x1')).toMatchObject({
      state: 'blocks',
      says: expect.stringContaining('s99x1 cannot be had') as string,
      do: expect.stringMatching(/^Take \d+ vCPU/) as string,
    });
    const withOther: Facts = {
      ...facts,
      site: { ...facts.site, sizes: [...facts.site.sizes, { key: 's4x16', vcpu: 4, memoryGiB: 16 }] },
    };
    expect(check('s4x16', withOther)).toMatchObject({
      state: 'blocks',
      says: `no price for 4 vCPU · 16 GiB at ${facts.site.name}`,
    });
  });

  it('warns when the pools could outgrow their names', () => {
    const naming = '{customer}-{environment}{counter:1}';
    const names = (ceilingFactor: number) =>
      proposedWith({
        customer: { taken: { name: ['svg-office7'] } },
        spec: { naming, pools: [{ ...poolSpec, ceilingFactor }] },
      }).checks.find((one) => one.key === 'names');
    // Nine names, one is taken; five hosts now, ten at the ceiling: two short. At a ceiling of eight it just fits.
    expect(names(2)).toMatchObject({
      state: 'warns',
      says: expect.stringContaining('2 names short') as string,
    });
    expect(names(1.6)).toMatchObject({ state: 'passes' });
  });

  it('lets a person take a dearer size, and says what it costs more', () => {
    const site = { sizes: [...facts.site.sizes, { key: 's4x8', vcpu: 4, memoryGiB: 8 }] };
    const rates: Facts['rates'] = [
      ...facts.rates,
      { meter: 'host', size: 's4x8', unit: 'hour', price: '0.2', from: 0, to: null },
    ];
    const from = { ...facts, rates, site: { ...facts.site, ...site } };
    const byHand = proposed('provision', { ...input, pools: [{ role: 'desks', size: 's4x8' }] }, from);
    // Three seats each as before, memory binds: 5 hosts × 730 h × (0.2 - 0.066).
    expect(byHand.checks.find((one) => one.key === 'size desks')).toMatchObject({
      state: 'passes',
      says: '5 × 4 vCPU · 8 GiB, N+1 kept; 489.10 EUR a month more than 2 vCPU · 8 GiB',
    });
    expect(mayBegin(byHand.checks)).toBe(true);
  });

  it('says which size has no price, rather than that none would do', () => {
    const without = proposedWith({ rates: [] });
    expect(without.checks.find((one) => one.key === 'size desks')).toMatchObject({
      state: 'blocks',
      says: 'no price for 2 vCPU · 8 GiB at Kelp Quay',
    });
  });

  it('adds up its cost: 5 hosts × 730 h × 0.066 + 640 GiB × 0.07 + 120 GiB × 0.11 + 12 × 4', () => {
    const minor = (meter: string) => proposal.cost.find((line) => line.meter === meter)?.amount.minor;
    expect(['host', 'disk', 'share', 'licence'].map(minor)).toEqual([24_090, 4_480, 1_320, 4_800]);
    expect(proposal.monthly.minor).toBe(34_690);
  });

  // Common practice, no source: an environment on existing ground takes about 20 minutes.
  it('takes about 20 minutes', () => {
    expect(proposal.seconds / 60).toBeGreaterThan(12);
    expect(proposal.seconds / 60).toBeLessThan(25);
  });

  // Common practice, no source: three hosts take about 15 minutes to build.
  it('builds three hosts in about 15 minutes', () => {
    const { seconds } = proposedWith({ input: { people: 6 } });
    expect(seconds / 60).toBeGreaterThan(11);
    expect(seconds / 60).toBeLessThan(17);
  });

  it('passes every check', () => {
    expect(proposal.checks.filter((check) => check.state !== 'passes')).toEqual([]);
    expect(mayBegin(proposal.checks)).toBe(true);
  });

  it('says it in one line', () =>
    expect(impactLine(proposal.impact, (amount) => (amount.minor / 100).toFixed(2))).toMatch(
      /^12 people · 5 hosts · \+346\.90 a month · about \d+ min · can be undone$/,
    ));

  it.each<[string, Over]>([
    ['name', { input: { environment: 'Office!' } }],
    ['name', { input: { environment: 'clinic' } }],
    ['customer', { customer: { state: 'leaving' } }],
    ['size desks', { input: { people: 0 } }],
    ['plan', { customer: { plan: planOf({ hosts: 4 }) } }],
    ['plan', { customer: { plan: planOf({ people: 9 }) } }],
    ['size desks', { customer: { plan: planOf({}, { sizes: ['s64'] }) } }],
    ['names', { spec: { naming: '{customer}-{environment}-{role}{counter:4}' } }],
    ['names', { input: { people: 96 }, spec: { naming: '{customer}{counter:1}' } }],
    ['addresses', { customer: { block: block('10.16.0.0/29') } }],
    ['addresses', { customer: { block: undefined } }],
    ['image', { site: { images: [] } }],
    ['image', { pool: { diskGiB: 32 } }],
    ['capacity', { site: { nodes: [{ ...node('a1', 'a'), memoryGiB: 16 }] } }],
    ['capacity', { site: { kind: 'hosted region', nodes: [], quota: { vcpu: 160, vcpuUsed: 155 } } }],
    ['credentials', { site: { signIn: { worked: false, says: 'account or secret is wrong' } } }],
    ['directory', { site: { directory: { worked: false, says: 'does not answer' } } }],
    ['size desks', { rates: [] }],
  ])('is blocked by %s where it should be, and says what to do', (key, over) => {
    const { checks } = proposedWith(over);
    const check = checks.find((one) => one.key === key);
    expect(check?.state).toBe('blocks');
    expect(check?.do).toBeTruthy();
    expect(mayBegin(checks)).toBe(false);
  });

  it('needs no node at a hosted region', () => {
    const hosted = proposedWith({
      site: { kind: 'hosted region', nodes: [], quota: { vcpu: 160, vcpuUsed: 0 } },
    });
    expect(hostsOf(hosted)[0]?.node).toBeNull();
    expect(mayBegin(hosted.checks)).toBe(true);
  });

  it('refuses an input that cannot be read, beside its fields', () => {
    const { refused, checks, steps } = proposed(
      'provision',
      { environment: 'office', people: 'many' },
      facts,
    );
    expect(Object.keys(refused ?? {}).sort()).toEqual(['people', 'site', 'template']);
    expect(mayBegin(checks)).toBe(false);
    expect(steps).toEqual([]);
  });
});

describe('two pools in one environment', () => {
  const lab = {
    ...poolSpec,
    role: 'lab',
    image: 'Ostrel Server 9',
    profile: 'heavy' as const,
    people: '=people * 0.25' as const,
  };
  const from: Facts = {
    ...facts,
    site: { ...facts.site, images: [...facts.site.images, { name: 'Ostrel Server 9', diskGiB: 40 }] },
    template: {
      code: 'two',
      revision: 1,
      document: { ...spec, naming: '{customer}-{role}{counter:2}', pools: [poolSpec, lab] },
    },
  };
  const proposal = proposed('provision', input, from);

  it('have names, subnets and seats of their own, and one network', () => {
    expect(mayBegin(proposal.checks)).toBe(true);
    const cidrs = proposal.wanted.filter((one) => one.kind === 'subnet').map((one) => one.attributes.cidr);
    expect(new Set(cidrs).size).toBe(2);
    expect(proposal.wanted.filter((one) => one.kind === 'network')).toHaveLength(1);
    const names = hostsOf(proposal).map((host) => host.name);
    expect(names.filter((name) => name.startsWith('SVG-LAB')).length).toBeGreaterThan(0);
    expect(new Set(names).size).toBe(names.length);
    // A quarter of twelve people.
    expect(proposal.intent?.pools.map((pool) => pool.people)).toEqual([12, 3]);
  });
});

describe('an impact line', () => {
  it('writes what cannot be undone', () =>
    expect(
      impactLine(
        { people: 1, hosts: 1, monthly: money(-100, 'EUR'), seconds: 20, undo: 'cannot be undone' },
        (amount) => String(amount.minor),
      ),
    ).toBe('1 person · 1 host · -100 a month · about 1 min · cannot be undone'));
});

describe('what a plan includes', () => {
  const plan = planOf({}, { included: [{ meter: 'share', quantity: 100 }] });
  const shares = (stands: number | undefined): number | undefined => {
    const customer = { plan, ...(stands === undefined ? {} : { stands: { share: stands } }) };
    return proposedWith({ customer }).cost.find((line) => line.meter === 'share')?.quantity;
  };

  // Twelve people at ten GiB: 120.
  it('costs nothing more until it is used up, and then only what is beyond it', () => {
    expect(shares(undefined)).toBe(20);
    expect(shares(60)).toBe(80);
    expect(shares(100)).toBe(120);
    expect(shares(500)).toBe(120);
  });

  it('is reckoned in what a move to another plan costs', () => {
    const standing = { stands: { share: 250, disk: 40 }, rates: facts.rates, currency: 'EUR' };
    const eur = (monthly: string) => [{ currency: 'EUR', monthly }];
    const without = planOf({}, { fees: eur('100') });
    const larger = planOf({}, { fees: eur('120'), included: [{ meter: 'share', quantity: 200 }] });
    // 20 more for the fee; 200 GiB at 0.11 less.
    expect(dearerFor(standing, without, larger, facts.now)).toEqual({ minor: -200, currency: 'EUR' });
    expect(dearerFor(standing, larger, without, facts.now)).toEqual({ minor: 200, currency: 'EUR' });
    expect(dearerFor({ ...standing, currency: 'SEK' }, without, larger, facts.now)).toBeNull();
  });
});

describe('a template', () => {
  it('to begin with is sound on any image, and no two customers meet by it', () => {
    for (const starter of STARTERS) {
      const begun = starterOn(starter, 'Ostrel 12 multi-user');
      expect([starter.code, readTemplate(writeTemplate(begun))]).toEqual([
        starter.code,
        { ok: true, value: begun },
      ]);
      expect(customersThatMeet(begun, ['MHP', 'MHQ', 'CAO'])).toBeUndefined();
    }
    expect(new Set(STARTERS.map(({ code }) => code)).size).toBe(STARTERS.length);
  });

  it('tells customers apart in the names of their hosts', () => {
    const meeting = (naming: string, codes: readonly string[]) =>
      customersThatMeet({ ...spec, naming }, codes);
    expect(meeting('{customer}-{environment}{counter:2}', ['SVG', 'MHP', 'SVG2'])).toBeUndefined();
    expect(meeting('{environment}{counter:2}', ['SVG', 'MHP'])).toEqual(['SVG', 'MHP']);
    expect(meeting('no counter', ['SVG', 'MHP'])).toBeUndefined();
    // SV1-A and SV with a counter that begins with 1: a digit stands where the other's code does.
    expect(meeting('{customer}{counter:2}', ['SV', 'SV1'])).toBeUndefined();
    expect(meeting('H{counter:1}{customer}', ['1AA', 'AA'])).toBeUndefined();
    expect(meeting('{customer}{counter:1}{role}', ['SVG', 'MHP'])).toBeUndefined();
  });
});
