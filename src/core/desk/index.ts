import type { Link } from '../grants';

/** What keeps an item from somebody, or lets them in, as they see it themselves. */
export interface DeskFacts {
  /** Whether they are signed in there. */
  readonly isIn: boolean;
  /** The first link that is missing; undefined: none is. */
  readonly missing: Link | undefined;
  /** A desktop of their own there; undefined: they have none, or share. */
  readonly own?: { readonly isOn: boolean; readonly wantedOn: boolean; readonly isWell: boolean } | undefined;
  /** How long a host takes to start, in seconds. */
  readonly startSeconds: number;
}

export interface DeskState {
  readonly state: 'in' | 'ready' | 'off' | 'starting' | 'full' | 'closed';
  readonly says: string;
  /** How long until they are in, about; 0: nobody can tell. */
  readonly seconds: number;
}

/** So long it takes from a press until one is in, where a host is on. */
const OPENING_SECONDS = 10;

/**
 * How an item is for somebody, in words that anybody understands.
 * @example
 * deskStateOf({ isIn: false, missing: undefined, startSeconds: 120 }) // { state: 'ready', says: 'Ready', seconds: 10 }
 */
export function deskStateOf({ isIn, missing, own, startSeconds }: DeskFacts): DeskState {
  if (isIn) return { state: 'in', says: 'You are signed in', seconds: OPENING_SECONDS };
  // What is theirs and gets in: off, it is started first.
  if (own && own.isWell && (missing === undefined || missing.link === 'host')) {
    if (!own.isOn)
      return own.wantedOn
        ? { state: 'starting', says: 'Starting', seconds: startSeconds }
        : { state: 'off', says: `Asleep, about ${minutes(startSeconds)} to start`, seconds: startSeconds };
  }
  if (missing === undefined) return { state: 'ready', says: 'Ready', seconds: OPENING_SECONDS };
  if (missing.link === 'host' && own === undefined && missing.mend === 'hosts')
    return { state: 'full', says: 'Every seat is taken. Try again in a few minutes.', seconds: 0 };
  return {
    state: 'closed',
    says: 'Not open at the moment. Whoever looks after it can tell why.',
    seconds: 0,
  };
}

const minutes = (seconds: number): string =>
  seconds < 60 ? `${seconds} seconds` : seconds < 90 ? 'a minute' : `${Math.round(seconds / 60)} minutes`;
