/** However calm it is, what is looked for every few seconds is looked for again after so long. */
const LONGEST_MS = 5_000;
/** While nothing happens, rests are so many times as long. */
const CALM = 4;

/**
 * Whether anything has happened lately. While nothing does, those who look for work again and again look seldom; and at once
 * when something happens.
 */
export class Stir {
  private count = 0;
  private readonly resting = new Set<() => void>();

  /** How often something has happened: who finds the same number again has missed nothing. */
  get seen(): number {
    return this.count;
  }

  /** Something has happened. */
  happened(): void {
    this.count += 1;
    for (const wake of [...this.resting]) wake();
  }

  /**
   * Rests, and goes on resting while nothing happens.
   * @param ms the shortest rest
   * @param usual how long it usually is: while nothing happens that counts, and not how long it was busy
   * @param since what was `seen` before the work after which it rests
   */
  async rest(ms: number, usual: number, since: number, stop: AbortSignal): Promise<void> {
    await this.upTo(ms, stop, false);
    const more = Math.min(usual * CALM, Math.max(usual, LONGEST_MS)) - ms;
    if (more > 0 && this.count === since) await this.upTo(more, stop, true);
  }

  private upTo(ms: number, stop: AbortSignal, isWoken: boolean): Promise<void> {
    if (stop.aborted) return Promise.resolve();
    return new Promise((resolve) => {
      const over = (): void => {
        clearTimeout(timer);
        this.resting.delete(over);
        stop.removeEventListener('abort', over);
        resolve();
      };
      const timer = setTimeout(over, ms);
      if (isWoken) this.resting.add(over);
      stop.addEventListener('abort', over);
    });
  }
}
