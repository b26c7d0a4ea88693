const CONTROL = /[\u0000-\u001f\u007f-\u009f]/;
/** Marks that turn the direction of what is around them (Unicode, UAX 9): a name could look like another. */
const TURNING = /[\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]/;
const BROKEN = '\ufffd';

/**
 * What is wrong with a text that stands on one line: control characters, marks that turn its direction, or bytes that
 * were not UTF-8 and were read as U+FFFD.
 * @returns undefined when it is plain
 * @example
 * unplainness('Zoë Åström'); // undefined
 * unplainness('Zo\u202eë'); // 'holds a mark that turns its direction'
 */
export function unplainness(text: string): string | undefined {
  if (text.includes(BROKEN)) return 'holds bytes that are not UTF-8';
  if (CONTROL.test(text)) return 'holds a control character';
  return TURNING.test(text) ? 'holds a mark that turns its direction' : undefined;
}

/** Letters that Unicode does not take apart (NFKD), as one writes them without. */
const PLAIN: Readonly<Record<string, string>> = {
  ß: 'ss',
  æ: 'ae',
  œ: 'oe',
  ø: 'o',
  đ: 'd',
  ð: 'd',
  ł: 'l',
  þ: 'th',
  ı: 'i',
};

/**
 * Texts as they are looked for: without case, accents or difference of width (Unicode, NFKD without marks), joined by a
 * space. What is kept and what is asked for are both written so, and are then compared byte by byte.
 * @example
 * findable('Zoë', 'ÅSTRÖM', 'Sørli'); // 'zoe astrom sorli'
 */
export const findable = (...texts: readonly string[]): string =>
  texts
    .join(' ')
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[ßæœøđðłþı]/g, (letter) => PLAIN[letter] ?? letter);
