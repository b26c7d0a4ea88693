import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  afterTrouble,
  lookAfter,
  MOST_ATTEMPTS,
  pauseAfter,
  statusOf,
  type StepCounts,
} from '../../src/core/runs';
import {
  arcsOf,
  HOST_STATUSES,
  hostStatus,
  statusForComers,
  joinArcs,
  type Arc,
  type HostStatus,
  type HostView,
} from '../../src/core/status';

const counts = (over: Partial<StepCounts>): StepCounts => ({
  waiting: 0,
  ready: 0,
  working: 0,
  done: 0,
  failed: 0,
  ...over,
});
const running = { state: 'running', cause: null } as const;

describe('a run', () => {
  it('is done when every step is', () =>
    expect(statusOf(running, counts({ done: 3 }), 1).state).toBe('done'));

  it('stops at its failure limit, but lets what is under way end', () => {
    const busy = statusOf(running, counts({ failed: 2, working: 1, waiting: 4, ready: 4 }), 2);
    expect(busy).toEqual({ state: 'stopping', cause: 'failure limit' });
    expect(statusOf(busy, counts({ failed: 2, done: 1, waiting: 4, ready: 4 }), 2).state).toBe('stopped');
  });

  it('goes on past a failure below the limit as long as something can begin', () => {
    expect(statusOf(running, counts({ failed: 1, ready: 1, waiting: 3 }), 2)).toEqual(running);
    expect(statusOf(running, counts({ failed: 1, waiting: 3 }), 2)).toEqual({
      state: 'stopped',
      cause: 'steps failed',
    });
  });

  it('ends for good, or stays stopped by whom it was stopped, whatever its steps say', () => {
    const byHand = { state: 'stopped', cause: 'by hand' } as const;
    const some = counts({ failed: 3, ready: 2, waiting: 2 });
    expect(statusOf(byHand, some, 1)).toEqual(byHand);
    expect(statusOf({ state: 'done', cause: null }, some, 1)).toEqual({ state: 'done', cause: null });
    expect(statusOf(byHand, counts({ done: 4 }), 1)).toEqual({ state: 'done', cause: null });
    // One that is stopping already keeps its cause when more fail on the way.
    const stopping = { state: 'stopping', cause: 'by hand' } as const;
    expect(statusOf(stopping, counts({ failed: 3, working: 1, waiting: 1 }), 1)).toEqual(stopping);
    expect(statusOf(stopping, counts({ failed: 3, waiting: 1 }), 1)).toEqual(byHand);
  });

  it('goes on while nothing has failed, also where nothing can begin yet, and while one that failed has others beside it', () => {
    expect(statusOf(running, counts({ waiting: 3 }), 1)).toEqual(running);
    expect(statusOf(running, counts({ waiting: 3, failed: 1, working: 1 }), 2)).toEqual(running);
    expect(statusOf(running, counts({ waiting: 3, failed: 1, ready: 1, working: 1 }), 2)).toEqual(running);
  });

  it('never ends with a step under way, and never goes on by itself once stopped', () => {
    const count = fc.nat(4);
    fc.assert(
      fc.property(
        count,
        count,
        count,
        count,
        fc.integer({ min: 1, max: 4 }),
        (waiting, working, done, failed, limit) => {
          const some = counts({ waiting, ready: waiting, working, done, failed });
          const next = statusOf(running, some, limit);
          if (working > 0) expect(['running', 'stopping']).toContain(next.state);
          if (waiting + working + failed > 0)
            expect(statusOf({ state: 'stopped', cause: 'by hand' }, some, limit).state).toBe('stopped');
        },
      ),
    );
  });

  it('tries passing trouble again and again with longer pauses, lasting trouble never', () => {
    expect(afterTrouble(1, false)).toBe('again');
    expect(afterTrouble(1, true)).toBe('failed');
    expect(afterTrouble(MOST_ATTEMPTS - 1, false)).toBe('again');
    expect(afterTrouble(MOST_ATTEMPTS, false)).toBe('failed');
    expect([0, 1, 2, 50].map(pauseAfter)).toEqual([500, 1_000, 2_000, 30_000]);
  });

  it('looks at what is under way soon, then ever less, and sees its end within a twentieth of what it took', () => {
    for (const seconds of [1, 10, 60, 600, 3_600]) {
      let [at, looks] = [0, 0];
      while (at < seconds * 1_000) at += lookAfter(looks++);
      expect(at - seconds * 1_000).toBeLessThanOrEqual(Math.max(500, seconds * 50));
      if (seconds === 3_600) expect(looks).toBeLessThan(900);
    }
    expect(lookAfter(1_000_000)).toBe(10_000);
  });
});

describe('how a host stands', () => {
  const view = (over: Partial<HostView>): HostView => ({
    wantedPower: 'on',
    wantedAccepting: true,
    leaving: false,
    making: 'no',
    present: { state: 'on', accepting: true },
    isClosed: false,
    ...over,
  });

  it.each([
    [{}, 'serving'],
    [{ present: undefined }, 'missing'],
    [{ present: undefined, making: 'at work' as const }, 'building'],
    [{ present: { state: 'off', accepting: true } }, 'off'],
    [{ wantedPower: 'off' as const }, 'serving'],
    [{ present: { state: 'on', accepting: false } }, 'draining'],
    [{ present: { state: 'unwell', accepting: true } }, 'unwell'],
    [{ isClosed: true }, 'unwell'],
    [{ isClosed: true, present: { state: 'off', accepting: true } }, 'off'],
    [{ leaving: true }, 'leaving'],
    [{ leaving: true, present: undefined }, 'leaving'],
    [{ leaving: true, present: { state: 'unwell', accepting: true } }, 'leaving'],
    [{ present: { state: 'gone', accepting: true } }, 'missing'],
    [{ present: { state: 'gone', accepting: true }, making: 'at work' as const }, 'building'],
    [{ present: undefined, making: 'stopped' as const }, 'missing'],
    [{ present: { state: 'building', accepting: false } }, 'building'],
    [{ making: 'at work' as const }, 'building'],
    [{ making: 'stopped' as const }, 'building'],
    [{ making: 'stopped' as const, present: { state: 'unwell', accepting: true } }, 'unwell'],
    [{ making: 'at work' as const, present: { state: 'off', accepting: true } }, 'building'],
  ])('%o has the status %s', (over, status) => expect(hostStatus(view(over))).toBe(status));

  it.each([
    [{}, 'serving'],
    [{ wantedAccepting: false }, 'draining'],
    [{ wantedAccepting: false, isClosed: true }, 'unwell'],
    [{ wantedAccepting: false, present: { state: 'off', accepting: true } }, 'off'],
  ])('%o is %s for whoever comes', (over, status) => expect(statusForComers(view(over))).toBe(status));

  it('is drawn so that no host is lost, however many there are', () => {
    const standings = fc.constantFrom('serving' as const, 'off' as const, 'missing' as const);
    fc.assert(
      fc.property(fc.array(standings, { maxLength: 300 }), fc.integer({ min: 3, max: 60 }), (list, most) => {
        const arcs = arcsOf(
          list.map((status) => ({ status, sessions: 1, seats: 2 })),
          most,
        );
        expect(arcs.reduce((sum, arc) => sum + arc.hosts, 0)).toBe(list.length);
        expect(arcs.length).toBeLessThanOrEqual(most + 3);
        expect(new Set(arcs.map((arc) => arc.status))).toEqual(new Set(list));
      }),
    );
  });

  it('is as full as its seats are taken, together with those that it is joined with', () => {
    const host = (sessions: number, seats: number) => ({ status: 'serving' as const, sessions, seats });
    const arc = (hosts: number, fill: number): Arc => ({ status: 'serving', hosts, fill });
    expect(arcsOf([host(1, 4), host(3, 4)], 2)).toEqual([arc(1, 0.25), arc(1, 0.75)]);
    expect(arcsOf([host(1, 4), host(3, 4)], 1)).toEqual([arc(2, 0.5)]);
    expect(arcsOf([host(0, 2), host(6, 6)], 1)).toEqual([arc(2, 0.75)]);
    expect(arcsOf([host(0, 0)], 5)).toEqual([arc(1, 0)]);
    expect(arcsOf([host(5, 4)], 5)).toEqual([arc(1, 1)]);
    expect(arcsOf([host(1, 2), host(1, 2), host(1, 2), host(1, 2)], 2)).toEqual([arc(2, 0.5), arc(2, 0.5)]);
    expect(arcsOf([], 5)).toEqual([]);
  });

  it('is drawn smaller with fewer arcs, and still no host, no status and no person is lost', () => {
    const standings = fc.constantFrom('serving' as const, 'draining' as const, 'unwell' as const);
    const host = fc.record({ status: standings, sessions: fc.integer({ min: 0, max: 4 }) });
    fc.assert(
      fc.property(fc.array(host, { maxLength: 200 }), fc.integer({ min: 3, max: 12 }), (list, most) => {
        const arcs = arcsOf(
          list.map((one) => ({ ...one, seats: 4 })),
          24,
        );
        const small = joinArcs(arcs, most);
        const hosts = (all: readonly Arc[], status?: string): number =>
          all.reduce((sum, arc) => sum + (status === undefined || arc.status === status ? arc.hosts : 0), 0);
        const people = (all: readonly Arc[]): number =>
          all.reduce((sum, arc) => sum + arc.hosts * arc.fill, 0);
        for (const status of ['serving', 'draining', 'unwell'])
          expect(hosts(small, status)).toBe(hosts(arcs, status));
        expect(people(small)).toBeCloseTo(people(arcs), 6);
        expect(small.length).toBeLessThanOrEqual(Math.max(arcs.length, 1));
        // Neighbours that would fit into one are one: at most twice as many as asked for, and one more a status.
        expect(small.length).toBeLessThanOrEqual(2 * most + 3);
        expect(small.map((arc) => arc.status)).toEqual([...small.map((arc) => arc.status)].sort(inOrder));
      }),
    );
    const one = { status: 'serving' as const, hosts: 10, fill: 0.5 };
    expect(joinArcs([one, { ...one, hosts: 30, fill: 0.9 }], 1)).toEqual([{ ...one, hosts: 40, fill: 0.8 }]);
    expect(joinArcs([], 5)).toEqual([]);
    // 12 hosts in three arcs: by fours nothing is joined that would be more, and nothing of another status.
    const four = { ...one, hosts: 4 };
    expect(joinArcs([four, four, four], 3)).toEqual([four, four, four]);
    expect(joinArcs([four, four, four], 1)).toEqual([{ ...one, hosts: 12 }]);
    expect(joinArcs([four, { ...four, status: 'off' }, four], 1)).toHaveLength(3);
    expect(joinArcs([four, four, four, four], 2)).toEqual([
      { ...one, hosts: 8 },
      { ...one, hosts: 8 },
    ]);
  });
});

const inOrder = (a: HostStatus, b: HostStatus): number => HOST_STATUSES.indexOf(a) - HOST_STATUSES.indexOf(b);
