/** The longest rest while nothing happens, unless it is longer anyway. */
const LONGEST_MS = 5_000;
/** While nothing happens, a rest is this many times as long. */
const CALM = 4;

/**
 * Whether anything has happened lately. While nothing happens, whatever looks for work again and again looks less often; when
 * something happens, it looks at once.
 */
export class Stir {
  private count = 0;
  private readonly resting = new Set<() => void>();

  /** A count of what has happened: while it stays the same, nothing has. */
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
   * @param usual the usual rest: while nothing happens, the rest is reckoned from this, not from `ms`
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
