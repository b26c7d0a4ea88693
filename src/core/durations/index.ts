/** How long a kind of step has taken until now, in seconds. */
export interface Duration {
  /** So many times it was done. */
  readonly count: number;
  readonly median: number;
  /** Nine of ten were done by then. */
  readonly late: number;
}

/** By `host make s4x16 `: what of what, of which size; of what has no size, with a space at its end. */
export type Durations = Readonly<Record<string, Duration>>;

/** So often something has to have been done before that is trusted more than what is usual. */
export const TRUSTED_FROM = 10;

export const durationKey = (kind: string, action: string, size: unknown): string =>
  `${kind} ${action} ${typeof size === 'string' ? size : ''}`;

/**
 * The median and the ninth decile of what was measured, by the nearest rank.
 * @param seconds in any order; none: undefined
 * @example
 * durationOf([1, 2, 3, 4, 100]) // { count: 5, median: 3, late: 100 }
 */
export function durationOf(seconds: readonly number[]): Duration | undefined {
  const sorted = [...seconds].sort((a, b) => a - b);
  const at = (part: number): number => sorted[Math.max(0, Math.ceil(part * sorted.length) - 1)] ?? 0;
  return sorted.length === 0 ? undefined : { count: sorted.length, median: at(0.5), late: at(0.9) };
}

/** What a step is expected to take: as it was measured here, else as is usual. */
export function expected(
  durations: Durations,
  key: string,
  usual: number,
): { readonly seconds: number; readonly late: number } {
  const found = durations[key];
  return found && found.count >= TRUSTED_FROM
    ? { seconds: found.median, late: Math.max(found.median, found.late) }
    : { seconds: usual, late: usual };
}
