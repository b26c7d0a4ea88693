import { describe, expect, it } from 'vitest';
import { headerFault, readPeople } from '../../src/core/people';

const HEADER = ['account', 'given', 'family', 'mail'];
const MAREN = ['maren.v', 'Maren', 'Varsgaard', 'maren@svg.example'];

/** Why a row is refused; undefined: it is taken. The row differs from a good one in the named cells. */
function why(over: Partial<Record<'account' | 'given' | 'family' | 'mail', string>>): string | undefined {
  const cells = HEADER.map((column, n) => over[column as keyof typeof over] ?? MAREN[n] ?? '');
  const { good, bad } = readPeople(HEADER, [{ line: 2, cells }]);
  expect(good.length + bad.length).toBe(1);
  return bad[0]?.reason;
}

describe('the header of a people file', () => {
  it('names the four columns in any order and case, others beside them', () => {
    expect(headerFault(HEADER)).toBeUndefined();
    expect(headerFault([' Mail', 'FAMILY ', 'given', 'Account', 'room'])).toBeUndefined();
  });

  it('is told what it lacks', () => {
    expect(headerFault(['account', 'mail'])).toBe(
      'the first line must name the columns account, given, family, mail; missing: given, family',
    );
    expect(headerFault([])).toContain('missing: account, given, family, mail');
  });
});

describe('the rows of a people file', () => {
  it('take mail at names of any depth', () =>
    expect(why({ mail: 'maren@desk.north.svg.example' })).toBeUndefined());

  it('are read by their columns, without the space around them', () => {
    const { good, bad } = readPeople(
      [' MAIL ', 'room', 'family', 'given', 'Account'],
      [{ line: 4, cells: [' maren@svg.example ', '12', 'Varsgaard', ' Maren', 'maren.v '] }],
    );
    expect(bad).toEqual([]);
    expect(good).toEqual([
      { line: 4, account: 'maren.v', given: 'Maren', family: 'Varsgaard', mail: 'maren@svg.example' },
    ]);
  });

  // Common practice, no source: of 13 people, one bad, 12 are carried over and one is named.
  it('are kept, 12 of 13, and the bad one is named by its line', () => {
    const rows = Array.from({ length: 13 }, (_, i) => ({
      line: i + 2,
      cells: [`p${i}`, 'Aino', 'Varley', i === 6 ? 'no mail' : `p${i}@svg.example`],
    }));
    const { good, bad } = readPeople(HEADER, rows);
    expect(good).toHaveLength(12);
    expect(bad).toEqual([{ line: 8, reason: '"no mail" is not a mail address' }]);
  });

  it('have as many cells as the header', () => {
    const rows = [MAREN.slice(0, 3), [...MAREN, ''], MAREN].map((cells, n) => ({ line: n + 2, cells }));
    expect(readPeople(HEADER, rows).bad).toEqual([
      { line: 2, reason: 'has 3 cells, the header has 4' },
      { line: 3, reason: 'has 5 cells, the header has 4' },
    ]);
  });

  it('name an account once, whatever its case', () => {
    const { good, bad } = readPeople(HEADER, [
      { line: 2, cells: MAREN },
      { line: 3, cells: ['MAREN.V', 'Other', 'One', 'o@svg.example'] },
      { line: 4, cells: ['maren.w', 'Maren', 'Wick', 'w@svg.example'] },
    ]);
    expect(good.map(({ line }) => line)).toEqual([2, 4]);
    expect(bad).toEqual([{ line: 3, reason: 'account "maren.v" stands on line 2 already' }]);
  });

  it('a row that is refused does not take its account from a later one', () => {
    const { good, bad } = readPeople(HEADER, [
      { line: 2, cells: ['maren.v', 'Maren', 'Varsgaard', 'no mail'] },
      { line: 3, cells: MAREN },
    ]);
    expect([bad.map(({ line }) => line), good.map(({ line }) => line)]).toEqual([[2], [3]]);
  });

  it('have an account of letters, digits, dot, hyphen and underscore, from 1 to 64', () => {
    expect(why({ account: '' })).toBe('has no account');
    expect(why({ account: '   ' })).toBe('has no account');
    const faulty = ['.maren', '-m', '_m', 'ma ren', 'maren!', 'mären', 'a/b', 'x'.repeat(65)];
    for (const account of faulty)
      expect(why({ account })).toBe(
        `account "${account}" may hold letters, digits, dot, hyphen and underscore, at most 64`,
      );
    for (const account of ['m', '7', 'M.a-r_9', 'x'.repeat(64)]) expect(why({ account })).toBeUndefined();
  });

  it('have a name: one part of it is enough, and 80 characters of each', () => {
    expect(why({ given: '', family: '' })).toBe('has no name');
    expect(why({ given: '' })).toBeUndefined();
    expect(why({ family: '' })).toBeUndefined();
    expect(why({ given: 'g'.repeat(80), family: 'f'.repeat(80) })).toBeUndefined();
    expect(why({ given: 'g'.repeat(81) })).toBe('has a name longer than 80 characters');
    expect(why({ family: 'f'.repeat(81) })).toBe('has a name longer than 80 characters');
  });

  /* OWASP, "CSV Injection": what a spreadsheet takes for a formula begins with one of = + - @, a tab or a return. */
  it('begin no cell like a formula', () => {
    for (const first of ['=', '+', '-', '@'])
      for (const column of ['given', 'family', 'mail'] as const)
        expect(why({ [column]: `${first}a@b.example` })).toBe(
          `"${first}a@b.example" begins like a formula, which a spreadsheet would reckon when it is exported`,
        );
    expect(why({ family: 'Berg-Hansen', given: 'A+B=C@' })).toBeUndefined();
    // Cells are trimmed first, so that a tab is no danger.
    expect(why({ given: '\tMaren' })).toBeUndefined();
  });

  it('have a mail address of at most 254 characters (RFC 5321, 4.5.3.1.3)', () => {
    const faulty = [
      '',
      'maren',
      'maren@svg',
      'maren@',
      'a b@svg.example',
      'a@b@svg.example',
      'a@svg.example x',
      'x a@svg.example',
      'a@.x y',
    ];
    for (const mail of faulty) expect(why({ mail })).toBe(`"${mail}" is not a mail address`);
    const long = (count: number): string => `${'m'.repeat(count - 12)}@svg.example`;
    expect(why({ mail: long(254) })).toBeUndefined();
    expect(why({ mail: long(255) })).toContain('is not a mail address');
  });

  it('hold no hidden characters, in whatever cell', () => {
    expect(why({ given: 'Ma\u0000ren' })).toBeDefined();
    expect(why({ family: 'Vars\u202egaard' })).toBeDefined();
    const withRoom = readPeople([...HEADER, 'room'], [{ line: 2, cells: [...MAREN, 'a\u0007b'] }]);
    expect(withRoom.bad).toHaveLength(1);
  });
});
