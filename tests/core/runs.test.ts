import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { afterTrouble, MOST_ATTEMPTS, pauseAfter, statusOf, type StepCounts } from '../../src/core/runs';
import {
  arcsOf,
  HOST_STATUSES,
  hostStatus,
  joinArcs,
  type Arc,
  type HostStatus,
  type HostView,
} from '../../src/core/status';
import { headerFault, readPeople } from '../../src/core/people';

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
    expect(afterTrouble(MOST_ATTEMPTS, false)).toBe('failed');
    expect([0, 1, 2, 50].map(pauseAfter)).toEqual([500, 1_000, 2_000, 30_000]);
  });
});

describe('how a host stands', () => {
  const view = (over: Partial<HostView>): HostView => ({
    wantedPower: 'on',
    wantedAccepting: true,
    leaving: false,
    making: 'no',
    present: { state: 'on', accepting: true },
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
    [{ leaving: true }, 'leaving'],
    [{ leaving: true, present: undefined }, 'leaving'],
  ])('%o has the status %s', (over, status) => expect(hostStatus(view(over))).toBe(status));

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
  });
});

const inOrder = (a: HostStatus, b: HostStatus): number => HOST_STATUSES.indexOf(a) - HOST_STATUSES.indexOf(b);

describe('people files', () => {
  const header = ['Account', 'given', 'family', 'mail'];
  const row = (line: number, ...cells: string[]) => ({ line, cells });

  it('names the columns that are missing', () => {
    expect(headerFault(header)).toBeUndefined();
    expect(headerFault(['account', 'mail'])).toContain('given, family');
  });

  // Common practice, no source: of 13 people, one bad, 12 are carried over and one is named.
  it('keeps 12 of 13 and names the bad one by its line', () => {
    const rows = Array.from({ length: 13 }, (_, i) =>
      row(i + 2, `p${i}`, 'Aino', 'Varley', i === 6 ? 'no mail' : `p${i}@svg.example`),
    );
    const { good, bad } = readPeople(header, rows);
    expect(good).toHaveLength(12);
    expect(bad).toEqual([{ line: 8, reason: '"no mail" is not a mail address' }]);
  });

  it('refuses what a spreadsheet would take for a formula', () => {
    const cells = ['=1+1', '+44', '-x', '@sum', '\tx'].map((given, i) => ({
      line: i + 2,
      cells: [`a${i}`, given, 'Saltash', `a${i}@mhp.example`],
    }));
    const { good, bad } = readPeople(['account', 'given', 'family', 'mail'], cells);
    // Cells are trimmed first, so the tab is no danger.
    expect(good.map((one) => one.given)).toEqual(['x']);
    expect(bad.map((one) => one.line)).toEqual([2, 3, 4, 5]);
    expect(bad[0]?.reason).toContain('formula');
  });

  it('refuses an account that stands already, whatever its case, and rows of another width', () => {
    const { bad } = readPeople(header, [
      row(2, 'ann', 'A', 'B', 'a@b.example'),
      row(3, 'ANN', 'A', 'B', 'a@b.example'),
      row(4, 'bob'),
    ]);
    expect(bad.map((one) => one.line)).toEqual([3, 4]);
    expect(bad[0]?.reason).toContain('line 2');
  });
});
