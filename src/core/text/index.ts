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

const ASCII = /^[\u0000-\u007f]*$/;

/** A letter in lower case. A foreign letter that would become a plain one, such as the Kelvin sign, equals nothing. */
function lower(letter: string): string {
  const lowered = letter.normalize('NFC').toLowerCase();
  return ASCII.test(lowered) && !ASCII.test(letter) ? '\ufffd' : lowered;
}

/**
 * A name by which somebody or something is known (an account, a mail address, a host), as it is compared: lower case and
 * NFC (Unicode, UAX 15), byte by byte. Accents, width and spaces count, and no foreign letter becomes a plain one.
 * @example
 * identity('Aino.Underhill') // 'aino.underhill'
 * identity('svĝ') === identity('svg') // false
 */
export const identity = (text: string): string => Array.from(text, lower).join('').normalize('NFC');
