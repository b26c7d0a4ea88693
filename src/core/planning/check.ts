import type { Instant } from '../calendar';

export const CHECK_STATES = ['passes', 'warns', 'blocks'] as const;

/** One check before a change. `do` says what to do where it does not pass. */
export interface Check {
  readonly key: string;
  readonly title: string;
  readonly state: (typeof CHECK_STATES)[number];
  readonly says: string;
  readonly do?: string;
  /** What was looked at or asked for it, and when. */
  readonly evidence?: string;
  readonly at?: Instant;
  /** Where it is mended; left out: where one is, or there is nothing to mend. */
  readonly fix?: Fix;
}

/** The page on which something is mended. */
export interface Fix {
  /** Whose page it is. */
  readonly of: 'customer' | 'everyone';
  /** Its address, within the customer's where it is theirs: `about`. */
  readonly page: string;
  /** What the way to it is called. */
  readonly says: string;
}

export const passes = (key: string, title: string, says: string): Check => ({
  key,
  title,
  state: 'passes',
  says,
});

export const warns = (key: string, title: string, says: string, action: string): Check => ({
  key,
  title,
  state: 'warns',
  says,
  do: action,
});

export const blocks = (key: string, title: string, says: string, action: string): Check => ({
  key,
  title,
  state: 'blocks',
  says,
  do: action,
});

/** A check that is mended on a page of its own. */
export const mendedAt = (fix: Fix, check: Check): Check => ({ ...check, fix });

/** The check that asks for another's word. */
export const APPROVAL = 'approval';

/** Why a change is begun by another than who asks for it; undefined: it is not. */
export const awaits = (checks: readonly Check[]): string | undefined =>
  checks.find((check) => check.key === APPROVAL)?.says;

/** Whether a change may begin: nothing blocks. */
export const mayBegin = (checks: readonly Check[]): boolean =>
  checks.every((check) => check.state !== 'blocks');
