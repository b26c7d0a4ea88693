import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MOST_READ, readAs, TEXT_NAMES, unknownNames } from '../../src/core/message-texts';

const ADA = { person: 'Ada Marl', customer: 'Quillfeather Bindery', host: 'QFB-KQ-01' };

describe('a text to many, as one reads it', () => {
  it.each([
    ['names', '{person} on {host}', 'Ada Marl on QFB-KQ-01'],
    ['a name twice', '{host} and {host}', 'QFB-KQ-01 and QFB-KQ-01'],
    ['no names', 'Lunch is ready.', 'Lunch is ready.'],
    [
      'braces that are no names',
      'the set {1, 2}, {}, {Person} and }{',
      'the set {1, 2}, {}, {Person} and }{',
    ],
    ['a name in braces of its own', '{{person}}', '{Ada Marl}'],
  ])('has %s filled', (_what, text, read) => {
    expect(readAs(text, ADA)).toEqual({ ok: true, value: read });
  });

  it('is refused where it names what nobody knows there', () => {
    expect(readAs('{person}, in {minutes} minutes', ADA)).toEqual({
      ok: false,
      problem: '{minutes} is not known here; {person}, {customer}, {host} can stand',
    });
    expect(readAs('{constructor}', ADA).ok).toBe(false);
    expect(unknownNames('{hots} {host} {tostring}', TEXT_NAMES)).toEqual(['hots', 'tostring']);
  });

  it('is refused where it would come to more than is read', () => {
    const text = '{customer}'.repeat(40);
    expect(readAs(text, { customer: 'x'.repeat(MOST_READ / 40) }).ok).toBe(true);
    expect(readAs(text, { customer: 'x'.repeat(MOST_READ / 40 + 1) }).ok).toBe(false);
  });

  it('never looks into what stands for a name', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 80 }), (person) => {
        expect(readAs('<{person}>', { person, host: 'SECRET' })).toEqual({ ok: true, value: `<${person}>` });
      }),
    );
    expect(readAs('{person}', { person: '{host} $& {person}', host: 'SECRET' })).toEqual({
      ok: true,
      value: '{host} $& {person}',
    });
  });
});
