import { code, codes } from 'currency-codes';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { minorDigits } from '../../src/core/currency';
import { money, plain, priced, share, sum } from '../../src/core/money';

const parts = (total: number, weights: readonly number[]) =>
  share(money(total, 'EUR'), weights).map((part) => part.minor);

describe('sharing with the largest remainder', () => {
  // Published example: "Largest remainders method", Hare quota, 100,000 votes for 10 seats
  // (47,000 / 16,000 / 15,800 / 12,000 / 6,100 / 3,100 gives 5, 2, 1, 1, 1, 0). From memory of the encyclopedia article.
  it('gives the seats of the published example', () =>
    expect(parts(10, [47_000, 16_000, 15_800, 12_000, 6_100, 3_100])).toEqual([5, 2, 1, 1, 1, 0]));

  // Published: Hamilton's apportionment of the US House of 1792, 120 seats by the census of 1790 (Balinski and Young,
  // "Fair Representation", appendix B). The populations and the result are from memory.
  it('gives the seats of Hamilton’s bill of 1792', () => {
    const states = [
      630_560, 475_327, 432_879, 353_523, 331_589, 278_514, 236_841, 206_236, 179_570, 141_822, 85_533,
      70_835, 68_705, 68_446, 55_540,
    ];
    const seats = parts(120, states);
    expect(seats).toEqual([21, 16, 14, 12, 11, 9, 8, 7, 6, 5, 3, 2, 2, 2, 2]);
  });

  it('sums to the whole, and no part is a unit away from its quota', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -1_000_000_000, max: 1_000_000_000 }),
        fc.array(fc.integer({ min: 0, max: 1_000_000_000 }), { minLength: 1, maxLength: 30 }),
        (total, weights) => {
          const shared = parts(total, weights);
          expect(shared.reduce((a, b) => a + b, 0)).toBe(total);
          const whole = weights.reduce((a, b) => a + b, 0);
          if (whole > 0)
            for (const [i, part] of shared.entries())
              expect(Math.abs(part - (total * (weights[i] ?? 0)) / whole)).toBeLessThan(1.000001);
        },
      ),
    );
  });

  it('gives nothing no sign', () => {
    const parts = [money(-0, 'EUR'), ...share(money(-1, 'EUR'), [1, 0]), priced('-0.001', 1, 1, 'EUR')];
    expect(parts.filter((part) => Object.is(part.minor, -0))).toEqual([]);
  });

  it('refuses to share among nobody', () => expect(() => share(money(5, 'EUR'), [])).toThrow(RangeError));
});

describe('prices', () => {
  // ISO 4217 minor units.
  it.each([
    ['EUR', 2],
    ['JPY', 0],
    ['TND', 3],
    // What a runtime's locale data rounds away for reading.
    ['HUF', 2],
    ['IDR', 2],
    ['COP', 2],
    ['PKR', 2],
    ['IQD', 3],
    ['CLF', 4],
  ])('%s has %i decimals', (currency, digits) => expect(minorDigits(currency)).toBe(digits));

  it('have as many decimals as the table of ISO 4217 in the package currency-codes, every one of them', () => {
    const known = codes().map((currency) => [currency, code(currency)?.digits]);
    expect(known.length).toBeGreaterThan(150);
    expect(codes().map((currency) => [currency, minorDigits(currency)])).toEqual(known);
  });

  // Half to even: IEEE 754-2019 section 4.3.1, roundTiesToEven.
  it.each([
    ['0.005', 1, 1, 0],
    ['0.015', 1, 1, 2],
    ['0.025', 1, 1, 2],
    ['0.0251', 1, 1, 3],
    ['0.132', 3_600, 3_600, 13],
    ['0.07', 128 * 2_592_000, 2_592_000, 896],
  ])('%s × %i / %i is %i cents', (price, quantity, per, cents) =>
    expect(priced(price, quantity, per, 'EUR').minor).toBe(cents),
  );

  it('is exact where binary fractions are not', () => {
    // 0.1 + 0.2 and 1.005 are the usual stumbling stones of binary fractions (IEEE 754).
    expect(priced('1.005', 100, 1, 'EUR').minor).toBe(10_050);
    expect(sum([priced('0.1', 1, 1, 'EUR'), priced('0.2', 1, 1, 'EUR')], 'EUR').minor).toBe(30);
  });

  it('never adds two currencies', () =>
    expect(() => sum([money(1, 'EUR'), money(1, 'GBP')], 'EUR')).toThrow(RangeError));
  it('holds whole units only', () => expect(() => money(0.5, 'EUR')).toThrow(RangeError));
  it('is written exactly', () => {
    expect(plain(money(-123_450, 'EUR'))).toBe('-1234.50');
    expect(plain(money(1234, 'JPY'))).toBe('1234');
  });
});
