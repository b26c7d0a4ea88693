import { describe, expect, it } from 'vitest';
import { parseBlock, type Block } from '../../src/core/addressing';
import {
  checkTemplate,
  type ProvisionGround,
  type ProvisionWish,
  type TemplateSpec,
} from '../../src/core/ground';
import { money } from '../../src/core/money';
import { mayBegin, type CheckKey } from '../../src/core/preflight';
import { impactLine, proposePower, proposeProvision } from '../../src/core/proposal';

const block = (text: string): Block => {
  const read = parseBlock(text);
  if (!read.ok) throw new Error(read.problem);
  return read.value;
};

const spec: TemplateSpec = {
  naming: '{customer}-{environment}{counter:2}',
  role: 'desks',
  image: 'Ostrel 12 multi-user',
  arrival: 'spread',
  profile: 'standard',
  concurrency: 1,
  mostSeats: 16,
  diskGiB: 128,
  shareGiBPerPerson: 10,
  ceilingFactor: 2,
  atATime: 5,
  failureLimit: 2,
  items: [{ name: 'Full desktop', kind: 'desktop' }],
};

const wish: ProvisionWish = { environment: 'office', people: 12, profile: 'standard' };

const node = (id: string, zone: string) => ({ id, zone, vcpu: 128, memoryGiB: 384, diskGiB: 8_000 });

const ground: ProvisionGround = {
  now: Date.UTC(2026, 10, 24),
  rates: [
    { meter: 'host', size: 's2x8', unit: 'hour', price: '0.066', from: 0, to: null },
    { meter: 'disk', size: null, unit: 'month', price: '0.07', from: 0, to: null },
    { meter: 'share', size: null, unit: 'month', price: '0.11', from: 0, to: null },
    { meter: 'licence', size: null, unit: 'month', price: '4', from: 0, to: null },
  ],
  customer: {
    code: 'SVG',
    currency: 'EUR',
    zone: 'Europe/Dublin',
    state: 'active',
    plan: { name: 'Harbour', mostHosts: 20, mostPeople: 100, sizes: [] },
    hosts: 0,
    people: 96,
    block: block('10.16.0.0/20'),
    subnets: [],
    namesTaken: ['SVG-OFFICE02'],
    environments: ['clinic'],
  },
  site: {
    code: 'KQ',
    name: 'Kelp Quay',
    kind: 'own nodes',
    reservedAddresses: 5,
    sizes: [{ key: 's2x8', vcpu: 2, memoryGiB: 8 }],
    images: ['Ostrel 12 multi-user'],
    nodes: [node('a1', 'a'), node('b1', 'b')],
    present: [],
    quota: undefined,
    signIn: { worked: true, says: 'signed in' },
    directory: { worked: true, says: 'answers' },
  },
};

const blocked = (over: {
  wish?: Partial<ProvisionWish>;
  customer?: object;
  site?: object;
  spec?: object;
  rates?: [];
}) =>
  proposeProvision(
    { ...wish, ...over.wish },
    { ...spec, ...over.spec },
    {
      ...ground,
      ...(over.rates ? { rates: over.rates } : {}),
      customer: { ...ground.customer, ...over.customer },
      site: { ...ground.site, ...over.site },
    },
  );

describe('a proposal to provision', () => {
  const proposal = proposeProvision(wish, spec, ground);

  it('names, addresses and places every host', () => {
    expect(proposal.hosts.map((host) => host.name)).toEqual([
      'SVG-OFFICE01',
      'SVG-OFFICE03',
      'SVG-OFFICE04',
      'SVG-OFFICE05',
      'SVG-OFFICE06',
    ]);
    expect(proposal.hosts.map((host) => host.address)).toEqual([
      '10.16.0.4',
      '10.16.0.5',
      '10.16.0.6',
      '10.16.0.7',
      '10.16.0.8',
    ]);
    expect(new Set(proposal.hosts.map((host) => host.zone))).toEqual(new Set(['a', 'b']));
    // Room for twice the first hosts and the site's five reserved addresses: 15, so 16.
    expect(proposal.subnet).toBe('10.16.0.0/28');
  });

  it('adds up its cost: 5 hosts × 730 h × 0.066 + 640 GiB × 0.07 + 120 GiB × 0.11 + 12 × 4', () => {
    expect(proposal.cost.map((line) => line.amount.minor)).toEqual([24_090, 4_480, 1_320, 4_800]);
    expect(proposal.monthly.minor).toBe(34_690);
  });

  // Common practice, no source: an environment on existing ground takes about 20 minutes, three hosts about 15.
  it('takes about 20 minutes', () => {
    expect(proposal.seconds / 60).toBeGreaterThan(12);
    expect(proposal.seconds / 60).toBeLessThan(25);
  });

  it('passes every check', () => {
    expect(proposal.checks.filter((check) => check.state !== 'passes')).toEqual([]);
    expect(mayBegin(proposal.checks)).toBe(true);
  });

  it('says it in one line', () =>
    expect(impactLine(proposal.impact, (amount) => (amount.minor / 100).toFixed(2))).toBe(
      '12 people · 5 hosts · +346.90 a month · about 18 min · can be undone',
    ));

  it.each<[CheckKey, Parameters<typeof blocked>[0]]>([
    ['name', { wish: { environment: 'Office!' } }],
    ['name', { wish: { environment: 'clinic' } }],
    ['customer', { customer: { state: 'leaving' } }],
    ['size', { wish: { people: 0 } }],
    ['plan', { customer: { plan: { name: 'Skiff', mostHosts: 4, mostPeople: 100, sizes: [] } } }],
    ['plan', { customer: { plan: { name: 'Skiff', mostHosts: 40, mostPeople: 9, sizes: [] } } }],
    ['size', { customer: { plan: { name: 'Skiff', mostHosts: 40, mostPeople: 90, sizes: ['s64'] } } }],
    ['names', { spec: { naming: '{customer}-{environment}-{role}{counter:4}' } }],
    ['names', { wish: { people: 96 }, spec: { naming: '{customer}{counter:1}' } }],
    ['addresses', { customer: { block: block('10.16.0.0/29') } }],
    ['addresses', { customer: { block: undefined } }],
    ['image', { site: { images: [] } }],
    ['capacity', { site: { nodes: [{ ...node('a1', 'a'), memoryGiB: 16 }] } }],
    ['capacity', { site: { kind: 'hosted region', nodes: [], quota: { vcpu: 160, vcpuUsed: 155 } } }],
    ['credentials', { site: { signIn: { worked: false, says: 'account or secret is wrong' } } }],
    ['directory', { site: { directory: { worked: false, says: 'does not answer' } } }],
    ['size', { rates: [] }],
  ])('is blocked by %s where it should be, and says what to do', (key, over) => {
    const { checks } = blocked(over);
    const check = checks.find((one) => one.key === key);
    expect(check?.state).toBe('blocks');
    expect(check?.do).toBeTruthy();
    expect(mayBegin(checks)).toBe(false);
  });

  it('needs no node at a hosted region', () => {
    const { hosts, checks } = blocked({
      site: { kind: 'hosted region', nodes: [], quota: { vcpu: 160, vcpuUsed: 0 } },
    });
    expect(hosts[0]?.node).toBeUndefined();
    expect(mayBegin(checks)).toBe(true);
  });
});

describe('other proposals', () => {
  it('change hosts one step each', () =>
    expect(proposePower('drain', ['A', 'B']).map((step) => step.key)).toEqual(['drain:A', 'drain:B']));

  it('write what cannot be undone', () =>
    expect(
      impactLine(
        { people: 1, hosts: 1, monthly: money(-100, 'EUR'), seconds: 20, undo: 'cannot be undone' },
        (amount) => String(amount.minor),
      ),
    ).toBe('1 person · 1 host · -100 a month · about 1 min · cannot be undone'));
});

describe('a template', () => {
  it('is sound or says what is not', () => {
    expect(checkTemplate(spec)).toEqual([]);
    expect(
      checkTemplate({ ...spec, naming: 'x', concurrency: 0, ceilingFactor: 0.5, atATime: 0, items: [] }),
    ).toHaveLength(5);
  });
});
