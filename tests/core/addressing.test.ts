import fc from 'fast-check';
import ipaddr from 'ipaddr.js';
import { describe, expect, it } from 'vitest';
import {
  bestFit,
  contains,
  fragmentation,
  freeBlocks,
  growBlock,
  hostAddresses,
  isPrivate,
  lastOf,
  overlaps,
  parseBlock,
  planSubnet,
  prefixFor,
  sizeOf,
  spaceLeft,
  writeAddress,
  writeBlock,
  type Block,
} from '../../src/core/addressing';
import { runs } from './setup/runs';

const block = (text: string): Block => {
  const read = parseBlock(text);
  if (!read.ok) throw new Error(read.problem);
  return read.value;
};

const anyBlock = fc
  .record({ address: fc.integer({ min: 0, max: 2 ** 32 - 1 }), prefix: fc.integer({ min: 0, max: 32 }) })
  .map(({ address, prefix }): Block => ({ base: address - (address % 2 ** (32 - prefix)), prefix }));

const inside = (range: Block) =>
  fc
    .record({
      offset: fc.integer({ min: 0, max: sizeOf(range) - 1 }),
      prefix: fc.integer({ min: range.prefix, max: 32 }),
    })
    .map(({ offset, prefix }): Block => ({
      base: range.base + offset - (offset % 2 ** (32 - prefix)),
      prefix,
    }));

describe('blocks', () => {
  // The table of RFC 4632 section 3.1: addresses of a prefix.
  it.each([
    ['10.0.0.0/8', 16_777_216],
    ['10.1.0.0/16', 65_536],
    ['10.1.0.0/20', 4_096],
    ['10.1.2.0/24', 256],
    ['10.1.2.4/30', 4],
    ['10.1.2.4/32', 1],
  ])('%s has %i addresses', (text, size) => expect(sizeOf(block(text))).toBe(size));

  // RFC 4632 section 3.1: a prefix's base has no bits set beyond it.
  it('refuses a base that is not on the boundary', () => expect(parseBlock('10.24.16.0/12').ok).toBe(false));

  it.each(['10.0.0.0', '10.0.0.0/33', '256.0.0.0/8', '10.0.0/24', '10.00.0.0/8', '', 'ten/8'])(
    'refuses "%s"',
    (text) => expect(parseBlock(text).ok).toBe(false),
  );

  // RFC 1918 section 3.
  it.each([
    ['10.0.0.0/8', true],
    ['172.16.0.0/12', true],
    ['172.32.0.0/16', false],
    ['192.168.0.0/16', true],
    ['192.169.0.0/24', false],
    ['10.0.0.0/7', false],
  ])('%s private: %s', (text, wanted) => {
    const read = parseBlock(text);
    expect(read.ok && isPrivate(read.value)).toBe(wanted);
  });

  it('agrees with ipaddr.js on the first and last address, and on what it reads', () => {
    fc.assert(
      fc.property(anyBlock, (one) => {
        const text = writeBlock(one);
        expect(parseBlock(text)).toEqual({ ok: true, value: one });
        expect(ipaddr.IPv4.networkAddressFromCIDR(text).toString()).toBe(writeAddress(one.base));
        expect(ipaddr.IPv4.broadcastAddressFromCIDR(text).toString()).toBe(writeAddress(lastOf(one)));
      }),
    );
  });

  it('agrees with ipaddr.js on containment', () => {
    fc.assert(
      fc.property(anyBlock, anyBlock, (a, b) => {
        const [base, prefix] = ipaddr.parseCIDR(writeBlock(a));
        const first = ipaddr.parse(writeAddress(b.base)).match(base, prefix);
        expect(contains(a, b)).toBe(first && b.prefix >= a.prefix);
        expect(overlaps(a, b)).toBe(contains(a, b) || contains(b, a));
      }),
    );
  });
});

describe('free space', () => {
  const range = block('10.0.0.0/20');

  it('is exactly what no taken block holds', () => {
    fc.assert(
      fc.property(fc.array(inside(range), { maxLength: 12 }), (taken) => {
        const free = freeBlocks(range, taken);
        for (const one of free) expect(taken.some((other) => overlaps(one, other))).toBe(false);
        const covered = new Set<number>();
        for (const one of taken) for (let a = one.base; a <= lastOf(one); a++) covered.add(a);
        expect(free.reduce((sum, one) => sum + sizeOf(one), 0) + covered.size).toBe(sizeOf(range));
      }),
      { numRuns: runs(60) },
    );
  });

  it('is never given twice, however much is asked for', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 22, max: 30 }), { maxLength: 40 }), (prefixes) => {
        const given: Block[] = [];
        for (const prefix of prefixes) {
          const next = bestFit([range], given, prefix);
          if (!next) continue;
          expect(contains(range, next)).toBe(true);
          expect(next.base % sizeOf(next)).toBe(0);
          for (const other of given) expect(overlaps(next, other)).toBe(false);
          given.push(next);
        }
      }),
    );
  });

  it('is given from the smallest block that fits, so that large ones stay whole', () => {
    const taken = [block('10.0.0.0/24'), block('10.0.1.0/25')];
    expect(writeBlock(bestFit([range], taken, 26) ?? range)).toBe('10.0.1.128/26');
  });

  it('is refused when no block is large enough though the sum would be', () => {
    const taken = Array.from({ length: 8 }, (_, i) => block(`10.0.${i * 2}.0/24`));
    expect(bestFit([range], taken, 23)).toBeUndefined();
    expect(fragmentation(freeBlocks(range, taken))).toBeCloseTo(7 / 8);
  });

  it('is what is left of a range: taken and free sum to the whole, and the largest free block is free', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 0, max: 63 }), { maxLength: 40 }), (places) => {
        const range = block('10.0.0.0/18');
        const taken = places.map((n) => block(`10.0.${n}.0/24`));
        const left = spaceLeft(range, taken);
        expect(left.total).toBe(2 ** 14);
        expect(left.taken).toBe(places.length * 256);
        if (!left.largest) return expect(places).toHaveLength(64);
        for (const one of taken) expect(overlaps(left.largest, one)).toBe(false);
        for (const free of freeBlocks(range, taken))
          expect(sizeOf(free)).toBeLessThanOrEqual(sizeOf(left.largest));
        return undefined;
      }),
    );
    expect(spaceLeft(block('10.0.0.0/24'), [block('10.0.0.0/16')])).toEqual({
      total: 256,
      taken: 256,
      largest: undefined,
      fragmentation: 0,
    });
  });

  it('is not scattered when it is one block or none', () => {
    expect(fragmentation([range])).toBe(0);
    expect(fragmentation([])).toBe(0);
  });
});

describe('subnets', () => {
  // Common practice, no source: a network of /16 with first subnets of /24.
  it('begins a /16 with a /24 for 200 hosts', () => {
    const plan = planSubnet(block('10.1.0.0/16'), [], 200, 5);
    expect(plan.ok && writeBlock(plan.value.subnet)).toBe('10.1.0.0/24');
    expect(plan.ok && plan.value.room).toBe(251);
  });

  it.each([
    [1, 32],
    [2, 31],
    [250, 24],
    [256, 24],
    [257, 23],
  ])('%i addresses need a /%i', (addresses, prefix) => expect(prefixFor(addresses)).toBe(prefix));

  it('keeps the reserved addresses and the broadcast address free', () => {
    const found = hostAddresses(block('10.0.0.0/28'), 5, new Set(), 100).map(writeAddress);
    expect(found).toHaveLength(11);
    expect(found[0]).toBe('10.0.0.4');
    expect(found.at(-1)).toBe('10.0.0.14');
  });
});

describe('a block that grows', () => {
  const range = block('10.16.0.0/12');
  it('becomes the aligned block of twice its size that holds it', () => {
    // 10.16.16.0 is no multiple of a /19's 8192 addresses: the block that holds it begins at 10.16.0.0.
    for (const [small, large] of [
      ['10.16.0.0/20', '10.16.0.0/19'],
      ['10.16.16.0/20', '10.16.0.0/19'],
      ['10.31.240.0/20', '10.31.224.0/19'],
    ] as const) {
      const grown = growBlock(block(small), range, []);
      expect(grown.ok && writeBlock(grown.value)).toBe(large);
      expect(ipaddr.parse(small.split('/')[0] ?? '').match(ipaddr.parseCIDR(large))).toBe(true);
    }
  });

  it('does not over what another holds, nor out of its range', () => {
    const refused = growBlock(block('10.16.0.0/20'), range, [block('10.16.24.0/22')]);
    expect(refused).toEqual({ ok: false, problem: '10.16.24.0/22 is in the way of 10.16.0.0/19' });
    expect(growBlock(block('10.16.0.0/20'), range, [block('10.16.32.0/20')]).ok).toBe(true);
    expect(growBlock(range, range, []).ok).toBe(false);
    expect(growBlock(block('0.0.0.0/0'), block('0.0.0.0/0'), []).ok).toBe(false);
  });
});
