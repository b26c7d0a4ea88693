import { createHash } from 'node:crypto';
import { DateTime } from 'luxon';

/** How one customer's people come and go. Hours are local, from 0; an end beyond 24 is after midnight. */
interface Pattern {
  readonly zone: string;
  readonly shifts: readonly { readonly from: number; readonly to: number }[];
  /** Whether people change shift each week. */
  readonly rotates: boolean;
  /** ISO weekdays that are worked. */
  readonly weekdays: readonly number[];
  /** Part of the people that comes on a working day. */
  readonly attendance: number;
  /** How far arrivals and departures stray, in hours either way. */
  readonly stray: number;
}

const HOUR_MS = 3_600_000;
const WORKDAYS = [1, 2, 3, 4, 5];
const OFFICE: Pattern = {
  zone: 'Europe/Dublin',
  shifts: [{ from: 8.5, to: 17.25 }],
  rotates: false,
  weekdays: WORKDAYS,
  attendance: 0.85,
  stray: 0.9,
};

const PATTERNS: Readonly<Record<string, Pattern>> = {
  MHP: {
    ...OFFICE,
    shifts: [
      { from: 6, to: 14 },
      { from: 14, to: 22 },
      { from: 22, to: 30 },
    ],
    rotates: true,
    weekdays: [1, 2, 3, 4, 5, 6, 7],
    attendance: 0.74,
    stray: 0.3,
  },
  SVG: {
    ...OFFICE,
    shifts: [
      { from: 7.5, to: 12.75 },
      { from: 7.75, to: 17.5 },
      { from: 8, to: 13 },
    ],
    weekdays: [1, 2, 3, 4, 5, 6],
    attendance: 0.82,
    stray: 0.6,
  },
  FPS: { ...OFFICE, shifts: [{ from: 7.5, to: 18 }], attendance: 0.9 },
  APT: { ...OFFICE, shifts: [{ from: 13, to: 22.5 }], weekdays: [3, 4, 5, 6, 7] },
};

/** What someone does at an instant who is in, and since when they have been. */
export interface Presence {
  readonly state: 'active' | 'idle';
  readonly since: number;
}

/** What the others do: most keep office hours, some begin early, some work in two shifts. */
const OTHERS: readonly Pattern[] = [
  OFFICE,
  { ...OFFICE, shifts: [{ from: 8, to: 16.5 }], attendance: 0.78 },
  { ...OFFICE, shifts: [{ from: 7, to: 15.5 }], stray: 0.5 },
  {
    ...OFFICE,
    shifts: [
      { from: 6, to: 14 },
      { from: 14, to: 22 },
    ],
    rotates: true,
    weekdays: [1, 2, 3, 4, 5, 6],
    attendance: 0.8,
    stray: 0.4,
  },
];

const patternOf = (customer: string): Pattern =>
  PATTERNS[customer] ?? OTHERS[Math.floor(chance(`${customer} keeps hours`) * OTHERS.length)] ?? OFFICE;

/** What someone's day will be, as instants; undefined: does not come. */
interface Day {
  readonly from: number;
  readonly to: number;
  readonly breakFrom: number;
}

const BREAK_MS = 0.6 * HOUR_MS;
/** Days that were worked out are kept: thousands are asked for again and again. */
const MOST_KEPT = 300_000;
const kept = new Map<string, Day | undefined>();
const days = new Map<string, { readonly at: number; readonly starts: readonly DateTime[] }>();

/** Whether someone is in at an instant; undefined: out. The same question has always the same answer. */
export function presence(customer: string, account: string, at: number): Presence | undefined {
  const pattern = patternOf(customer);
  for (const start of startsOf(pattern.zone, at)) {
    const day = dayOf(pattern, customer, account, start);
    if (day === undefined || at < day.from || at >= day.to) continue;
    const onBreak = at >= day.breakFrom && at < day.breakFrom + BREAK_MS;
    return { state: onBreak ? 'idle' : 'active', since: day.from };
  }
  return undefined;
}

/** The midnights before an instant that matter: of its own day, and of the day before. */
function startsOf(zone: string, at: number): readonly DateTime[] {
  const known = days.get(zone);
  if (known?.at === at) return known.starts;
  const start = DateTime.fromMillis(at, { zone }).startOf('day');
  const starts = [start, start.minus({ days: 1 })];
  days.set(zone, { at, starts });
  return starts;
}

function dayOf(pattern: Pattern, customer: string, account: string, start: DateTime): Day | undefined {
  const key = `${start.toMillis()} ${customer} ${account}`;
  if (kept.has(key)) return kept.get(key);
  if (kept.size >= MOST_KEPT) kept.clear();
  const day = workedOut(pattern, account, start);
  kept.set(key, day);
  return day;
}

function workedOut(pattern: Pattern, account: string, start: DateTime): Day | undefined {
  const date = start.toFormat('yyyy-MM-dd');
  if (!pattern.weekdays.includes(start.weekday)) return undefined;
  if (chance(`${account} ${date} comes`) > pattern.attendance) return undefined;
  const week = pattern.rotates ? start.weekNumber : 0;
  const shift = pattern.shifts[(Math.floor(chance(account) * 997) + week) % pattern.shifts.length];
  if (!shift) return undefined;
  const from = shift.from + (chance(`${account} ${date} from`) - 0.5) * 2 * pattern.stray;
  const to = shift.to + (chance(`${account} ${date} to`) - 0.5) * 2 * pattern.stray;
  const breakFrom = from + (to - from) * (0.4 + 0.2 * chance(`${account} ${date} break`));
  const instant = (hour: number): number => start.toMillis() + Math.round(hour * HOUR_MS);
  return { from: instant(from), to: instant(to), breakFrom: instant(breakFrom) };
}

/** A number from 0 to 1 that belongs to a text. */
export function chance(text: string): number {
  return createHash('sha256').update(text).digest().readUInt32BE(0) / 2 ** 32;
}
