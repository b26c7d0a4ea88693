import type { Link } from '../grants';
import type { OwnAct } from '../intent';
import type { HostStatus } from '../status';

/** A desktop of somebody's own, as it is there and as it is wanted. */
export interface OwnHost {
  readonly status: HostStatus;
  readonly isOn: boolean;
  readonly wantedOn: boolean;
}

export const OWN_STATES = ['on', 'off', 'starting', 'stopping', 'restarting', 'unwell'] as const;
export type OwnState = (typeof OWN_STATES)[number];

/**
 * How a desktop of one's own is. One that is on and takes nobody is about to restart.
 * @example
 * ownState({ status: 'serving', isOn: true, wantedOn: false }) // 'stopping'
 */
export function ownState({ status, isOn, wantedOn }: OwnHost): OwnState {
  if (status === 'unwell' || status === 'missing') return 'unwell';
  if (!isOn) return wantedOn ? 'starting' : 'off';
  if (!wantedOn) return 'stopping';
  return status === 'draining' ? 'restarting' : 'on';
}

/** What can be done with it now, of all that there is. */
export const OWN_NOW: Readonly<Record<OwnState, readonly OwnAct[]>> = {
  on: ['restart', 'sleep'],
  off: ['start'],
  starting: [],
  stopping: [],
  restarting: [],
  unwell: [],
};

/** How it is where nothing is left to be done of what is asked: pressed twice, it is done once. */
export const OWN_DONE: Readonly<Record<'start' | 'restart' | 'sleep', readonly OwnState[]>> = {
  start: ['on', 'starting'],
  restart: ['restarting', 'starting'],
  sleep: ['off', 'stopping'],
};

/** What keeps an item from somebody, or lets them in, as they see it themselves. */
export interface DeskFacts {
  /** Whether they are signed in there. */
  readonly isIn: boolean;
  /** The first link that is missing; undefined: none is. */
  readonly missing: Link | undefined;
  /** A desktop of their own there; undefined: they have none, or share. */
  readonly own?: OwnHost | undefined;
  /** How long a host takes to start, in seconds. */
  readonly startSeconds: number;
}

/** How an item is, from the best to the worst for whoever wants in; `off` and `starting` are of a desktop of one's own. */
export const DESK_STATES = ['in', 'ready', 'starting', 'off', 'full', 'closed'] as const;

export interface DeskState {
  readonly state: (typeof DESK_STATES)[number];
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
  if (own && (missing === undefined || missing.link === 'host'))
    switch (ownState(own)) {
      case 'off':
        return {
          state: 'off',
          says: `Asleep, about ${minutes(startSeconds)} to start`,
          seconds: startSeconds,
        };
      case 'starting':
        return { state: 'starting', says: 'Starting', seconds: startSeconds };
      case 'restarting':
        return { state: 'starting', says: 'Restarting', seconds: startSeconds };
    }
  if (missing === undefined) return { state: 'ready', says: 'Ready', seconds: OPENING_SECONDS };
  if (missing.isFull === true && own === undefined)
    return { state: 'full', says: 'Every seat is taken. Try again in a few minutes.', seconds: 0 };
  return {
    state: 'closed',
    says: 'Not open at the moment. Whoever looks after it can tell why.',
    seconds: 0,
  };
}

const minutes = (seconds: number): string =>
  seconds < 60 ? `${seconds} seconds` : seconds < 90 ? 'a minute' : `${Math.round(seconds / 60)} minutes`;

/** An item on somebody's desk. */
interface Card {
  readonly kind: 'app' | 'desktop';
  readonly name: string;
  readonly environmentId: string;
  readonly pool: string;
  readonly state: DeskState['state'];
  readonly favourite: boolean;
}

/** An app that several pools publish is one card, for where it goes best now; desktops are each one of their own. */
export function oneCardEach<One extends Card>(items: readonly One[]): One[] {
  const best = new Map<string, One>();
  for (const item of items) {
    const key = item.kind === 'app' ? item.name : `${item.name} ${item.environmentId} ${item.pool}`;
    const before = best.get(key);
    if (!before) best.set(key, item);
    else {
      const better = DESK_STATES.indexOf(item.state) < DESK_STATES.indexOf(before.state) ? item : before;
      best.set(key, { ...better, favourite: before.favourite || item.favourite });
    }
  }
  return [...best.values()];
}
