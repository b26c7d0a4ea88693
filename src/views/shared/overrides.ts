import type { Host, HostOverride } from '../../contract';
import { writeWhen } from '../../client/format';

/** What an override wants of a host, in a word. */
function wordOf({ attribute, wants }: HostOverride): string {
  switch (attribute) {
    case 'power':
      return wants === 'off' ? 'Off' : 'Kept on';
    case 'accepting':
      return wants === 'false' ? 'Drained' : 'Open to people';
    case 'picture':
      return 'Picture kept';
  }
}

/** `until 24 Nov 22:00`, or `until removed`. */
export const untilSays = ({ until }: Pick<HostOverride, 'until'>, zone: string): string =>
  until === null ? 'until removed' : `until ${writeWhen(until, zone)}`;

/** Those that decide what is wanted of a host: of each attribute the one that wins. */
export const deciding = ({ overrides }: Pick<Host, 'overrides'>): HostOverride[] =>
  overrides.filter(
    (one, index) => overrides.findIndex(({ attribute }) => attribute === one.attribute) === index,
  );

/** Overrides in lines, those of one cause, reason and end together: `Off, drained by Ida Quist: a new disk, until removed`. */
export function overrideLines(host: Pick<Host, 'overrides'>, zone: string): string[] {
  const lines = new Map<string, string[]>();
  for (const one of deciding(host)) {
    const reason = one.why === '' ? '' : `: ${one.why}`;
    const rest = `${causeSays(one)}${reason}${one.cause === 'by hand' ? `, ${untilSays(one, zone)}` : ''}`;
    lines.set(rest, [...(lines.get(rest) ?? []), wordOf(one)]);
  }
  return [...lines].map(
    ([rest, [first = '', ...others]]) =>
      `${[first, ...others.map((word) => word.toLowerCase())].join(', ')} ${rest}`,
  );
}

function causeSays({ cause, by }: HostOverride): string {
  switch (cause) {
    case 'by hand':
      return `by ${by === '' ? 'hand' : by}`;
    case 'customer paused':
      return 'while the customer is paused';
    case 'rota':
      return 'by the rota';
  }
}
