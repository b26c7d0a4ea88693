import type { Intent } from './model';

/** By these a part of a list is known, wherever in it it stands. */
const NAMES = ['role', 'slot', 'name', 'number'] as const;

/** What an edit sets by the clock: it is another a second later, and nobody agrees to its second. */
const BY_CLOCK = new Set(['begunAt', 'keepUntil', 'leftAt']);

/**
 * What an edit takes out of a document and what it puts in, a line each: `- pools/desks/ceiling 9`, `+ pools/desks/ceiling 12`.
 * Two edits that say the same were made of the same, as far as they touch it; what they leave alone is in neither.
 */
export function editLines(before: Intent | null, after: Intent | null): string[] {
  const [was, is] = [new Set(linesOf(before ?? {}, '')), new Set(linesOf(after ?? {}, ''))];
  return [
    ...[...was].filter((line) => !is.has(line)).map((line) => `- ${line}`),
    ...[...is].filter((line) => !was.has(line)).map((line) => `+ ${line}`),
  ].sort();
}

function linesOf(value: unknown, path: string): string[] {
  if (Array.isArray(value))
    return value.flatMap((one: unknown) => {
      const name = nameOf(one);
      return name === undefined
        ? [`${path} ${JSON.stringify(one, (key, of: unknown) => (BY_CLOCK.has(key) ? '' : of))}`]
        : linesOf(one, `${path}/${name}`);
    });
  if (typeof value === 'object' && value !== null)
    return Object.entries(value).flatMap(([key, one]) =>
      // Of a disk that is put aside its end is by the clock, too; a grant's is what somebody chose.
      BY_CLOCK.has(key) || (key === 'until' && 'disk' in value)
        ? [`${path}/${key}`]
        : linesOf(one, `${path}/${key}`),
    );
  return value === undefined ? [] : [`${path} ${JSON.stringify(value)}`];
}

function nameOf(one: unknown): string | undefined {
  if (typeof one !== 'object' || one === null) return undefined;
  const by = NAMES.find((name) => name in one);
  return by && JSON.stringify((one as Readonly<Record<string, unknown>>)[by]);
}
