import { describe, expect, it } from 'vitest';
import { asksAnother, NO_APPROVAL, wordNeeded, type ApprovalRule } from '../../src/core/approval';
import { money } from '../../src/core/money';

const eur = (minor: number) => money(minor, 'EUR');

describe('what needs approval', () => {
  const rule: ApprovalRule = { above: [eur(500_00)], kinds: ['retire'], leadsToo: false };

  it('is what costs more than was said, in its own currency, and what is named', () => {
    expect(wordNeeded(rule, ['add-hosts'], eur(500_00))).toBeUndefined();
    expect(wordNeeded(rule, ['add-hosts'], eur(500_01))).toEqual({ why: 'cost', above: eur(500_00) });
    expect(wordNeeded(rule, ['add-hosts'], money(900_00, 'GBP'))).toBeUndefined();
    expect(wordNeeded(rule, ['retire'], eur(-900_00))).toEqual({ why: 'kind' });
    expect(wordNeeded({ ...rule, above: [eur(0)] }, ['mend'], eur(0))).toBeUndefined();
    expect(wordNeeded({ ...rule, above: [eur(0)] }, ['mend'], eur(1))).toMatchObject({ why: 'cost' });
    expect(wordNeeded(NO_APPROVAL, ['retire'], eur(1_000_000))).toBeUndefined();
  });

  it.each([
    // Who asks, who held it, and whether a lead's own word is enough.
    ['engineer', undefined, false, true],
    ['engineer', 'other', false, true],
    ['lead', undefined, false, false],
    ['lead', 'me', false, false],
    ['lead', undefined, true, true],
    ['lead', 'me', true, true],
    ['lead', 'other', true, false],
    ['system', undefined, true, false],
  ] as const)('%s, held by %s, leads too %s: %s', (role, heldBy, leadsToo, expected) => {
    const asking = { id: 'me', decides: role === 'lead', byItself: role === 'system', heldBy };
    expect(asksAnother({ ...rule, leadsToo }, asking)).toBe(expected);
  });
});
