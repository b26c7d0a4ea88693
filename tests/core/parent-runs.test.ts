import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  countParts,
  PART_STATES,
  partsToBegin,
  type Part,
  type ParentPolicy,
} from '../../src/core/parent-runs';
import { statusOf, type RunStatus } from '../../src/core/runs';

const MINUTE = 60_000;
const policies: fc.Arbitrary<ParentPolicy> = fc.record({
  atATime: fc.integer({ min: 1, max: 6 }),
  failureLimit: fc.integer({ min: 1, max: 6 }),
  pilots: fc.integer({ min: 0, max: 4 }),
  pauseMinutes: fc.constantFrom(0, 0, 5, 30),
});
const anyPart: fc.Arbitrary<Part> = fc.constantFrom(...PART_STATES).chain((state) =>
  fc.integer({ min: 0, max: 60 }).map((minute) => ({
    state,
    endedAt: state === 'done' || state === 'failed' ? minute * MINUTE : null,
  })),
);

describe('the parts of a parent run', () => {
  it('begin in their order, never more than are let, and only those that wait', () =>
    fc.assert(
      fc.property(
        fc.array(anyPart, { maxLength: 20 }),
        policies,
        fc.nat(90 * MINUTE),
        (parts, policy, now) => {
          const places = partsToBegin(parts, policy, now);
          expect([...places].sort((a, b) => a - b)).toEqual(places);
          for (const place of places) expect(parts[place]?.state).toBe('waiting');
          const working = parts.filter(({ state }) => state === 'working').length;
          if (places.length > 0) expect(places.length + working).toBeLessThanOrEqual(policy.atATime);
          // Who begins goes before everybody who could have begun as well.
          const reach = parts.flatMap(({ state }, place) => (state === 'waiting' ? [place] : []));
          expect(places).toEqual(reach.slice(0, places.length));
        },
      ),
    ));

  it('wait for the pilots, of which none may have failed', () =>
    fc.assert(
      fc.property(fc.array(anyPart, { minLength: 1, maxLength: 20 }), policies, (parts, policy) => {
        const pilots = parts.slice(0, policy.pilots);
        if (pilots.every(({ state }) => state === 'done')) return;
        for (const place of partsToBegin(parts, policy, 1e12)) expect(place).toBeLessThan(policy.pilots);
      }),
    ));

  it('wait between one lot and the next, and for the whole lot to have ended', () => {
    const policy = { atATime: 2, failureLimit: 1, pilots: 0, pauseMinutes: 10 };
    const done = (minute: number): Part => ({ state: 'done', endedAt: minute * MINUTE });
    const waiting: Part = { state: 'waiting', endedAt: null };
    expect(partsToBegin([waiting, waiting, waiting], policy, 0)).toEqual([0, 1]);
    expect(partsToBegin([done(3), { state: 'working', endedAt: null }, waiting], policy, 1e9)).toEqual([]);
    expect(partsToBegin([done(3), done(5), waiting], policy, 15 * MINUTE - 1)).toEqual([]);
    expect(partsToBegin([done(3), done(5), waiting], policy, 15 * MINUTE)).toEqual([2]);
  });

  it('are all done in the end where none fails, and else it stops and says so, whatever its policy', () =>
    fc.assert(
      fc.property(fc.array(fc.boolean(), { minLength: 1, maxLength: 30 }), policies, (fails, policy) => {
        const parts: Part[] = fails.map(() => ({ state: 'waiting', endedAt: null }));
        let status: RunStatus = { state: 'running', cause: null };
        let now = 0;
        for (let turn = 0; turn < 1_000 && status.state === 'running'; turn++, now += 10 * MINUTE) {
          const places = partsToBegin(parts, policy, now);
          for (const place of places)
            parts[place] = { state: fails[place] === true ? 'failed' : 'done', endedAt: now };
          status = statusOf(status, countParts(parts, policy), policy.failureLimit);
        }
        const failed = parts.filter(({ state }) => state === 'failed').length;
        if (fails.every((one) => !one)) expect(status.state).toBe('done');
        else {
          expect(status.state).toBe('stopped');
          expect(failed).toBeGreaterThan(0);
          // What began together ends together: no more fail beyond the limit than are at work at a time.
          expect(failed).toBeLessThan(policy.failureLimit + policy.atATime);
        }
      }),
    ));
});
