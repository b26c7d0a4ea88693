import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { money, sum } from '../../src/core/money';
import { partsOfPool, personTotal, type PoolMonth } from '../../src/core/rating';

const EUR = 'EUR';
const pool = (over: Partial<PoolMonth>): PoolMonth => ({
  pool: 'desks',
  isPersonal: false,
  lines: [],
  seats: [],
  owned: new Map(),
  time: new Map(),
  ...over,
});
const line = (meter: 'host' | 'licence' | 'disk' | 'share', minor: number) => ({
  meter,
  charge: money(minor, EUR),
});
const amounts = (month: PoolMonth): Record<string, [string, number][]> =>
  Object.fromEntries(
    [...partsOfPool(month, EUR)].map(([person, parts]) => [
      person,
      parts.map(({ by, charge }) => [by, charge.minor]),
    ]),
  );

describe('what a person cost', () => {
  it('is of hosts that many share by the time that each was in', () =>
    expect(
      amounts(
        pool({
          lines: [line('host', 900), line('share', 100)],
          time: new Map([
            ['ana', 10_800],
            ['bo', 3_600],
          ]),
        }),
      ),
    ).toEqual({ ana: [['time', 750]], bo: [['time', 250]] }));

  it('is of licence seats alike for all who have one', () =>
    expect(amounts(pool({ lines: [line('licence', 1_000)], seats: ['ana', 'bo', 'cy'] }))).toEqual({
      ana: [['licence', 334]],
      bo: [['licence', 333]],
      cy: [['licence', 333]],
    }));

  it('is of desktops of their own by what each took; one that is nobody’s yet is nobody’s cost', () =>
    expect(
      amounts(
        pool({
          isPersonal: true,
          lines: [line('host', 800), line('disk', 200)],
          owned: new Map([
            ['ana', 3],
            ['', 1],
          ]),
          // Whoever was in there does not matter: it is not theirs.
          time: new Map([['bo', 100]]),
        }),
      ),
    ).toEqual({ ana: [['desktop', 750]], '': [['desktop', 250]] }));

  it('is nobody’s where nobody was in', () =>
    expect(amounts(pool({ lines: [line('host', 5)], time: new Map([['ana', 0]]) }))).toEqual({
      '': [['time', 5]],
    }));

  it('tells of how much it is a part, and by which weights', () =>
    expect(
      partsOfPool(
        pool({
          lines: [line('host', 100)],
          time: new Map([
            ['ana', 1],
            ['bo', 3],
          ]),
        }),
        EUR,
      ).get('ana'),
    ).toEqual([{ pool: 'desks', by: 'time', charge: money(25, EUR), of: money(100, EUR), own: 1, all: 4 }]));

  it('adds up to the pool’s month to the last cent, whoever it is shared among', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(fc.constantFrom('host' as const, 'licence' as const, 'disk' as const), fc.nat(1_000_000)),
        ),
        fc.uniqueArray(fc.string({ minLength: 1, maxLength: 3 })),
        fc.array(fc.nat(1_000_000), { minLength: 1, maxLength: 9 }),
        fc.boolean(),
        (lines, people, weights, isPersonal) => {
          const by = new Map(people.map((person, n) => [person, weights[n % weights.length] ?? 0]));
          const month = pool({
            isPersonal,
            lines: lines.map(([meter, minor]) => line(meter, minor)),
            seats: people,
            owned: by,
            time: by,
          });
          const parts = [...partsOfPool(month, EUR).values()];
          const whole = sum(
            month.lines.map(({ charge }) => charge),
            EUR,
          );
          expect(
            sum(
              parts.map((own) => personTotal(own, EUR)),
              EUR,
            ),
          ).toEqual(whole);
        },
      ),
    ));
});
