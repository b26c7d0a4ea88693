import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  asksFirst,
  comparePeople,
  reached,
  wayTo,
  type DirectoryPerson,
  type KnownPerson,
} from '../../src/core/people';

const now = (id: string, over: Partial<DirectoryPerson> = {}): DirectoryPerson => ({
  id,
  account: id,
  given: id,
  family: 'Holm',
  mail: `${id}@hsb.example`,
  unit: '',
  disabled: false,
  ...over,
});
const known = (id: string, over: Partial<KnownPerson> = {}): KnownPerson => {
  const { disabled: _off, ...rest } = now(id);
  return { ...rest, id: `our-${id}`, directoryId: id, leftAt: null, ...over };
};
const said = (before: readonly KnownPerson[], after: readonly DirectoryPerson[]): string => {
  const { added, changed, returned, left, same, unfit } = comparePeople(before, after);
  const ids = (of: readonly { readonly id: string }[]): string => of.map(({ id }) => id).join();
  const pairs = (of: readonly { readonly known: KnownPerson; readonly now: DirectoryPerson }[]): string =>
    of.map((one) => `${one.known.id}→${one.now.account}`).join();
  return `+${ids(added)} ~${pairs(changed)} ^${pairs(returned)} -${ids(left)} =${same} !${unfit.map((one) => one.account).join()}`;
};

describe('what changed in a directory', () => {
  it('is told by who came, went, came back and is called otherwise', () =>
    expect(
      said(
        [known('a'), known('b'), known('c'), known('d', { leftAt: 5 })],
        [now('a'), now('b', { family: 'Ek' }), now('d'), now('e')],
      ),
    ).toBe('+e ~our-b→b ^our-d→d -our-c =1 !'));

  it.each<[string, KnownPerson[], DirectoryPerson[], string]>([
    [
      'another account is the same person',
      [known('a')],
      [now('a', { account: 'Anna' })],
      '+ ~our-a→anna ^ - =0 !',
    ],
    ['another case is the same account', [known('a')], [now('a', { account: 'A' })], '+ ~ ^ - =1 !'],
    ['another unit is a change', [known('a')], [now('a', { unit: 'Office' })], '+ ~our-a→a ^ - =0 !'],
    [
      'two that changed accounts with each other stay themselves',
      [known('a'), known('b')],
      [now('a', { account: 'b' }), now('b', { account: 'a' })],
      '+ ~our-a→b,our-b→a ^ - =0 !',
    ],
    [
      'an account that somebody else has now is not the person who had it',
      [known('a')],
      [now('new', { account: 'a' })],
      '+new ~ ^ -our-a =0 !',
    ],
    [
      'who came from a file is whom the directory knows by that account',
      [known('a', { directoryId: null })],
      [now('x1', { account: 'A' })],
      '+ ~our-a→a ^ - =0 !',
    ],
    ['who came from a file and is not in it stays', [known('a', { directoryId: null })], [], '+ ~ ^ - =0 !'],
    ['who left is not said to leave again', [known('a', { leftAt: 5 })], [], '+ ~ ^ - =0 !'],
    [
      'the account of one who cannot be taken in stays theirs',
      [known('d1', { account: 'ben' })],
      [now('d1', { account: 'ben hur' }), now('d2', { account: 'ben' })],
      '+ ~ ^ - =0 !ben hur,ben',
    ],
    [
      'who keeps an account because theirs was refused keeps it from the next too',
      [known('d1', { account: 'ben' }), known('d2', { account: 'cai' })],
      [now('d1', { account: 'ben hur' }), now('d2', { account: 'ben' }), now('d3', { account: 'cai' })],
      '+ ~ ^ - =0 !ben hur,ben,cai',
    ],
    [
      'one account stands for one person, whatever its case',
      [],
      [now('a'), now('b', { account: 'A' })],
      '+a ~ ^ - =0 !A',
    ],
    ['who cannot be read well has not left', [known('a')], [now('a', { mail: 'none' })], '+ ~ ^ - =0 !a'],
    [
      'an account that somebody from a file has is not given to another',
      [known('a', { directoryId: null }), known('b')],
      [now('b', { account: 'a' })],
      '+ ~ ^ - =0 !a',
    ],
    [
      'who left and cannot be taken in keeps no account from others',
      [known('d1', { account: 'ben', leftAt: 5 })],
      [now('d1', { account: 'ben hur' }), now('d2', { account: 'ben' })],
      '+d2 ~ ^ - =0 !ben hur',
    ],
    [
      'the account of one from a file who left is somebody else’s',
      [known('a', { directoryId: null, leftAt: 5 })],
      [now('x1', { account: 'a' })],
      '+x1 ~ ^ - =0 !',
    ],
    [
      'one from a file who is in the directory with the very same is known by it from then on',
      [known('a', { directoryId: null })],
      [{ ...now('a'), id: 'x1' }],
      '+ ~our-a→a ^ - =0 !',
    ],
  ])('%s', (_says, before, after, expected) => expect(said(before, after)).toBe(expected));

  it('is nothing once it has been taken in, whatever it was', () =>
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.constantFrom(...'abcdefgh'), { maxLength: 8 }),
        fc.uniqueArray(fc.constantFrom(...'abcdefgh'), { maxLength: 8 }),
        (before, after) => {
          const first = before.map((id) => known(id));
          const read = after.map((id) => now(id, { family: before.includes(id) ? 'Ek' : 'Holm' }));
          const { added, changed, left, same } = comparePeople(first, read);
          expect(added.length + changed.length + same).toBe(after.length);
          expect(left.length).toBe(before.filter((id) => !after.includes(id)).length);
          const taken = read.map(({ disabled: _off, ...one }) => ({
            ...one,
            id: `our-${one.id}`,
            directoryId: one.id,
            leftAt: null,
          }));
          expect(comparePeople(taken, read)).toMatchObject({
            added: [],
            changed: [],
            left: [],
            same: after.length,
          });
        },
      ),
    ));

  it('is the same by what was told alone as by all that is there', () => {
    const ids = 'abcdefgh'.split('');
    // What may have become of somebody since they were taken in; the first two are told of nobody.
    const fates = ['same', 'gone', 'renamed', 'otherwise', 'moved', 'unreadable', 'told and same'] as const;
    const made = (id: string, fate: (typeof fates)[number]): DirectoryPerson[] => {
      switch (fate) {
        case 'gone':
          return [];
        case 'renamed':
          return [now(id, { account: `${id}${id}` })];
        case 'otherwise':
          return [now(id, { family: 'Ek' })];
        case 'moved':
          return [now(id, { unit: 'Office' })];
        case 'unreadable':
          return [now(id, { mail: 'none' })];
        default:
          return [now(id)];
      }
    };
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(...fates), { minLength: 8, maxLength: 8 }),
        fc.subarray(ids),
        fc.uniqueArray(fc.constantFrom('x', 'y'), { maxLength: 2 }),
        (fate, here, come) => {
          const before = ids.map((id) => known(id, here.includes(id) ? {} : { leftAt: 5 }));
          const after = [
            ...ids.flatMap((id, n) => made(id, fate[n] ?? 'same')),
            ...come.map((id) => now(id)),
          ];
          const told = new Set([
            ...ids.filter((id, n) => !['same', 'gone'].includes(fate[n] ?? '') || !here.includes(id)),
            ...come,
          ]);
          expect(comparePeople(before, after, told)).toEqual(comparePeople(before, after));
        },
      ),
    );
  });

  it('never leaves one account with two people, whoever left, came back, was renamed, refused or not told of', () => {
    const ids = ['a', 'b', 'c', 'd'];
    const account = fc.constantFrom('ann', 'ben', 'cai', 'ben hur');
    const before = fc.record({ account: fc.constantFrom('ann', 'ben', 'cai', 'dee'), gone: fc.boolean() });
    const after = fc.record({ account, is: fc.constantFrom('there', 'there', 'told', 'gone') });
    fc.assert(
      fc.property(
        fc.array(before, { minLength: 4, maxLength: 4 }),
        fc.array(after, { minLength: 4, maxLength: 4 }),
        (were, are) => {
          const held = new Set<string>();
          const first = ids.map((id, n) => {
            const { account, gone } = were[n] ?? { account: 'ann', gone: true };
            const left = gone || held.has(account);
            if (!left) held.add(account);
            return known(id, { account, leftAt: left ? 5 : null });
          });
          const told = new Set(ids.filter((_id, n) => are[n]?.is === 'told'));
          // Who was not told of is as they are known here.
          const read = ids.flatMap((id, n) =>
            are[n]?.is === 'gone'
              ? []
              : [now(id, { account: (told.has(id) ? are[n]?.account : first[n]?.account) ?? '' })],
          );
          const { added, changed, returned, left } = comparePeople(first, read, told);
          const out = new Set(
            [...left, ...[...changed, ...returned].map((one) => one.known)].map((one) => one.id),
          );
          const here = [
            ...first.filter((one) => one.leftAt === null && !out.has(one.id)).map((one) => one.account),
            ...added.map((one) => one.account),
            ...[...changed, ...returned].map((one) => one.now.account),
          ];
          expect(here).toHaveLength(new Set(here).size);
        },
      ),
      { numRuns: 2000 },
    );
  });

  it('gives nobody an account that somebody has of whom nothing was told', () => {
    const { changed, added, unfit, left } = comparePeople(
      [known('a'), known('b'), known('d')],
      [now('a'), now('b', { account: 'A' }), now('c', { account: 'D' }), now('d')],
      new Set(['b', 'c']),
    );
    expect([changed, added, left]).toEqual([[], [], []]);
    expect(unfit.map(({ account, reason }) => `${account} ${reason}`)).toEqual([
      'a is the account of somebody else',
      'd is the account of somebody else',
    ]);
  });

  it('says whose an account is that cannot be given', () =>
    expect(
      comparePeople([known('a', { directoryId: null }), known('b')], [now('b', { account: 'a' })]).unfit,
    ).toEqual([{ id: 'b', account: 'a', reason: 'is the account of somebody who came from a file' }]));

  it('takes in again who is back and of whom nothing was told', () =>
    expect(comparePeople([known('a', { leftAt: 5 })], [now('a')], new Set()).returned).toHaveLength(1));

  // A tenth is ours to say: common practice, no source.
  it.each([
    [0, 0, false],
    [2, 3, false],
    [3, 20, true],
    [10, 100, false],
    [11, 100, true],
    [40, 100, true],
  ])('of %i leaving of %i is asked about first: %s', (leaving, here, asked) =>
    expect(asksFirst({ leaving, here })).toBe(asked),
  );
});

describe('what can be reached', () => {
  const next: Record<string, string[]> = { a: ['b', 'c'], b: ['d'], c: ['d', 'a'], d: ['a'] };
  const found = reached(['a'], (one) => next[one] ?? []);

  it('is each once, the nearest first, round a circle too', () =>
    expect([...found]).toEqual([
      ['a', null],
      ['b', 'a'],
      ['c', 'a'],
      ['d', 'b'],
    ]));

  it('is shown with the way to it', () => {
    expect(wayTo(found, 'd')).toEqual(['a', 'b', 'd']);
    expect(wayTo(found, 'a')).toEqual(['a']);
    expect(wayTo(found, 'z')).toEqual([]);
  });

  it('is what a naive walk finds, on graphs of all kinds', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat({ max: 12 }), fc.nat({ max: 12 })), { maxLength: 40 }),
        fc.nat({ max: 12 }),
        (edges, from) => {
          const naive = new Set([from]);
          for (let before = 0; before < naive.size;) {
            before = naive.size;
            for (const [a, b] of edges) if (naive.has(a)) naive.add(b);
          }
          const walked = reached([String(from)], (one) =>
            edges.filter(([a]) => String(a) === one).map(([, b]) => String(b)),
          );
          expect([...walked.keys()].map(Number).sort((a, b) => a - b)).toEqual(
            [...naive].sort((a, b) => a - b),
          );
          for (const one of walked.keys()) {
            const way = wayTo(walked, one).map(Number);
            expect(way[0]).toBe(from);
            for (const [n, at] of way.entries()) if (n > 0) expect(edges).toContainEqual([way[n - 1], at]);
          }
        },
      ),
    ));
});
