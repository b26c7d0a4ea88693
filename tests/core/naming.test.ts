import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  capacityOf,
  mayMeet,
  nameAt,
  nameFaults,
  namesLeft,
  parseRule,
  planNames,
  writeRule,
} from '../../src/core/naming';

const context = { customer: 'SVG', environment: 'clinic', site: 'KQ', role: 'desks' };

const rule = (text: string) => {
  const read = parseRule(text);
  if (!read.ok) throw new Error(read.problem);
  return read.value;
};

describe('computer names', () => {
  // RFC 1001 section 14 and RFC 1002 section 4.1: 16 bytes, the last for the service, so 15 for the name.
  it('allows 15 characters and refuses 16', () => {
    expect(nameFaults('ABCDEFGHIJKLMNO')).toEqual([]);
    expect(nameFaults('ABCDEFGHIJKLMNOP')).toEqual(['has 16 characters; 15 is the most']);
  });

  // RFC 952 "ASSUMPTIONS" 1 with RFC 1123 section 2.1: letters, digits, hyphen; first may be a digit; no hyphen last.
  it.each([
    ['3COM', 0],
    ['A-1', 0],
    ['-A1', 1],
    ['A1-', 1],
    ['A_1', 1],
    ['A.1', 1],
    ['', 1],
  ])('%s has %i faults', (name, faults) => expect(nameFaults(name)).toHaveLength(faults));

  // RFC 1123 section 2.1 discusses how a name must not be taken for a dotted number.
  it('refuses a name of digits only', () => expect(nameFaults('12345')).toEqual(['may not be all digits']));
});

describe('rules', () => {
  it('makes names in upper case with a padded counter', () => {
    expect(nameAt(rule('{customer}-{environment}{counter:2}'), context, 7)).toBe('SVG-CLINIC07');
  });

  it.each(['{customer}', '{counter:2}{counter:2}', '{planet}{counter:2}', 'a_b{counter:2}', '{counter:9}'])(
    'refuses %s',
    (text) => expect(parseRule(text).ok).toBe(false),
  );

  it('is written as it was read', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('{customer}', '{site}', '{role}', '-', 'a', '7'), { maxLength: 6 }),
        fc.integer({ min: 1, max: 6 }),
        (parts, width) => {
          const text = [...parts, `{counter:${width}}`].join('');
          expect(writeRule(rule(text))).toBe(text);
        },
      ),
    );
  });

  it('says before building when a two-digit counter has to name 120 hosts', () => {
    const two = rule('{customer}-{counter:2}');
    expect(capacityOf(two)).toBe(99);
    expect(planNames(two, context, 120, []).missing).toBe(21);
  });

  it('has no fewer left for a name that counting never gives', () => {
    const two = rule('{customer}-{counter:2}');
    expect(['SVG-00', 'SVG-01', 'svg-99', 'SVG-1A'].map((name) => namesLeft(two, context, [name]))).toEqual([
      99, 98, 98, 99,
    ]);
  });

  it('passes over names in use, whatever their case', () => {
    const plan = planNames(rule('{customer}-{counter:2}'), context, 2, ['svg-01', 'SVG-03']);
    expect(plan.names).toEqual(['SVG-02', 'SVG-04']);
  });

  it('never gives a name twice, nor one that is taken', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 99 }),
        fc.array(fc.integer({ min: 1, max: 99 })),
        (count, takenValues) => {
          const two = rule('{customer}-{counter:2}');
          const taken = takenValues.map((value) => nameAt(two, context, value).toLowerCase());
          const { names, missing } = planNames(two, context, count, taken);
          const all = [...names, ...taken.map((name) => name.toUpperCase())];
          expect(new Set(names).size).toBe(names.length);
          expect(new Set(all).size).toBe(names.length + new Set(taken).size);
          expect(names.length + missing).toBe(count);
        },
      ),
    );
  });

  it('sees when the rules of two customers could meet', () => {
    const a = { rule: rule('{customer}{counter:3}'), context: { ...context, customer: 'AB1' } };
    const b = { rule: rule('{customer}{counter:2}'), context: { ...context, customer: 'AB12' } };
    const c = { rule: rule('{customer}-{counter:2}'), context: { ...context, customer: 'AB1' } };
    expect(mayMeet(a, b)).toBe(true);
    expect(mayMeet(a, c)).toBe(false);
  });

  it('finds that two rules may meet whenever they do', () => {
    const codes = fc.constantFrom('A1', 'A12', 'AB', 'A');
    const texts = fc.constantFrom('{customer}{counter:1}', '{customer}{counter:2}', '{customer}1{counter:1}');
    fc.assert(
      fc.property(codes, codes, texts, texts, (codeA, codeB, textA, textB) => {
        const a = { rule: rule(textA), context: { ...context, customer: codeA } };
        const b = { rule: rule(textB), context: { ...context, customer: codeB } };
        const all = (one: typeof a) =>
          new Set(
            Array.from({ length: capacityOf(one.rule) }, (_, i) => nameAt(one.rule, one.context, i + 1)),
          );
        const namesOfB = all(b);
        if ([...all(a)].some((name) => namesOfB.has(name))) expect(mayMeet(a, b)).toBe(true);
      }),
    );
  });
});
