import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { Stir } from '../../src/server/worker/stir';

describe('a worker’s rest', () => {
  beforeEach(() => void vi.useFakeTimers());
  afterEach(() => void vi.useRealTimers());

  /** How long a rest takes, in ms; what happens meanwhile is done at its time. */
  async function lasts(
    ms: number,
    meanwhile: (stir: Stir, stop: AbortController) => void,
    usual = ms,
  ): Promise<number> {
    const [stir, stop] = [new Stir(), new AbortController()];
    const began = Date.now();
    let ended = 0;
    const rest = stir.rest(ms, usual, stir.seen, stop.signal).then(() => (ended = Date.now()));
    meanwhile(stir, stop);
    await vi.runAllTimersAsync();
    await rest;
    return ended - began;
  }
  const at = (ms: number, what: () => void): void => void setTimeout(what, ms);

  it('is four times as long while nothing happens', async () => {
    expect(await lasts(500, () => undefined)).toBe(2_000);
  });

  it('is five seconds at most, or what it is anyway', async () => {
    expect(await lasts(2_000, () => undefined)).toBe(5_000);
    expect(await lasts(20_000, () => undefined)).toBe(20_000);
  });

  it('is no longer for having been busy, while nothing happens', async () => {
    expect(await lasts(1_500, () => undefined, 500)).toBe(2_000);
    expect(await lasts(3_000, () => undefined, 500)).toBe(3_000);
  });

  it('is as short as ever where something happened since the work began', async () => {
    expect(await lasts(500, (stir) => stir.happened())).toBe(500);
    expect(await lasts(500, (stir) => at(300, () => stir.happened()))).toBe(500);
  });

  it('ends as soon as something happens later', async () => {
    expect(await lasts(500, (stir) => at(700, () => stir.happened()))).toBe(700);
  });

  it('ends when the worker is to end', async () => {
    expect(await lasts(500, (_stir, stop) => at(100, () => stop.abort()))).toBe(100);
    expect(await lasts(500, (_stir, stop) => at(900, () => stop.abort()))).toBe(900);
  });

  it('keeps nothing of those who have rested', async () => {
    const [stir, stop] = [new Stir(), new AbortController()];
    const removed = vi.spyOn(stop.signal, 'removeEventListener');
    const added = vi.spyOn(stop.signal, 'addEventListener');
    for (let n = 0; n < 20; n++) {
      const rest = stir.rest(10, 10, stir.seen, stop.signal);
      await vi.runAllTimersAsync();
      await rest;
    }
    expect(removed.mock.calls.length).toBe(added.mock.calls.length);
  });
});
