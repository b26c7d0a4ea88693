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

/** Whether someone is in at an instant; undefined: out. The same question has always the same answer. */
export function presence(customer: string, account: string, at: number): Presence | undefined {
  const pattern = PATTERNS[customer] ?? OFFICE;
  const now = DateTime.fromMillis(at, { zone: pattern.zone });
  return (
    onDay(pattern, account, now.startOf('day'), at) ??
    onDay(pattern, account, now.startOf('day').minus({ days: 1 }), at)
  );
}

function onDay(pattern: Pattern, account: string, day: DateTime, at: number): Presence | undefined {
  const hour = (at - day.toMillis()) / HOUR_MS;
  const date = day.toFormat('yyyy-MM-dd');
  if (!pattern.weekdays.includes(day.weekday)) return undefined;
  if (chance(`${account} ${date} comes`) > pattern.attendance) return undefined;
  const week = pattern.rotates ? day.weekNumber : 0;
  const shift = pattern.shifts[(Math.floor(chance(account) * 997) + week) % pattern.shifts.length];
  if (!shift) return undefined;
  const from = shift.from + (chance(`${account} ${date} from`) - 0.5) * 2 * pattern.stray;
  const to = shift.to + (chance(`${account} ${date} to`) - 0.5) * 2 * pattern.stray;
  if (hour < from || hour >= to) return undefined;
  const breakAt = from + (to - from) * (0.4 + 0.2 * chance(`${account} ${date} break`));
  const onBreak = hour >= breakAt && hour < breakAt + 0.6;
  return { state: onBreak ? 'idle' : 'active', since: day.toMillis() + Math.round(from * HOUR_MS) };
}

/** A number from 0 to 1 that belongs to a text. */
export function chance(text: string): number {
  return createHash('sha256').update(text).digest().readUInt32BE(0) / 2 ** 32;
}
