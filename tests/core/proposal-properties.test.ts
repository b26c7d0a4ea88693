import { isDeepStrictEqual } from 'node:util';
import fc from 'fast-check';
import ipaddr from 'ipaddr.js';
import { describe, expect, it } from 'vitest';
import { parseBlock, type Block } from '../../src/core/addressing';
import { sizePools, type ProvisionInput } from '../../src/core/changes';
import type { Facts } from '../../src/core/facts';
import { compare, mayBegin, schedule, type Proposal } from '../../src/core/planning';
import { NO_AMOUNTS } from '../../src/core/plans';
import { RESOURCE_KINDS } from '../../src/core/resources';
import type { Alternative } from '../../src/core/sizing';
import type { TemplateDocument } from '../../src/core/templates';
import { carriedOut, hostsOf, planOf, poolSpec, proposed, spec, type HostSeen } from './setup/facts';
import { runs } from './setup/runs';

/* What holds of every proposal, whatever the wish and the ground. */

const block = (text: string): Block => {
  const read = parseBlock(text);
  if (!read.ok) throw new Error(read.problem);
  return read.value;
};

const SIZES = [
  { key: 's2x4', vcpu: 2, memoryGiB: 4 },
  { key: 's2x8', vcpu: 2, memoryGiB: 8 },
  { key: 's4x16', vcpu: 4, memoryGiB: 16 },
  { key: 's8x32', vcpu: 8, memoryGiB: 32 },
];
const PRICES = ['0.031', '0.066', '0.132', '0.264'];

const document: TemplateDocument = {
  ...spec,
  naming: '{customer}-{environment}{counter:3}',
  pools: [{ ...poolSpec, concurrency: 0.85 }],
};

const wishes: fc.Arbitrary<ProvisionInput> = fc
  .record({
    environment: fc.constantFrom('a', 'office', 'wards'),
    people: fc.integer({ min: 0, max: 400 }),
    profile: fc.constantFrom('light' as const, 'standard' as const, 'heavy' as const, 'graphics' as const),
  })
  .map(({ environment, people, profile }) => ({
    environment,
    people,
    template: 'shared-office',
    site: 'KQ',
    pools: [{ role: 'desks', profile }],
  }));

const grounds: fc.Arbitrary<Facts> = fc
  .record({
    nodes: fc.integer({ min: 0, max: 6 }),
    memoryGiB: fc.integer({ min: 16, max: 512 }),
    hosted: fc.boolean(),
    taken: fc.uniqueArray(fc.integer({ min: 1, max: 60 }), { maxLength: 30 }),
    mostHosts: fc.integer({ min: 1, max: 200 }),
    prefix: fc.integer({ min: 20, max: 27 }),
    subnets: fc.integer({ min: 0, max: 3 }),
    reserved: fc.integer({ min: 3, max: 8 }),
    sizes: fc.integer({ min: 1, max: 4 }),
  })
  .map((is) => ({
    now: Date.UTC(2026, 10, 24),
    template: { code: 'shared-office', revision: 1, document },
    known: [],
    present: [],
    rates: [
      ...SIZES.map((size, n) => ({
        meter: 'host' as const,
        size: size.key,
        unit: 'hour' as const,
        price: PRICES[n] ?? '1',
        from: 0,
        to: null,
      })),
      ...(['disk', 'share', 'licence'] as const).map((meter) => ({
        meter,
        size: null,
        unit: 'month' as const,
        price: '0.07',
        from: 0,
        to: null,
      })),
    ],
    customer: {
      code: 'SVG',
      currency: 'EUR',
      zone: 'Europe/Dublin',
      state: 'active',
      realm: 'svg.example',
      naming: '',
      plan: planOf({ hosts: is.mostHosts, people: 400 }),
      takes: { ...NO_AMOUNTS, hosts: is.taken.length },
      people: 400,
      block: block(`10.16.0.0/${is.prefix}`),
      taken: {
        subnet: Array.from({ length: is.subnets }, (_, n) => `10.16.0.${n * 16}/28`),
        name: is.taken.map((n) => `svg-office${String(n).padStart(3, '0')}`),
      },
      environments: [],
      nameServers: [],
    },
    site: {
      code: 'KQ',
      name: 'Kelp Quay',
      kind: is.hosted ? ('hosted region' as const) : ('own nodes' as const),
      reservedAddresses: is.reserved,
      sizes: SIZES.slice(0, is.sizes),
      images: [{ name: 'Ostrel 12 multi-user', diskGiB: 64 }],
      nodes: is.hosted
        ? []
        : Array.from({ length: is.nodes }, (_, n) => ({
            id: `n${n}`,
            zone: n % 2 === 0 ? 'a' : 'b',
            vcpu: 128,
            memoryGiB: is.memoryGiB,
            diskGiB: 8_000,
          })),
      present: [],
      quota: is.hosted ? { vcpu: 160, vcpuUsed: 40 } : undefined,
      signIn: { worked: true, says: 'signed in' },
      directory: { worked: true, says: 'answers' },
    },
  }));

interface Seen extends Proposal {
  readonly hosts: readonly HostSeen[];
  readonly chosen: Alternative | undefined;
  readonly subnet: string | undefined;
}

function seen(wish: ProvisionInput, ground: Facts): Seen {
  const proposal = proposed('provision', wish, ground);
  const subnet = proposal.wanted.find((one) => one.kind === 'subnet')?.attributes.cidr;
  return {
    ...proposal,
    hosts: hostsOf(proposal).filter((host) => host.name !== '' && host.address !== ''),
    chosen: sizePools(wish, ground)[0]?.chosen,
    subnet: typeof subnet === 'string' && subnet !== '' ? subnet : undefined,
  };
}

const finishTime = (proposal: Proposal, limit: number): number => {
  const result = schedule(proposal.steps, limit);
  if (!result.ok) throw new Error(result.problem);
  return result.value.finish;
};

const everyProposal = (check: (proposal: Seen, wish: ProvisionInput, ground: Facts) => void): void =>
  fc.assert(
    fc.property(wishes, grounds, (wish, ground) => {
      check(seen(wish, ground), wish, ground);
    }),
    { numRuns: runs(300) },
  );

describe('every proposal', () => {
  it('names each host once, legally, and by no name in use', () =>
    everyProposal(({ hosts }, _wish, ground) => {
      const names = hosts.map((host) => host.name.toLowerCase());
      expect(new Set(names).size).toBe(names.length);
      for (const name of names) {
        // RFC 1123, and the 15 characters of RFC 1001/1002.
        expect(name).toMatch(/^[a-z0-9]([a-z0-9-]{0,13}[a-z0-9])?$/);
        expect(ground.customer.taken.name).not.toContain(name);
      }
    }));

  it('gives each host an address of its own, in the subnet, off the reserved ones and off other subnets', () =>
    everyProposal(({ hosts, subnet }, _wish, ground) => {
      if (subnet === undefined) return;
      const [base, bits] = ipaddr.IPv4.parseCIDR(subnet);
      const own = hosts.map((host) => host.address);
      expect(new Set(own).size).toBe(own.length);
      const lastByte = (address: ipaddr.IPv4): number =>
        address.octets.reduce((sum, octet) => sum * 256 + octet, 0);
      const last = lastByte(base) + 2 ** (32 - bits) - 1;
      for (const text of own) {
        const address = ipaddr.IPv4.parse(text);
        expect(address.match(base, bits)).toBe(true);
        expect(address.range()).toBe('private');
        expect(lastByte(address)).not.toBe(last);
        for (const other of (ground.customer.taken.subnet ?? []).map(block))
          expect(address.match(ipaddr.IPv4.parse(writtenBase(other)), other.prefix)).toBe(false);
      }
    }));

  it('puts no more on a node than it holds, nor more into a quota', () =>
    everyProposal(({ hosts, chosen, checks }, _wish, ground) => {
      if (!chosen) return;
      for (const node of ground.site.nodes) {
        const there = hosts.filter((host) => host.node === node.id).length;
        expect(there * chosen.size.memoryGiB).toBeLessThanOrEqual(node.memoryGiB);
        expect(there * chosen.size.vcpu).toBeLessThanOrEqual(node.vcpu);
      }
      const { quota } = ground.site;
      if (quota && mayBegin(checks))
        expect(quota.vcpuUsed + hosts.length * chosen.size.vcpu).toBeLessThanOrEqual(quota.vcpu);
    }));

  it('costs what its lines cost', () =>
    everyProposal(({ cost, monthly, impact }) => {
      expect(cost.reduce((sum, line) => sum + line.amount.minor, 0)).toBe(monthly.minor);
      expect(impact.monthly).toEqual(monthly);
      expect(cost.every((line) => line.amount.minor >= 0)).toBe(true);
    }));

  it('seats everyone who is in at the busiest moment, also with one host lost where it says so', () =>
    everyProposal(({ chosen }, wish) => {
      if (!chosen) return;
      const busiest = Math.ceil(wish.people * 0.85 - 1e-9);
      expect(chosen.hosts * chosen.seats).toBeGreaterThanOrEqual(busiest);
      if (chosen.keepsOneSpare) expect((chosen.hosts - 1) * chosen.seats).toBeGreaterThanOrEqual(busiest);
    }));

  it('that may begin has every host named, addressed and placed, and a step for each', () =>
    everyProposal(({ hosts, chosen, checks, steps, subnet }, _wish, ground) => {
      if (!mayBegin(checks)) return;
      expect(hosts).toHaveLength(chosen?.hosts ?? -1);
      expect(subnet).toBeDefined();
      if (ground.site.kind === 'own nodes') expect(hosts.every((host) => host.node !== null)).toBe(true);
      expect(
        steps.filter((step) => step.kind === 'host' && step.action === 'make').map((step) => step.subject),
      ).toEqual(hosts.map((host) => host.name));
      expect(ground.customer.takes.hosts + hosts.length).toBeLessThanOrEqual(
        ground.customer.plan.most.hosts ?? 0,
      );
    }));

  it('that may not begin says what to do', () =>
    everyProposal(({ checks }) => {
      for (const check of checks.filter((one) => one.state !== 'passes')) {
        expect(check.says).not.toBe('');
        expect(check.do ?? '').not.toBe('');
      }
    }));

  it('takes no less time with fewer hands, and ends', () =>
    everyProposal((proposal) => {
      expect(finishTime(proposal, 1)).toBeGreaterThanOrEqual(proposal.seconds);
      expect(Number.isFinite(proposal.seconds)).toBe(true);
      expect(finishTime(proposal, 1_000)).toBeLessThanOrEqual(proposal.seconds + 1e-9);
    }));

  it('is the same for the same wish and facts', () =>
    everyProposal((proposal, wish, ground) => {
      const again = seen(wish, ground);
      // Told apart at length only where they differ: that takes ten times as long.
      if (!isDeepStrictEqual(again, proposal)) expect(again).toEqual(proposal);
    }));

  it('once carried out leaves nothing that differs; retired, everything goes, each after what stands on it', () =>
    everyProposal((proposal, _wish, ground) => {
      if (!mayBegin(proposal.checks)) return;
      const after = carriedOut(proposal, ground);
      expect(compare(RESOURCE_KINDS, after)).toEqual([]);
      const retired = proposed('retire', {}, after);
      const order = new Map(retired.steps.map((step, n) => [step.key, n]));
      const result = schedule(retired.steps, 1);
      expect(result.ok).toBe(true);
      expect(order.size).toBe(retired.steps.length);
      expect(retired.monthly.minor).toBe(-proposal.monthly.minor);
      expect(retired.tasks.map((task) => task.key).sort()).toEqual(
        proposal.wanted.map((one) => one.key).sort(),
      );
    }));
});

/** A block's base as dotted text, by ipaddr.js rather than by our own writing. */
function writtenBase({ base }: Block): string {
  return ipaddr.fromByteArray([24, 16, 8, 0].map((bits) => Math.floor(base / 2 ** bits) % 256)).toString();
}
