import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ATTENTION_KINDS, hardshipOf, inOrderOfLooking, pressOf } from '../../src/core/looks';
import { HARMS, peopleHit } from '../../src/core/signs';

/** What comes first is common practice, no source. */

const look = (says: string, harm: (typeof HARMS)[number] | null, people: number, press: number) => ({
  says,
  harm,
  people,
  press,
});

const said = (looks: readonly { says: string }[]): string[] => looks.map((one) => one.says);

describe('what is looked at first', () => {
  it('is what people cannot work with, then what is slow for them, whatever presses', () => {
    const looks = [
      look('a proposal waits', null, 0, pressOf({ of: 'customer', kind: 'approval', hardship: 0 })),
      look('slow for five', 'slow', 5, pressOf({ of: 'sign', harm: 'slow' })),
      look('a provider is out', null, 0, pressOf({ of: 'all', kind: 'provider' })),
      look('out for two', 'out', 2, pressOf({ of: 'sign', harm: 'out' })),
      look('full soon', 'soon', 9, pressOf({ of: 'sign', harm: 'soon' })),
      look('a run stopped', null, 0, pressOf({ of: 'run', byHand: false })),
    ];
    expect(said(inOrderOfLooking(looks))).toEqual([
      'out for two',
      'slow for five',
      'a provider is out',
      'a run stopped',
      'a proposal waits',
      'full soon',
    ]);
  });

  it('of those that differ from what is wanted, is the customer with the larger part of its hosts gone', () => {
    const well = { status: 'serving', hosts: 9 } as const;
    const small = hardshipOf([{ status: 'missing', hosts: 1 }, well], 10);
    const large = hardshipOf(
      [
        { status: 'unwell', hosts: 3 },
        { status: 'missing', hosts: 2 },
        { status: 'off', hosts: 5 },
      ],
      10,
    );
    expect([small, large]).toEqual([6, 30]);
    const drift = (hardship: number): number => pressOf({ of: 'customer', kind: 'drift', hardship });
    expect(drift(large)).toBeGreaterThan(drift(small));
    expect(pressOf({ of: 'customer', kind: 'money', hardship: large })).toBe(
      pressOf({ of: 'customer', kind: 'money', hardship: 0 }),
    );
    expect(hardshipOf([], 0)).toBe(0);
  });

  it('never loses one, and what is everyone’s stands before what is one customer’s', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            says: fc.string(),
            harm: fc.constantFrom(null, ...HARMS),
            people: fc.nat(500),
            press: fc.nat(1_000),
          }),
        ),
        (looks) => {
          const sorted = inOrderOfLooking(looks);
          expect(said(sorted).sort()).toEqual(said(looks).sort());
          const quiet = sorted.filter((one) => one.harm === null).map((one) => one.press);
          expect(quiet).toEqual([...quiet].sort((a, b) => b - a));
        },
      ),
    );
    for (const kind of ATTENTION_KINDS)
      expect(pressOf({ of: 'customer', kind, hardship: 60 })).toBeLessThan(pressOf({ of: 'all', kind }));
  });
});

describe('whom a sign hits', () => {
  it('stays who was thrown out, and of what is slow is who is in now', () => {
    expect(peopleHit('out', 7, 0)).toBe(7);
    expect(peopleHit('out', 7, 9)).toBe(9);
    expect(peopleHit('slow', 7, 2)).toBe(2);
    expect(peopleHit('soon', 7, 0)).toBe(0);
  });
});
