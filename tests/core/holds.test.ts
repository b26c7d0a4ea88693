import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { overlaps } from '../../src/core/addressing';
import type { Facts } from '../../src/core/facts';
import { takenOf, takesOf, withKept, type Proposal, type Takes } from '../../src/core/planning';
import { NO_LIMITS } from '../../src/core/plans';
import { RESOURCE_KINDS } from '../../src/core/resources';
import { block, carriedOut, facts, proposed } from './setup/facts';
import { sized } from './situations/standing';

const roomy: Facts = {
  ...facts,
  customer: { ...facts.customer, plan: { ...facts.customer.plan, most: NO_LIMITS } },
};
const provision = (environment: string, people: number, from: Facts): Proposal =>
  proposed('provision', { environment, template: 'shared-office', site: 'KQ', people }, from);
const takes = (proposal: Proposal, from: Facts): Takes => takesOf(RESOURCE_KINDS, from, proposal);
const hostsOf = (proposal: Proposal) => proposal.wanted.filter((one) => one.kind === 'host');

describe('what a held proposal keeps', () => {
  it('is nothing that another proposal of the customer gets, and no node is counted on twice', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 1, max: 300 }), (one, other) => {
        const first = provision('alder', one, roomy);
        const kept = takes(first, roomy);
        const second = provision('birch', other, withKept(roomy, [{ own: true, takes: kept }]));
        const third = takes(second, roomy);
        expect(takenOf(kept, 'name').filter((name) => takenOf(third, 'name').includes(name))).toEqual([]);
        expect(
          takenOf(kept, 'address').filter((address) => takenOf(third, 'address').includes(address)),
        ).toEqual([]);
        for (const a of takenOf(kept, 'subnet'))
          for (const b of takenOf(third, 'subnet')) expect(overlaps(block(a), block(b))).toBe(false);
        for (const { id, vcpu, memoryGiB } of roomy.site.nodes) {
          const on = [...kept.placed, ...third.placed].filter((placed) => placed.node === id);
          expect(on.reduce((sum, placed) => sum + placed.vcpu, 0)).toBeLessThanOrEqual(vcpu);
          expect(on.reduce((sum, placed) => sum + placed.memoryGiB, 0)).toBeLessThanOrEqual(memoryGiB);
        }
      }),
      { numRuns: 40 },
    ));

  it('is what the proposal wants, no more and no less', () => {
    const proposal = provision('alder', 24, roomy);
    const kept = takes(proposal, roomy);
    expect(takenOf(kept, 'name')).toEqual(hostsOf(proposal).map((one) => one.name));
    expect(takenOf(kept, 'address')).toEqual(hostsOf(proposal).map((one) => one.attributes.address));
    expect(kept.placed).toHaveLength(hostsOf(proposal).length);
    expect(kept.amounts.hosts).toBe(hostsOf(proposal).length);
    expect([kept.block, kept.environment]).toEqual(['10.16.0.0/20', 'alder']);
    expect(takenOf(kept, 'subnet')).toEqual(
      proposal.wanted.filter((one) => one.kind === 'subnet').map((one) => one.attributes.cidr),
    );
    expect(new Set(kept.placed.map(({ customer, pool }) => `${customer}, ${pool}`))).toEqual(
      new Set(['SVG, SVG/desks']),
    );
    expect(takenOf(kept, 'ready')).toEqual([]);
  });

  it('is its environment’s name too: a second one is not called the same', () => {
    const kept = takes(provision('alder', 24, roomy), roomy);
    const { checks } = provision('alder', 24, withKept(roomy, [{ own: true, takes: kept }]));
    expect(checks.find((one) => one.key === 'name')?.state).toBe('blocks');
  });

  it('is, of what stands, only what is more of it', () => {
    const standing = carriedOut(provision('alder', 24, roomy), roomy);
    const grown = proposed('add-hosts', { pool: 'desks', hosts: 2 }, standing);
    const kept = takes(grown, standing);
    expect([
      takenOf(kept, 'name').length,
      takenOf(kept, 'address').length,
      kept.placed.length,
      takenOf(kept, 'subnet').length,
    ]).toEqual([2, 2, 2, 0]);
    expect([kept.amounts.hosts, kept.block]).toEqual([2, null]);
    const disk = takes(proposed('grow-disk', { pool: 'desks', diskGiB: 256 }, standing), standing);
    expect(takenOf(disk, 'name')).toEqual([]);
    expect(
      new Set(disk.placed.map(({ vcpu, memoryGiB, diskGiB }) => `${vcpu} ${memoryGiB} ${diskGiB}`)),
    ).toEqual(new Set(['0 0 128']));
    expect(
      takes(proposed('power-off', { hosts: ['id of host:desks:1'] }, standing), standing).placed,
    ).toEqual([]);
  });

  it('is no block, no name of an environment and no subnet where nothing is made', () => {
    const standing = carriedOut(provision('alder', 24, roomy), roomy);
    const disk = takes(proposed('grow-disk', { pool: 'desks', diskGiB: 256 }, standing), standing);
    expect([disk.block, disk.environment, takenOf(disk, 'subnet')]).toEqual([null, null, []]);
    const gone = takes(proposed('retire', {}, standing), standing);
    expect([gone.block, gone.environment, gone.placed, takenOf(gone, 'name')]).toEqual([null, null, [], []]);
    expect(gone.amounts.hosts).toBeLessThan(0);
  });

  it('is the memory too that hosts come to have more', () => {
    const larger = takes(proposed('resize', { pool: 'desks', size: 's4x16' }, sized), sized);
    expect(larger.placed.length).toBeGreaterThan(0);
    for (const { vcpu, memoryGiB, diskGiB } of larger.placed)
      expect([vcpu, memoryGiB, diskGiB]).toEqual([2, 8, 0]);
  });

  it('is that too of a host that came from the ready shelf once, and is counted in a quota', () => {
    const region: Facts = {
      ...sized,
      site: { ...sized.site, kind: 'hosted region', nodes: [], quota: { vcpu: 20, vcpuUsed: 10 } },
    };
    const shelved = (from: Facts): Facts => ({
      ...from,
      known: from.known.map((one) =>
        one.kind === 'host' ? { ...one, attributes: { ...one.attributes, from: `vm of ${one.key}` } } : one,
      ),
    });
    const larger = (from: Facts) => proposed('resize', { pool: 'desks', size: 's4x16' }, from);
    expect(takes(larger(shelved(sized)), shelved(sized)).placed).toEqual(takes(larger(sized), sized).placed);
    const capacity = (from: Facts) => larger(from).checks.find(({ key }) => key === 'capacity')?.says;
    expect(capacity(region)).toBe('10 of 10 free vCPU');
    expect(capacity(shelved(region))).toBe('10 of 10 free vCPU');
  });

  it('is all of a host that comes to stand on another node: what it had is taken until it has moved', () => {
    const { wanted, intent } = proposed('resize', { pool: 'desks', size: 's4x16' }, sized);
    const moved = wanted.map((one) =>
      one.key === 'host:desks:1'
        ? { ...one, attributes: { ...one.attributes, node: one.attributes.node === 'a1' ? 'b1' : 'a1' } }
        : one,
    );
    const placed = takesOf(RESOURCE_KINDS, sized, { intent, wanted: moved }).placed;
    const name = wanted.find((one) => one.key === 'host:desks:1')?.name;
    expect(placed.find(({ id }) => id === name)).toMatchObject({ vcpu: 4, memoryGiB: 16 });
  });

  it('counts against the plan with all but its people, who are the environment’s own', () => {
    const kept = takes(provision('alder', 24, roomy), roomy);
    const { takes: before } = roomy.customer;
    const seen = withKept(roomy, [{ own: true, takes: kept }]);
    expect(seen.customer.takes).toEqual({
      people: before.people,
      hosts: before.hosts + kept.amounts.hosts,
      vcpu: before.vcpu + kept.amounts.vcpu,
      memoryGiB: before.memoryGiB + kept.amounts.memoryGiB,
      storageGiB: before.storageGiB + kept.amounts.storageGiB,
      personal: before.personal,
    });
    expect(
      seen.site.present.filter(({ id }) => takenOf(kept, 'name').some((name) => id.endsWith(name))),
    ).toHaveLength(kept.placed.length);
    expect(withKept(roomy, [])).toBe(roomy);
  });

  it('leaves an address that is kept in a subnet that stands alone', () => {
    const standing = carriedOut(provision('alder', 24, roomy), roomy);
    const first = takes(proposed('add-hosts', { pool: 'desks', hosts: 2 }, standing), standing);
    const other = proposed(
      'add-hosts',
      { pool: 'desks', hosts: 2 },
      withKept(standing, [{ own: true, takes: first }]),
    );
    expect(
      takenOf(takes(other, standing), 'address').filter((one) => takenOf(first, 'address').includes(one)),
    ).toEqual([]);
  });

  it('of another customer is room alone: no name of theirs, and no plan', () => {
    const kept = takes(provision('alder', 24, roomy), roomy);
    const seen = withKept(roomy, [{ own: false, takes: kept }]);
    expect(seen.customer).toEqual(roomy.customer);
    expect(JSON.stringify(seen.site.present)).not.toContain('SVG');
    expect(seen.site.present.reduce((sum, one) => sum + one.vcpu, 0)).toBe(
      kept.placed.reduce((sum, one) => sum + one.vcpu, 0),
    );
  });

  it('counts against a quota, and takes what is ready from the shelf', () => {
    const host = { name: 'READY-1', size: 's2x8', image: 'Ostrel 12 multi-user', diskGiB: 128, node: null };
    const region: Facts = {
      ...roomy,
      customer: { ...roomy.customer, plan: { ...roomy.customer.plan, readyHosts: 1 } },
      site: {
        ...roomy.site,
        kind: 'hosted region',
        nodes: [],
        quota: { vcpu: 100, vcpuUsed: 10 },
        shelf: [
          { ref: 'r1', ...host },
          { ref: 'r2', ...host },
        ],
      },
    };
    const kept = takes(provision('alder', 12, region), region);
    expect(takenOf(kept, 'ready')).toEqual(['r1']);
    const left = withKept(region, [{ own: false, takes: kept }]).site;
    expect(left.shelf?.map((one) => one.ref)).toEqual(['r2']);
    // What is ready stands already: it takes no more of the quota.
    expect(left.quota?.vcpuUsed).toBe(10 + 2 * (takenOf(kept, 'name').length - 1));
  });
});
