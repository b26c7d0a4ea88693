import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readDocument } from '../../src/core/documents';
import { isLdif, parseDn, parseLdif } from '../../src/core/ldap';
import { identity } from '../../src/core/text';
import { faultOfValue, isUnsafeKey } from '../../src/core/untrusted';

const BOUNDS = { depth: 5, entries: 50 } as const;

describe('a value from outside', () => {
  it.each([
    '__proto__',
    'constructor',
    'prototype',
    '__proto__.a',
    'a.__proto__',
    'a[constructor]',
    '__PROTO__',
  ])('may not have the key %s, at any depth', (key) => {
    expect(isUnsafeKey(key)).toBe(true);
    const inner = JSON.parse(`{"${key}": 1}`) as unknown;
    for (const value of [inner, [inner], { a: { b: [inner] } }])
      expect(faultOfValue(value, BOUNDS)).toBe('has a key that is not allowed');
  });

  it.each(['proto', 'prototypes', 'constructors', 'my_constructor', 'the __proto__s'])(
    'may have the key %s',
    (key) => expect(isUnsafeKey(key)).toBe(false),
  );

  it('is as deep and as long as it may be, and no more', () => {
    const nested = (depth: number): unknown => (depth === 0 ? 1 : [nested(depth - 1)]);
    expect(faultOfValue(nested(5), BOUNDS)).toBeUndefined();
    expect(faultOfValue(nested(6), BOUNDS)).toContain('deeper');
    expect(faultOfValue(Array(50).fill(0), BOUNDS)).toBeUndefined();
    expect(faultOfValue(Array(51).fill(0), BOUNDS)).toContain('more than 50');
  });

  it('that is plain JSON and small enough is let through', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 3 }), (value) => {
        fc.pre(!JSON.stringify(value).match(/proto|constructor/i));
        expect(faultOfValue(value, { depth: 100, entries: 100_000 })).toBeUndefined();
      }),
    );
  });
});

describe('a name by which somebody is known', () => {
  // Unicode 15, UAX 15 and CaseFolding.txt, from memory: letters that a tolerant comparison takes for plain ones.
  it.each([
    ['svĝ.example', 'svg.example'],
    ['aıno', 'aino'],
    ['AİNO', 'aino'],
    ['\u212aim', 'kim'],
    ['stra\u00dfe', 'strasse'],
    ['ａｎｎ', 'ann'],
    ['ann ', 'ann'],
    ['ſam', 'sam'],
    ['ann\u200b', 'ann'],
    ['аnn', 'ann'],
  ])('%s is not %s', (a, b) => expect(identity(a)).not.toBe(identity(b)));

  it('is the same in capitals and however its accents are written', () => {
    expect(identity('Zoë.Åström')).toBe(identity('ZOE\u0308.A\u030aSTRO\u0308M'));
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => identity(identity(text)) === identity(text)),
    );
  });

  it('never becomes plain', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', minLength: 1 }), (text) => {
        const isPlain = (one: string): boolean => /^[\u0000-\u007f]*$/.test(one);
        expect(isPlain(identity(text))).toBe(isPlain(text));
      }),
    );
  });
});

/* Each of these took seconds, minutes or for ever; none takes more now than its length. */
describe('a document that costs more than it is worth', () => {
  const repeated = (part: (n: number) => string, times: number): string =>
    Array.from({ length: times }, (_, n) => part(n)).join('');
  it.each<[string, string, string | undefined]>([
    ['many keys', repeated((n) => `k${n}: 1\n`, 9_000), undefined],
    ['keys in one line', `{${repeated((n) => `k${n}: 1,`, 9_000)}}`, undefined],
    ['brackets', '['.repeat(40_000) + ']'.repeat(40_000), 'nested too deep'],
    ['lists in lists', '- '.repeat(40_000), 'nested too deep'],
    ['anchors', repeated((n) => `k${n}: &a${n} 1\nj${n}: *a${n}\n`, 3_000), 'repeats itself'],
    ['quotes', '"'.repeat(99_000), ''],
    ['characters', 'a'.repeat(100_001), 'longer than'],
    ['a key twice', 'a: 1\nb: 2\na: 3', 'a is there twice'],
    ['a key that reaches a prototype', 'a:\n  __proto__: {x: 1}', 'not allowed'],
  ])('%s', (_what, text, says) => {
    const [fault] = readDocument(text).faults;
    if (says === undefined) expect(fault).toBeUndefined();
    else expect(fault?.says).toContain(says);
  });

  it('is told where its key stands twice', () =>
    expect(readDocument('a: 1\nb:\n  c: 1\n  c: 2').faults).toMatchObject([{ line: 4, column: 3 }]));
});

describe('a file of a directory that costs more than it is worth', () => {
  it.each([
    ['blank lines', '\r\n'.repeat(100_000)],
    ['blank lines and comments', '#\r\n\r\n'.repeat(50_000)],
    ['spaces', ' '.repeat(1_000_000)],
  ])('%s', (_what, text) => {
    expect(isLdif(text)).toBe(false);
    expect(isLdif(`${text.slice(0, 100)}\r\ndn: uid=a`)).toBe(true);
  });

  it('is read in one go however often a line is folded or an attribute comes', () => {
    const folded = `dn: uid=a\ndescription: a\n${' b\n'.repeat(400_000)}`;
    expect(parseLdif(folded).entries[0]?.attributes.get('description')?.[0]).toHaveLength(400_001);
    const many = `dn: uid=a\n${'member: uid=b\n'.repeat(200_000)}`;
    expect(parseLdif(many).entries[0]?.attributes.get('member')).toHaveLength(200_000);
    expect(parseLdif(`dn: uid=a\na${';o'.repeat(200_000)}: b`).faults).toHaveLength(1);
  });

  it('names an entry in so many characters at most, with blanks where they may be', () => {
    expect(parseDn(`cn=a${' '.repeat(7_900)}b`)?.[0]?.value).toHaveLength(7_902);
    expect(parseDn(`cn=${' '.repeat(9_000)}`)).toBeUndefined();
    expect(parseDn('cn=a\\  ')).toEqual([{ type: 'cn', value: 'a ' }]);
    expect(parseDn('cn=a\\\\  ')).toEqual([{ type: 'cn', value: 'a\\' }]);
  });
});
