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
    const who = one.cause === 'by hand' ? `by ${one.by === '' ? 'hand' : one.by}` : `: ${one.cause}`;
    const key = `${who}${one.why === '' ? '' : `: ${one.why}`}, ${untilSays(one, zone)}`;
    lines.set(key, [...(lines.get(key) ?? []), wordOf(one)]);
  }
  return [...lines].map(([key, words]) => {
    const [first = '', ...rest] = words;
    const what = [first, ...rest.map((word) => word.toLowerCase())].join(', ');
    return `${what}${key.startsWith(':') ? '' : ' '}${key}`;
  });
}
