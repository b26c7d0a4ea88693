/** An instant: milliseconds since 1970-01-01T00:00:00Z. */
export type Instant = number;

export const SECOND = 1_000;
export const MINUTE = 60 * SECOND;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;

/** A stretch of time: `from` belongs to it, `to` does not. */
export interface Period {
  readonly from: Instant;
  readonly to: Instant;
}
