/** What can be done with sessions, and what it is in words: each as a row of one shape. */
export interface SessionAct {
  readonly key: 'message' | 'disconnect' | 'sign-out' | 'end-program';
  readonly verb: string;
  /** Whether people lose what they have not saved. */
  readonly endsWork: boolean;
  /** Whether people are told first, and then have so many minutes. */
  readonly warns: boolean;
  /** Whether it needs words to say. */
  readonly says: boolean;
  /** What becomes of one, and of several, in half a sentence. */
  readonly what: { readonly one: string; readonly many: string };
}

export const SESSION_ACTS = [
  {
    key: 'message',
    verb: 'Send a message',
    endsWork: false,
    warns: false,
    says: true,
    what: { one: 'reads what is said', many: 'read what is said' },
  },
  {
    key: 'disconnect',
    verb: 'Disconnect',
    endsWork: false,
    warns: false,
    says: false,
    what: {
      one: 'loses the picture; what they run goes on',
      many: 'lose the picture; what they run goes on',
    },
  },
  {
    key: 'sign-out',
    verb: 'Sign out',
    endsWork: true,
    warns: true,
    says: false,
    what: {
      one: 'is signed out; what was not saved is lost',
      many: 'are signed out; what was not saved is lost',
    },
  },
  {
    key: 'end-program',
    verb: 'End a program',
    endsWork: true,
    warns: false,
    says: false,
    what: {
      one: 'loses that program, and what in it was not saved',
      many: 'lose that program, and what in it was not saved',
    },
  },
] as const satisfies readonly SessionAct[];

export type SessionActKey = (typeof SESSION_ACTS)[number]['key'];

export const sessionAct = (key: SessionActKey): SessionAct => {
  const found = SESSION_ACTS.find((one) => one.key === key);
  if (!found) throw new RangeError(`${String(key)} is no act`);
  return found;
};

/** One thing that is to be done to one session at an instant. */
export interface PlannedAct {
  readonly act: SessionActKey;
  /** What is said, or which program is ended. */
  readonly text: string;
  readonly at: number;
}

/** The longest that people may be given. */
export const MOST_MINUTES = 240;

/**
 * What an act comes to: those that warn first say so, and act when the minutes are over.
 * @param minutes 0 to `MOST_MINUTES`; only where the act warns
 * @example
 * plannedActs({ act: 'sign-out', text: '', minutes: 10 }, 0).map(({ act, at }) => [act, at]) // [['message', 0], ['sign-out', 600000]]
 */
export function plannedActs(
  { act, text, minutes }: { readonly act: SessionActKey; readonly text: string; readonly minutes: number },
  now: number,
): PlannedAct[] {
  const { warns } = sessionAct(act);
  const own: PlannedAct = { act, text: warns ? '' : text, at: warns ? now + minutes * 60_000 : now };
  if (!warns || (minutes === 0 && text === '')) return [own];
  const usual =
    minutes === 0
      ? 'You are signed out now.'
      : `You will be signed out in ${minutes === 1 ? 'a minute' : `${minutes} minutes`}. Please save your work.`;
  return [{ act: 'message', text: text === '' ? usual : text, at: now }, own];
}

/** Whom an act touches, before it is done. */
export interface ActTouches {
  readonly people: number;
  readonly hosts: number;
  readonly customers: number;
  readonly minutes: number;
}

const counted = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`;

/**
 * What an act does, on one line.
 * @example
 * actLine('sign-out', { people: 3, hosts: 2, customers: 1, minutes: 10 })
 * // '3 people · 2 hosts · 1 customer · in 10 min · cannot be undone'
 */
export function actLine(key: SessionActKey, { people, hosts, customers, minutes }: ActTouches): string {
  const { warns, endsWork } = sessionAct(key);
  return [
    counted(people, 'person', 'people'),
    counted(hosts, 'host', 'hosts'),
    counted(customers, 'customer', 'customers'),
    warns && minutes > 0 ? `in ${minutes} min` : 'at once',
    endsWork ? 'cannot be undone' : 'nothing is lost',
  ].join(' · ');
}
