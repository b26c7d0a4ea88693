import type { Money } from '../money';

export const UNDO = ['can be undone', 'cannot be undone'] as const;

/** What a change does, in the figures that people ask for first. */
export interface Impact {
  readonly people: number;
  readonly hosts: number;
  /** Change of the monthly cost; negative: less. */
  readonly monthly: Money;
  readonly seconds: number;
  /** By when it is done nine times of ten, as was measured; left out: that is not known. */
  readonly late?: number | undefined;
  readonly undo: (typeof UNDO)[number];
}

const counted = (count: number, one: string, many: string): string => `${count} ${count === 1 ? one : many}`;

const inMinutes = (seconds: number): number => Math.max(1, Math.round(seconds / 60));

/** `20`, or where it was measured how far that strays, `20 to 26`. */
function minutes({ seconds, late }: Impact): string {
  const [usual, most] = [inMinutes(seconds), inMinutes(late ?? seconds)];
  return most > usual ? `${usual} to ${most}` : String(usual);
}

/** The one-line summary: `12 people · 4 hosts · +83.20 a month · about 20 min · can be undone`. */
export function impactLine(impact: Impact, writeMoney: (amount: Money) => string): string {
  return [
    counted(impact.people, 'person', 'people'),
    counted(impact.hosts, 'host', 'hosts'),
    `${impact.monthly.minor > 0 ? '+' : ''}${writeMoney(impact.monthly)} a month`,
    `about ${minutes(impact)} min`,
    impact.undo,
  ].join(' · ');
}
