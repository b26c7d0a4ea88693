import { describe, expect, it } from 'vitest';
import { findable, unplainness } from '../../src/core/text';

describe('a text on one line', () => {
  it('may be in any script', () => {
    for (const text of ['Zoë Åström', 'Łukasz', '李小龍', 'נועה', 'Νίκος', 'O’Brien', ''])
      expect([text, unplainness(text)]).toEqual([text, undefined]);
  });

  // Unicode 15, Bidi_Control property: U+061C, U+200E..200F, U+202A..202E, U+2066..2069.
  it('holds none of the twelve marks of Unicode that turn its direction', () => {
    const marks = [
      0x61c, 0x200e, 0x200f, 0x202a, 0x202b, 0x202c, 0x202d, 0x202e, 0x2066, 0x2067, 0x2068, 0x2069,
    ];
    for (const mark of marks)
      expect([mark, unplainness(`a${String.fromCodePoint(mark)}b`)]).toEqual([
        mark,
        'holds a mark that turns its direction',
      ]);
    expect(marks.every((mark) => /\p{Bidi_Control}/u.test(String.fromCodePoint(mark)))).toBe(true);
  });

  it('holds no control character of either set (ISO/IEC 6429)', () => {
    for (let code = 0; code < 0xa0; code++) {
      const isControl = code < 0x20 || code >= 0x7f;
      expect([code, unplainness(`a${String.fromCharCode(code)}b`)]).toEqual([
        code,
        isControl ? 'holds a control character' : undefined,
      ]);
    }
  });

  it('is known to have been read from bytes that were no UTF-8', () => {
    const latin1 = new TextDecoder().decode(Uint8Array.from([0x5a, 0x6f, 0xeb]));
    expect(unplainness(latin1)).toBe('holds bytes that are not UTF-8');
  });
});

describe('a text that is looked for', () => {
  it('is found without its accents, case and width', () => {
    expect(findable('Zoë', 'ÅSTRÖM')).toBe('zoe astrom');
    expect(findable('Łukasz Sørensen-Weiß')).toBe('lukasz sorensen-weiss');
    expect(findable('ＭＨＰ-01')).toBe('mhp-01');
    expect(findable('李小龍')).toBe('李小龍');
  });

  // ISO/IEC 8859-1 and 8859-2: every letter of theirs, as one writes it on a keyboard without it.
  it('knows each letter of the Latin alphabets of Europe', () => {
    for (const set of ['iso-8859-1', 'iso-8859-2']) {
      const letters = new TextDecoder(set).decode(Uint8Array.from({ length: 64 }, (_, i) => 0xc0 + i));
      for (const letter of letters.match(/\p{L}/gu) ?? [])
        expect([letter, /^[a-z]{1,2}$/.test(findable(letter))]).toEqual([letter, true]);
    }
  });

  it('is the same when it was written so already', () => {
    const once = findable('Þórdís Ægir', 'ĐURĐEVIĆ');
    expect(findable(once)).toBe(once);
    expect(once).toBe('thordis aegir durdevic');
  });
});
