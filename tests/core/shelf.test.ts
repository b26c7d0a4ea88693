import { describe, expect, it } from 'vitest';
import type { Facts, ReadyHost } from '../../src/core/facts';
import { mayBegin, type Proposal } from '../../src/core/planning';
import { RESOURCE_KINDS } from '../../src/core/resources';
import { carriedOut, facts, input, planOf, proposed } from './setup/facts';

const ready = (n: number, over: Partial<ReadyHost> = {}): ReadyHost => ({
  ref: `ready ${n}`,
  name: `READY-KQ-000${n}`,
  size: 's2x8',
  image: 'Ostrel 12 multi-user',
  diskGiB: 128,
  node: 'b1',
  ...over,
});
/** A customer whose plan gives so many hosts from a shelf that has these. */
const offered = (readyHosts: number, shelf: readonly ReadyHost[]): Facts => ({
  ...facts,
  customer: { ...facts.customer, plan: planOf({ hosts: 20, people: 100 }, { readyHosts }) },
  site: { ...facts.site, shelf },
});
const originsOf = (proposal: Proposal): unknown[] =>
  proposal.wanted.flatMap(({ kind, attributes }) => (kind === 'host' ? [attributes.from ?? null] : []));
const stepsOf = (proposal: Proposal, key: string): string[] =>
  proposal.steps.filter((one) => one.resource === key).map((one) => one.action);

describe('a host from the ready shelf', () => {
  const proposal = proposed('provision', input, offered(2, [ready(1), ready(2), ready(3)]));

  it('is handed out by the plan, as many as it says, the oldest first, each on the node where it stands', () => {
    expect(originsOf(proposal)).toEqual(['ready 1', 'ready 2', null, null, null]);
    const nodes = proposal.wanted.filter((one) => one.kind === 'host').map((one) => one.attributes.node);
    expect(nodes.slice(0, 2)).toEqual(['b1', 'b1']);
    expect(proposal.checks).toContainEqual(
      expect.objectContaining({
        key: 'shelf',
        state: 'passes',
        says: '2 of 5 are ready and only handed over',
      }),
    );
  });

  it('gets a name and an address of the customer’s own, and joins its directory', () => {
    const [first] = proposal.wanted.filter((one) => one.kind === 'host');
    expect(first).toMatchObject({
      name: 'SVG-OFFICE01',
      attributes: { address: '10.16.0.4', realm: 'svg.example' },
    });
    expect(stepsOf(proposal, 'host:desks:1')).toEqual(['make', 'agent', 'join', 'register', 'check']);
  });

  it('is in within a minute: what the first person needs waits for none that is still to be built', () => {
    const endOf = new Map<string, number>();
    const end = (key: string): number => {
      const step = proposal.steps.find((one) => one.key === key);
      const known = endOf.get(key);
      if (!step || known !== undefined) return known ?? 0;
      const at = step.seconds + Math.max(0, ...step.needs.map(end));
      endOf.set(key, at);
      return at;
    };
    const published = proposal.steps.find((one) => one.kind === 'publication')?.key ?? '';
    expect(end(published)).toBeLessThan(60);
    expect(end('check:host:desks:3')).toBeGreaterThan(600);
  });

  it.each<[string, number, ReadyHost[]]>([
    ['the plan gives none', 0, [ready(1)]],
    ['none is ready', 3, []],
    ['all are of another size', 3, [ready(1, { size: 's4x16' })]],
    ['all have another image', 3, [ready(1, { image: 'Ostrel Server 9' })]],
    ['all have another disk', 3, [ready(1, { diskGiB: 256 })]],
  ])('is built of its image where %s', (_why, most, shelf) => {
    const built = proposed('provision', input, offered(most, shelf));
    expect(originsOf(built)).toEqual([null, null, null, null, null]);
    expect(built.checks.some((one) => one.key === 'shelf')).toBe(false);
  });

  it('is asked for by hand when hosts are added, and by nobody else', () => {
    const standing = carriedOut(proposed('provision', input, facts), offered(2, [ready(1), ready(2)]));
    const add = (more: object) => proposed('add-hosts', { pool: 'desks', hosts: 1, ...more }, standing);
    expect(originsOf(add({ ready: true })).at(-1)).toBe('ready 1');
    expect(originsOf(add({})).at(-1)).toBeNull();
  });

  it('stays what it came of, and is of its image when it is made anew', () => {
    const standing = carriedOut(proposal, offered(2, []));
    expect(originsOf(proposed('add-hosts', { pool: 'desks', hosts: 1 }, standing)).slice(0, 3)).toEqual([
      'ready 1',
      'ready 2',
      null,
    ]);
    const host = RESOURCE_KINDS.find((one) => one.key === 'host');
    const wanted = proposal.wanted.find((one) => one.key === 'host:desks:1');
    if (!host || !wanted) throw new Error('there is no host');
    const anew = host.steps({ do: 'replace', wanted, differences: [], people: 0 }, proposal.policy);
    expect(anew.find((one) => one.action === 'make')?.seconds).toBeGreaterThan(300);
  });

  it('takes no room that it did not take already', () => {
    const quota = { vcpu: 100, vcpuUsed: 98 };
    const region = (readyHosts: number): Facts => {
      const from = offered(
        readyHosts,
        [1, 2, 3, 4, 5].map((n) => ready(n, { node: null })),
      );
      return { ...from, site: { ...from.site, kind: 'hosted region', nodes: [], quota } };
    };
    expect(mayBegin(proposed('provision', input, region(5)).checks)).toBe(true);
    expect(mayBegin(proposed('provision', input, region(2)).checks)).toBe(false);
  });
});

describe('a ready shelf', () => {
  const ours: Facts = { ...facts, customer: { ...facts.customer, code: 'MSP', realm: '', environments: [] } };
  const asked = {
    site: 'KQ',
    image: 'Ostrel 12 multi-user',
    size: 's2x8',
    diskGiB: 128,
    hosts: 2,
    most: '200.00',
  };
  const proposal = proposed('stock-shelf', asked, ours);

  it('is hosts in a network of our own that nobody signs in to: no directory, no share, nothing published', () => {
    expect(new Set(proposal.wanted.map((one) => one.kind))).toEqual(
      new Set(['network', 'subnet', 'pool', 'host']),
    );
    expect(stepsOf(proposal, 'host:ready:1')).toEqual(['make', 'agent', 'register', 'check']);
    expect(proposal.wanted.filter((one) => one.kind === 'host').map((one) => one.name)).toEqual([
      'READY-KQ-0001',
      'READY-KQ-0002',
    ]);
  });

  it.each([
    ['most', { most: '12,50' }, 'write it like 120.00'],
    ['size', { size: 's9' }, 'is not had at Kelp Quay'],
    ['hosts', { hosts: 201 }, 'must be less than or equal to 200'],
  ])('is refused beside %s', (field, over, says) =>
    expect(proposed('stock-shelf', { ...asked, ...over }, ours).refused?.[field]).toContain(says),
  );

  it('is told apart from what else is our own', () => {
    const services = carriedOut(proposed('provide-services', { site: 'KQ' }, ours), ours);
    expect(proposed('change-stock', { hosts: 1, most: null }, services).refused).toEqual({
      environment: 'is no ready shelf',
    });
  });

  it('takes a server made by hand: looked at, brought up, restarted, and only then ready', () => {
    const standing = carriedOut(proposal, ours);
    const strays = [ready(9, { ref: 'by hand', name: 'OLD-SERVER', diskGiB: 200, node: 'a1' })];
    const from = { ...standing, site: { ...standing.site, strays } };
    const shelved = proposed('shelve', { server: 'by hand' }, from);
    expect(shelved.title).toBe('Put OLD-SERVER on the shelf');
    expect(stepsOf(shelved, 'host:ready:3')).toEqual([
      'make',
      'look',
      'agent',
      'bring-up',
      'restart',
      'register',
      'check',
    ]);
    expect(shelved.wanted.find((one) => one.key === 'host:ready:3')?.attributes).toMatchObject({
      from: 'by hand',
      diskGiB: 200,
      node: 'a1',
    });
    expect(proposed('shelve', { server: 'another' }, from).refused).toEqual({
      server: 'is no server at Kelp Quay that nobody owns',
    });
  });
});
