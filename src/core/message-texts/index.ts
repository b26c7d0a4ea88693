import { ok, refuse, type Result } from '../result';

/** What a text to people may name, in braces: it stands there for each who reads it. */
export const TEXT_NAMES = ['person', 'customer', 'host', 'minutes'] as const;
export type TextName = (typeof TEXT_NAMES)[number];

/** What stands for the names that are known where the text is read. */
export type TextValues = Readonly<Partial<Record<TextName, string>>>;

/** The most that somebody reads, in letters: what is in braces can be longer than what stands for it. */
export const MOST_READ = 600;

const NAMED = /\{([^{}]*)\}/g;

/**
 * Names in a text that nobody knows where it would be read. What is in braces and no small word is not taken for a name.
 * @example
 * unknownNames('{person}, {hots} restarts', ['person', 'host']) // ['hots']
 */
export const unknownNames = (text: string, known: readonly TextName[]): string[] =>
  [...text.matchAll(NAMED)]
    .map(([, name = '']) => name)
    .filter((name) => /^[a-z]+$/.test(name) && !known.some((one) => one === name));

/**
 * A text as one person reads it. What stands for a name is not looked through for names itself.
 * @returns refused with a sentence where it names what is not known, or comes to more than `MOST_READ` letters
 * @example
 * readAs('{person}: {host} restarts.', { person: 'Ada Marl', host: 'QFB-KQ-01' }) // { ok: true, value: 'Ada Marl: QFB-KQ-01 restarts.' }
 */
export function readAs(text: string, values: TextValues): Result<string> {
  const known = TEXT_NAMES.filter((name) => values[name] !== undefined);
  const [unknown] = unknownNames(text, known);
  if (unknown !== undefined)
    return refuse(`{${unknown}} is not known here; ${known.map((name) => `{${name}}`).join(', ')} can stand`);
  const read = text.replace(NAMED, (whole, name: string) => valueOf(values, name) ?? whole);
  return [...read].length > MOST_READ ? refuse(`comes to more than ${MOST_READ} letters`) : ok(read);
}

function valueOf(values: TextValues, name: string): string | undefined {
  const known = TEXT_NAMES.find((one) => one === name);
  return known && values[known];
}
