import { describe, expect, it } from 'vitest';
import {
  place,
  roomOn,
  sessionHost,
  volumeBound,
  type HostNeed,
  type Node,
  type Placed,
} from '../../src/core/placement';

/*
 * Where hosts go, in many situations that are loose, tight and too tight, with hosts of several pools, zones, nodes of one's
 * own and nodes that are down: looked at by a person, kept in expected/placements.txt, and held against from then on. That
 * no node is overfilled and none is left that fits, tests/reference/placement.test.ts holds against an exact solver.
 */

/** The same numbers each time (Lehmer's generator, Park and Miller 1988). */
function numbers(seed: number): (most: number) => number {
  let state = seed;
  return (most) => {
    state = (state * 48_271) % 2_147_483_647;
    return state % most;
  };
}

interface Situation {
  readonly hosts: readonly HostNeed[];
  readonly nodes: readonly Node[];
  readonly present: readonly Placed[];
}

function situation(seed: number): Situation {
  const next = numbers(seed * 7_919 + 1);
  const nodes = Array.from({ length: 2 + next(4) }, (_, n): Node => ({
    id: `n${n + 1}`,
    zone: `z${next(3)}`,
    vcpu: 8 + 4 * next(4),
    memoryGiB: 32 + 16 * next(3),
    diskGiB: 400 + 200 * next(3),
    dedicatedTo: next(7) === 0 ? 'ABC' : undefined,
    ...(next(11) === 0 ? { isDown: true } : {}),
  }));
  const need = (n: number, prefix: string): HostNeed => ({
    id: `${prefix}${n}`,
    customer: next(5) === 0 ? 'ABC' : 'SVG',
    pool: `p${next(2)}`,
    vcpu: 1 + next(7),
    memoryGiB: 2 * (1 + next(14)),
    diskGiB: 20 * (1 + next(9)),
  });
  return {
    nodes,
    hosts: Array.from({ length: 4 + next(9) }, (_, n) => need(n + 1, 'h')),
    present: Array.from({ length: next(4) }, (_, n) => ({
      ...need(n + 1, 'there'),
      vcpu: 1 + next(3),
      memoryGiB: 4,
      diskGiB: 40,
      node: nodes[next(nodes.length)]?.id ?? '',
    })),
  };
}

describe('where hosts go', () => {
  it('is as it was read and found right', async () => {
    const told = Array.from({ length: 120 }, (_, seed) => {
      const { hosts, nodes, present } = situation(seed);
      return (['spread', 'pack'] as const).map((how) => {
        const { placed, left } = place(hosts, nodes, present, how);
        const on = nodes.map(
          (node) =>
            `${node.id}: ${placed
              .filter((one) => one.node === node.id)
              .map((one) => one.id)
              .join(' ')}`,
        );
        const why = left.map(({ host, why: says }) => `${host.id} left, ${says}`);
        return `${seed} ${how} | ${[...on, ...why].join(' | ')}`;
      });
    }).flat();
    await expect(`${told.join('\n')}\n`).toMatchFileSnapshot('./expected/placements.txt');
  });

  it('fills no node past what it has, and leaves no host out that a node has room for', () => {
    for (let seed = 0; seed < 400; seed++) {
      const { hosts, nodes, present } = situation(seed);
      for (const how of ['spread', 'pack'] as const) {
        const { placed, left } = place(hosts, nodes, present, how);
        expect(placed.length + left.length).toBe(hosts.length);
        for (const { free, id } of roomOn(nodes, [...present, ...placed])) {
          if (placed.some((one) => one.node === id))
            expect(Math.min(free.vcpu, free.memoryGiB, free.diskGiB)).toBeGreaterThanOrEqual(0);
        }
        for (const one of placed) {
          const node = nodes.find((each) => each.id === one.node);
          expect(node?.isDown).not.toBe(true);
          const own = nodes.some((each) => each.dedicatedTo === one.customer);
          expect(node?.dedicatedTo).toBe(own ? one.customer : undefined);
        }
      }
    }
  });

  it('is next to those of other pools rather than of its own: zones first, then nodes, then the fuller one', () => {
    const node = (id: string, zone: string): Node => ({
      id,
      zone,
      vcpu: 16,
      memoryGiB: 64,
      diskGiB: 1_000,
      dedicatedTo: undefined,
    });
    const nodes = [node('a1', 'a'), node('a2', 'a'), node('b1', 'b')];
    const host = (id: string, pool = 'p', memoryGiB = 4): HostNeed => ({
      id,
      customer: 'SVG',
      pool,
      vcpu: 1,
      memoryGiB,
      diskGiB: 10,
    });
    const at = (hosts: HostNeed[], present: Placed[] = []): string[] =>
      place(hosts, nodes, present, 'spread')
        .placed.map((one) => `${one.id} ${one.node}`)
        .sort();
    expect(at([host('1'), host('2'), host('3'), host('4')])).toEqual(['1 a1', '2 b1', '3 a2', '4 b1']);
    // Another pool's hosts do not count; the fuller node is taken first.
    expect(at([host('1')], [{ ...host('x', 'q', 32), node: 'a2' }])).toEqual(['1 a2']);
    expect(at([host('1')], [{ ...host('x', 'p'), node: 'a1' }])).toEqual(['1 b1']);
  });
});

describe('where a session goes', () => {
  // Common practice, no source: fill takes the fullest with a free seat, spread the one with the fewest sessions.
  it('is the first of those alike, and never a host that is full', () => {
    const hosts = [
      { id: 'o', sessions: 0, seats: 5, accepts: false },
      { id: 'a', sessions: 2, seats: 5, accepts: true },
      { id: 'b', sessions: 5, seats: 5, accepts: true },
      { id: 'c', sessions: 1, seats: 5, accepts: true },
      { id: 'd', sessions: 1, seats: 5, accepts: true },
      { id: 'e', sessions: 3, seats: 10, accepts: true },
    ];
    expect(sessionHost(hosts, 'spread')?.id).toBe('c');
    expect(sessionHost(hosts, 'fill')?.id).toBe('a');
    expect(
      sessionHost(
        hosts.filter((one) => one.id === 'b'),
        'fill',
      ),
    ).toBeUndefined();
    expect(sessionHost([], 'spread')).toBeUndefined();
  });
});

describe('the fewest nodes that could do', () => {
  it('follow from what is needed most: rounded up, and exactly full is not one more', () => {
    const node: Node = {
      id: 'n',
      zone: 'z',
      vcpu: 10,
      memoryGiB: 100,
      diskGiB: 1_000,
      dedicatedTo: undefined,
    };
    const of = (vcpu: number, memoryGiB: number, diskGiB: number): HostNeed => ({
      id: 'h',
      customer: 'SVG',
      pool: 'p',
      vcpu,
      memoryGiB,
      diskGiB,
    });
    expect(volumeBound([], node)).toBe(0);
    expect(volumeBound([of(10, 1, 1)], node)).toBe(1);
    expect(volumeBound([of(10, 1, 1), of(1, 1, 1)], node)).toBe(2);
    expect(volumeBound([of(1, 100, 1), of(1, 100, 1)], node)).toBe(2);
    expect(volumeBound([of(1, 1, 2_001)], node)).toBe(3);
  });

  // Two shapes of host that each leave half of a node unused by themselves: together they fill it.
  it('are nearly reached where hosts of two shapes suit each other, also when they are spread', () => {
    const node: Node = { id: '', zone: 'z', vcpu: 128, memoryGiB: 384, diskGiB: 12_000 };
    const nodes = Array.from({ length: 40 }, (_, n) => ({ ...node, id: `n${n}`, zone: `z${n % 2}` }));
    const hosts = Array.from({ length: 960 }, (_, n): HostNeed => ({
      id: `h${n}`,
      customer: 'SVG',
      pool: `p${n % 7}`,
      vcpu: n % 3 === 0 ? 8 : 4,
      memoryGiB: n % 3 === 0 ? 32 : 8,
      diskGiB: 128,
    }));
    expect(volumeBound(hosts, node)).toBe(40);
    for (const how of ['pack', 'spread'] as const) {
      const { placed, left } = place(hosts, nodes, [], how);
      expect([how, left.length, placed.length]).toEqual([how, 0, 960]);
    }
  });
});
