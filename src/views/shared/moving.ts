import type { Session } from '../../contract';

/** Sessions whose hosts are to be drained, so that whoever comes again comes to another. */
export interface Moving {
  readonly sessions: readonly Session[];
  readonly done?: (() => void) | undefined;
}

/** Hosts are drained in one environment at a time: a change names whose it is. */
export const mayMove = (sessions: readonly Session[]): boolean =>
  sessions.length > 0 &&
  new Set(sessions.map(({ customer, environmentId }) => `${customer} ${environmentId ?? ''}`)).size === 1 &&
  sessions.every(({ hostId, environmentId }) => hostId !== null && environmentId !== null);
