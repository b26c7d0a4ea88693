import type { Money } from '../money';

export const UNDO = ['can be undone', 'cannot be undone'] as const;

/** What a change does, in the figures that people ask for first. */
export interface Impact {
  readonly people: number;
  readonly hosts: number;
  /** Change of the monthly cost; negative: less. */
  readonly monthly: Money;
  readonly seconds: number;
  readonly undo: (typeof UNDO)[number];
}

const counted = (count: number, one: string, many: string): string => `${count} ${count === 1 ? one : many}`;

/** The one-line summary: `12 people · 4 hosts · +83.20 a month · about 20 min · can be undone`. */
export function impactLine(impact: Impact, writeMoney: (amount: Money) => string): string {
  return [
    counted(impact.people, 'person', 'people'),
    counted(impact.hosts, 'host', 'hosts'),
    `${impact.monthly.minor > 0 ? '+' : ''}${writeMoney(impact.monthly)} a month`,
    `about ${Math.max(1, Math.round(impact.seconds / 60))} min`,
    impact.undo,
  ].join(' · ');
}
