import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  ANSWER_MS,
  ANSWERS,
  isDone,
  LOOK_MS,
  mayAskFrom,
  onward,
  type LookAlong,
} from '../../src/core/look-along';

const asked: LookAlong = { state: 'asked', askedAt: 0, since: null };
const looking = onward(asked, 'yes', 5_000);

describe('looking along', () => {
  it('is not asked for at once after a no, nor after no answer; of several the last counts', () => {
    const one = (state: LookAlong['state'], askedAt: number): LookAlong => ({ state, askedAt, since: null });
    expect(mayAskFrom([])).toBe(0);
    expect(mayAskFrom([one('over', 50), one('looking', 60), one('asked', 70)])).toBe(0);
    expect(mayAskFrom([one('refused', 1_000)])).toBe(1_000 + 30 * 60_000);
    expect(mayAskFrom([one('refused', 1_000), one('unanswered', 25 * 60_000)])).toBe(35 * 60_000);
  });

  it('is only with their yes', () => {
    expect(onward(asked, 'none', 1_000)).toEqual(asked);
    expect(looking).toEqual({ state: 'looking', askedAt: 0, since: 5_000 });
    expect(onward(asked, 'no', 1_000).state).toBe('refused');
  });

  it('waits no longer than two minutes for it: a yes that comes after is none', () => {
    expect(onward(asked, 'yes', ANSWER_MS).state).toBe('looking');
    expect(onward(asked, 'yes', ANSWER_MS + 1).state).toBe('unanswered');
    expect(onward(asked, 'none', ANSWER_MS + 1).state).toBe('unanswered');
  });

  it('is over when they end it, and after half an hour', () => {
    expect(onward(looking, 'over', 6_000).state).toBe('over');
    expect(onward(looking, 'no', 6_000).state).toBe('over');
    expect(onward(looking, 'none', 6_000).state).toBe('over');
    expect(onward(looking, 'yes', 5_000 + LOOK_MS).state).toBe('looking');
    expect(onward(looking, 'yes', 5_001 + LOOK_MS).state).toBe('over');
  });

  it('never goes on once it is done with, and never without a yes in time, whatever is said', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...ANSWERS), fc.integer({ min: 0, max: 3 * LOOK_MS }))),
        (said) => {
          let now = 0;
          let look = asked;
          let yesInTime = false;
          for (const [answer, later] of said) {
            now += later;
            const before = look;
            look = onward(look, answer, now);
            yesInTime ||= before.state === 'asked' && answer === 'yes' && now <= ANSWER_MS;
            if (isDone(before)) expect(look).toEqual(before);
            if (look.state === 'looking') expect(yesInTime && now <= (look.since ?? 0) + LOOK_MS).toBe(true);
          }
        },
      ),
    ));
});
