import { describe, expect, it } from 'vitest';
import {
  bestFit,
  contains,
  fragmentation,
  freeBlocks,
  hostAddresses,
  isPrivate,
  overlaps,
  parseBlock,
  planSubnet,
  prefixFor,
  spaceLeft,
  writeBlock,
  type Block,
} from '../../src/core/addressing';
import { monthNamed, type Month } from '../../src/core/calendar';
import { forecastMonth } from '../../src/core/forecast';
import { meter, type Measure } from '../../src/core/metering';
import { money, plain, priced, share, sum, weightOf } from '../../src/core/money';
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
import {
  charge,
  cutsAt,
  monthlyCost,
  rateFor,
  unitOf,
  weigh,
  type Rate,
  type Usage,
} from '../../src/core/rating';
import { block } from './setup/facts';

/* The last that still counts and the first that does not: where an error of one would sit. */

const at = (text: string): number => Date.parse(text);
const november = monthNamed('2026-11', 'UTC') as Month;
const rate = (over: Partial<Rate> = {}): Rate => ({
  meter: 'host',
  size: 's',
  unit: 'hour',
  price: '1',
  from: 0,
  to: null,
  ...over,
});

describe('the edges of a rate', () => {
  const first = rate({ from: at('2026-11-10T00:00Z'), to: at('2026-11-20T00:00Z'), price: '2' });

  it('are its first instant, which counts, and its end, which does not', () => {
    const on = (text: string): string | undefined => rateFor([first], 'host', 's', at(text))?.price;
    expect([on('2026-11-09T23:59:59.999Z'), on('2026-11-10T00:00Z')]).toEqual([undefined, '2']);
    expect([on('2026-11-19T23:59:59.999Z'), on('2026-11-20T00:00Z')]).toEqual(['2', undefined]);
  });

  it('give way to one that began later, in whatever order they stand', () => {
    const old = rate({ price: '1' });
    const during = at('2026-11-15T00:00Z');
    for (const all of [
      [old, first],
      [first, old],
    ])
      expect(rateFor(all, 'host', 's', during)?.price).toBe('2');
    const twin = rate({ from: first.from, price: '3' });
    expect(rateFor([first, twin], 'host', 's', during)?.price).toBe('2');
    expect(rateFor([twin, first], 'host', 's', during)?.price).toBe('3');
  });

  it('hold for their own meter and size, one without a size for every size', () => {
    const any = rate({ size: null, price: '9' });
    expect(rateFor([any], 'host', 'x', 1)?.price).toBe('9');
    expect(rateFor([any], 'host', null, 1)?.price).toBe('9');
    expect(rateFor([rate()], 'host', 'x', 1)).toBeUndefined();
    expect(rateFor([rate()], 'disk', 's', 1)).toBeUndefined();
  });

  it('cut a month where one begins or ends, and nowhere else', () => {
    const cut = (rates: Rate[], until = november.to): string[] =>
      cutsAt(november, rates, until).map(
        ({ from, to }) =>
          `${new Date(from).toISOString().slice(5, 16)} ${new Date(to).toISOString().slice(5, 16)}`,
      );
    expect(cut([])).toEqual(['11-01T00:00 12-01T00:00']);
    expect(cut([first])).toEqual([
      '11-01T00:00 11-10T00:00',
      '11-10T00:00 11-20T00:00',
      '11-20T00:00 12-01T00:00',
    ]);
    expect(cut([first, first])).toHaveLength(3);
    expect(cut([rate({ from: november.from, to: november.to })])).toHaveLength(1);
    expect(cut([rate({ from: november.from - 1, to: november.to + 1 })])).toHaveLength(1);
    // The usual change of price: one goes on for ever, and another begins that does too.
    expect(cut([rate(), rate({ from: at('2026-11-10T00:00Z') })])).toEqual([
      '11-01T00:00 11-10T00:00',
      '11-10T00:00 12-01T00:00',
    ]);
    expect(cut([first], at('2026-11-10T00:00Z'))).toEqual(['11-01T00:00 11-10T00:00']);
    expect(cut([first], november.to + 1)).toHaveLength(3);
    expect(cut([first], november.from)).toEqual([]);
    expect(cut([first], november.from + 1_000)).toHaveLength(1);
  });

  it('are named by what they count', () => {
    const units = (['host', 'disk', 'share', 'licence', 'other'] as const).map((one) =>
      unitOf(rate({ meter: one })),
    );
    expect(units).toEqual(['host-hour', 'GiB-hour', 'GiB-hour', 'seat-hour', 'other-hour']);
    expect(unitOf(rate({ meter: 'disk', unit: 'month' }))).toBe('GiB-month');
  });
});

describe('the edges of a charge', () => {
  const used = (over: Partial<Usage> = {}): Usage => ({
    pool: 'p',
    meter: 'host',
    size: 's',
    stretch: { from: november.from, to: november.to },
    amount: 3_600,
    ...over,
  });

  it('are lines by pool, meter, size and rate; what was not used and what has no rate are none', () => {
    const rates = [
      rate(),
      rate({ size: 't', price: '2' }),
      rate({ meter: 'disk', size: null, unit: 'month', price: '30' }),
    ];
    const { lines, total, unpriced } = charge(
      [
        used(),
        used({ amount: 1_800 }),
        used({ pool: 'q' }),
        used({ size: 't' }),
        used({ meter: 'disk', size: null, amount: 30 * 86_400 }),
        used({ amount: 0, pool: 'none' }),
        used({ size: 'nowhere' }),
      ],
      rates,
      november,
      'EUR',
    );
    expect(
      lines.map((line) => [line.pool, line.meter, line.size, line.quantity, line.unit, line.charge.minor]),
    ).toEqual([
      ['p', 'host', 's', 1.5, 'host-hour', 150],
      ['q', 'host', 's', 1, 'host-hour', 100],
      ['p', 'host', 't', 1, 'host-hour', 200],
      ['p', 'disk', null, 1, 'GiB-month', 3_000],
    ]);
    expect(total).toEqual(money(3_450, 'EUR'));
    expect(unpriced.map((one) => one.size)).toEqual(['nowhere']);
  });

  it('are lines of their own for each size, also where one rate holds for all', () => {
    const { lines } = charge([used(), used({ size: 't' })], [rate({ size: null })], november, 'EUR');
    expect(lines.map((line) => [line.size, line.charge.minor])).toEqual([
      ['s', 100],
      ['t', 100],
    ]);
  });

  it('stretch from the first use to the last', () => {
    const middle = at('2026-11-15T00:00Z');
    const [line] = charge(
      [
        used({ stretch: { from: november.from, to: middle } }),
        used({ stretch: { from: middle, to: november.to } }),
      ],
      [rate()],
      november,
      'EUR',
    ).lines;
    expect(line?.stretch).toEqual({ from: november.from, to: november.to });
  });

  it('weigh as much as they cost, to the millionth of a cent, and nothing where there is no rate', () => {
    const rates = [
      rate({ price: '0.066' }),
      rate({ meter: 'disk', size: null, unit: 'month', price: '0.07' }),
    ];
    expect(weigh([used()], rates, november, 'EUR')).toBe(6_600_000);
    expect(weigh([used(), used({ amount: 1 })], rates, november, 'EUR')).toBe(6_600_000 + 1_833);
    expect(weigh([used({ meter: 'disk', size: null, amount: 86_400 })], rates, november, 'EUR')).toBe(
      233_333,
    );
    expect(weigh([used({ size: 'nowhere' })], rates, november, 'EUR')).toBe(0);
    expect(weigh([], rates, november, 'EUR')).toBe(0);
    expect(weightOf('1', 1, 1, 'JPY')).toBe(1_000_000);
  });

  it('of an average month are 730 hours, or one month', () => {
    const { lines, unpriced } = monthlyCost(
      [
        { meter: 'host', size: 's', quantity: 2 },
        { meter: 'disk', size: null, quantity: 10 },
        { meter: 'share', size: null, quantity: 1 },
      ],
      [rate(), rate({ meter: 'disk', size: null, unit: 'month', price: '0.5' })],
      1,
      'EUR',
    );
    expect(lines.map((line) => [line.meter, line.amount.minor, line.unit])).toEqual([
      ['host', 146_000, 'host-hour'],
      ['disk', 500, 'GiB-month'],
    ]);
    expect(unpriced).toEqual([{ meter: 'share', size: null, quantity: 1 }]);
  });
});

describe('the edges of a sum of money', () => {
  // Hamilton's method by hand: 10 among 1, 1, 1 is 3⅓ each; the unit over goes to the first of those that tie.
  it('shared out go to the largest remainders, and to the first where they tie', () => {
    const parts = (minor: number, weights: number[]): number[] =>
      share(money(minor, 'EUR'), weights).map((one) => one.minor);
    expect(parts(10, [1, 1, 1])).toEqual([4, 3, 3]);
    expect(parts(11, [1, 1, 1])).toEqual([4, 4, 3]);
    expect(parts(-10, [1, 1, 1])).toEqual([-4, -3, -3]);
    expect(parts(10, [0, 0])).toEqual([5, 5]);
    expect(parts(10, [0, 1])).toEqual([0, 10]);
    expect(parts(100, [50, 30, 21])).toEqual([49, 30, 21]);
    expect(parts(0, [3, 4])).toEqual([0, 0]);
    expect(parts(7, [5])).toEqual([7]);
    expect(() => share(money(1, 'EUR'), [])).toThrow('nobody to share among');
  });

  it('are rounded half to even, once', () => {
    const of = (price: string, quantity: number, per = 1): number =>
      priced(price, quantity, per, 'EUR').minor;
    expect([of('0.005', 1), of('0.015', 1), of('0.025', 1), of('0.0251', 1)]).toEqual([0, 2, 2, 3]);
    expect(of('1', 1, 3)).toBe(33);
    expect(of('2', 1, 3)).toBe(67);
  });

  it('are told from what is none', () => {
    expect(() => money(1.5, 'EUR')).toThrow('not a whole number of minor units: 1.5');
    expect(() => money(Number.NaN, 'EUR')).toThrow(RangeError);
    expect(() => sum([money(1, 'EUR'), money(1, 'GBP')], 'EUR')).toThrow(/GBP/);
    expect([
      plain(money(-123_450, 'EUR')),
      plain(money(5, 'JPY')),
      plain(money(5, 'KWD')),
      plain(money(0, 'EUR')),
    ]).toEqual(['-1234.50', '5', '0.005', '0.00']);
  });
});

describe('the edges of what is metered', () => {
  const on: Measure = { meter: 'host', state: 'on', size: 's', quantity: 1 };

  it('are told apart by each of meter, state, size and quantity', () => {
    const open = [{ ...on, id: 1, from: 1_000 }];
    expect(meter(open, [on], 5_000)).toEqual({ close: [], open: [] });
    for (const other of [{ meter: 'disk' }, { state: 'off' as const }, { size: 't' }, { quantity: 2 }])
      expect(meter(open, [{ ...on, ...other }], 5_000)).toEqual({
        close: [{ id: 1, to: 5_000 }],
        open: [{ ...on, ...other, from: 5_000 }],
      });
  });

  it('are whole seconds, never before what is known, nor before they began', () => {
    const open = [{ ...on, id: 1, from: 10_000 }];
    expect(meter(open, [], 12_999).close).toEqual([{ id: 1, to: 12_000 }]);
    expect(meter(open, [], 9_000).close).toEqual([{ id: 1, to: 10_000 }]);
    expect(meter(open, [], 12_999, 15_000).close).toEqual([{ id: 1, to: 15_000 }]);
    expect(meter([], [on], 12_999, 12_500).open).toEqual([{ ...on, from: 12_500 }]);
  });
});

describe('the edges of a block', () => {
  it.each([
    ['10.0.0.0/8', undefined],
    [' 10.0.0.0/8 ', undefined],
    ['0.0.0.0/0', undefined],
    ['255.255.255.255/32', undefined],
    ['10.0.0.0/33', '/33 is longer than an address'],
    ['256.0.0.0/8', '"256.0.0.0/8" has a part that is not 0 to 255'],
    ['01.0.0.0/8', '"01.0.0.0/8" has a part that is not 0 to 255'],
    ['10.0.0.1/31', '10.0.0.1/31 is not aligned: its base is not a multiple of its size'],
    ['x10.0.0.0/8', '"x10.0.0.0/8" is not a block: write it like 10.20.0.0/16'],
    ['10.0.0.0/8x', '"10.0.0.0/8x" is not a block: write it like 10.20.0.0/16'],
    ['10.0.0.0/123', '"10.0.0.0/123" is not a block: write it like 10.20.0.0/16'],
    ['10.0.0/8', '"10.0.0/8" is not a block: write it like 10.20.0.0/16'],
  ])('%s: %s', (text, problem) => {
    const read = parseBlock(text);
    expect(read.ok ? undefined : read.problem).toBe(problem);
    if (read.ok) expect(writeBlock(read.value)).toBe(text.trim());
  });

  it('touch without overlapping, and overlap by one address', () => {
    const [low, high, one] = ['10.0.0.0/25', '10.0.0.128/25', '10.0.0.127/32'].map(block) as [
      Block,
      Block,
      Block,
    ];
    expect([
      overlaps(low, high),
      overlaps(high, low),
      overlaps(low, one),
      overlaps(one, low),
      overlaps(low, low),
    ]).toEqual([false, false, true, true, true]);
    expect([contains(low, one), contains(one, low), contains(low, low), contains(high, one)]).toEqual([
      true,
      false,
      true,
      false,
    ]);
    const [last, first] = [block('10.0.0.128/32'), block('10.0.0.255/32')];
    expect([
      overlaps(high, last),
      overlaps(high, first),
      contains(high, last),
      contains(high, first),
    ]).toEqual([true, true, true, true]);
  });

  // RFC 1918 section 3, and the addresses beside it.
  it.each([
    ['10.255.255.255/32', true],
    ['11.0.0.0/32', false],
    ['172.16.0.0/12', true],
    ['172.15.255.255/32', false],
    ['172.32.0.0/32', false],
    ['192.168.255.0/24', true],
    ['192.169.0.0/24', false],
    ['10.0.0.0/7', false],
  ])('%s is private: %s', (text, is) => expect(isPrivate(block(text))).toBe(is));

  it('are as long as what they hold: 32 for one, 24 for 129 to 256', () =>
    expect([0, 1, 2, 3, 128, 129, 256, 257].map(prefixFor)).toEqual([32, 32, 31, 30, 25, 24, 24, 23]));

  it('are given from the smallest free one that fits, the lowest of those that are alike', () => {
    const range = block('10.0.0.0/24');
    const given = (taken: string[], prefix: number, ranges = [range]): string | undefined => {
      const found = bestFit(ranges, taken.map(block), prefix);
      return found && writeBlock(found);
    };
    // Free: .0/26, .128/25. A /26 fits the first exactly.
    expect(given(['10.0.0.64/26'], 26)).toBe('10.0.0.0/26');
    expect(given(['10.0.0.0/26'], 26)).toBe('10.0.0.64/26');
    expect(given(['10.0.0.64/26'], 25)).toBe('10.0.0.128/25');
    expect(given(['10.0.0.64/26'], 24)).toBeUndefined();
    expect(given([], 24)).toBe('10.0.0.0/24');
    expect(given([], 23)).toBeUndefined();
    // Two alike: the lower one, whatever order the ranges stand in.
    expect(given([], 28, [block('10.0.9.0/24'), range])).toBe('10.0.0.0/28');
    expect(given(['10.0.0.16/28', '10.0.0.48/28'], 28)).toBe('10.0.0.0/28');
    expect(given([], 28, [block('10.0.0.0/16'), block('10.9.0.0/27')])).toBe('10.9.0.0/28');
  });

  it('leave what is left: told with the largest, the first of those alike, and how scattered it is', () => {
    const range = block('10.0.0.0/24');
    expect(freeBlocks(range, [block('10.0.0.64/26')]).map(writeBlock)).toEqual([
      '10.0.0.0/26',
      '10.0.0.128/25',
    ]);
    expect(freeBlocks(range, [block('10.0.0.0/16')])).toEqual([]);
    expect(freeBlocks(range, [block('10.0.1.0/24')])).toEqual([range]);
    expect(spaceLeft(range, [block('10.0.0.64/26'), block('10.0.0.192/26')])).toEqual({
      total: 256,
      taken: 128,
      largest: block('10.0.0.0/26'),
      fragmentation: 0.5,
    });
    expect(spaceLeft(range, [range])).toEqual({
      total: 256,
      taken: 256,
      largest: undefined,
      fragmentation: 0,
    });
    expect(fragmentation([block('10.0.0.0/26'), block('10.0.0.128/25')])).toBeCloseTo(1 / 3, 12);
    expect(fragmentation([range])).toBe(0);
  });

  it('hold hosts between the reserved ones: four first and the last of five', () => {
    const subnet = block('10.0.0.0/29');
    expect(hostAddresses(subnet, 5, new Set(), 9).map((one) => one - subnet.base)).toEqual([4, 5, 6]);
    expect(hostAddresses(subnet, 5, new Set([subnet.base + 5]), 9).map((one) => one - subnet.base)).toEqual([
      4, 6,
    ]);
    expect(hostAddresses(subnet, 5, new Set(), 2)).toHaveLength(2);
    expect(hostAddresses(subnet, 5, new Set(), 0)).toEqual([]);
    expect(hostAddresses(subnet, 2, new Set(), 1)[0]).toBe(subnet.base + 1);
    const planned = planSubnet(block('10.0.0.0/24'), [], 11, 5);
    expect(planned.ok && [writeBlock(planned.value.subnet), planned.value.room]).toEqual(['10.0.0.0/28', 11]);
    const larger = planSubnet(block('10.0.0.0/24'), [], 12, 5);
    expect(larger.ok && [writeBlock(larger.value.subnet), larger.value.room]).toEqual(['10.0.0.0/27', 27]);
    const none = planSubnet(block('10.0.0.0/28'), [], 12, 5);
    expect(none.ok ? '' : none.problem).toBe('10.0.0.0/28 has no free /27 for 12 hosts');
  });
});

describe('the edges of a name', () => {
  const ruleOf = (text: string) => {
    const read = parseRule(text);
    if (!read.ok) throw new Error(read.problem);
    return read.value;
  };
  const context = { customer: 'SVG', environment: 'a', site: 'KQ', role: 'desk' };

  it.each([
    ['{counter:6}', undefined],
    ['{counter:1}', undefined],
    ['a-{site}{role}{counter:2}b', undefined],
    [
      '{counter:0}',
      '{counter:0} is not a part: use {customer}, {environment}, {site}, {role} or {counter:1} to {counter:6}',
    ],
    [
      '{counter:7}',
      '{counter:7} is not a part: use {customer}, {environment}, {site}, {role} or {counter:1} to {counter:6}',
    ],
    [
      '{counter:12}',
      '{counter:12} is not a part: use {customer}, {environment}, {site}, {role} or {counter:1} to {counter:6}',
    ],
    [
      '{xcounter:2}',
      '{xcounter:2} is not a part: use {customer}, {environment}, {site}, {role} or {counter:1} to {counter:6}',
    ],
    ['a{counter:1}{counter:2}', 'a naming rule needs one counter, like {counter:2}; this one has 2'],
    ['abc', 'a naming rule needs one counter, like {counter:2}; this one has 0'],
    ['', 'a naming rule needs one counter, like {counter:2}; this one has 0'],
    ['a_{counter:2}', '"a_" may hold only letters, digits and hyphens'],
    ['{counter:2} ', '" " may hold only letters, digits and hyphens'],
  ])('%s: %s', (text, problem) => {
    const read = parseRule(text);
    expect(read.ok ? undefined : read.problem).toBe(problem);
    if (read.ok) expect(writeRule(read.value)).toBe(text);
  });

  // RFC 952, RFC 1123 section 2.1, RFC 1001 section 14.
  it.each([
    ['a', []],
    ['0', ['may not be all digits']],
    ['0a', []],
    ['a0', []],
    ['123456789012345', ['may not be all digits']],
    ['A23456789012345', []],
    ['A234567890123456', ['has 16 characters; 15 is the most']],
    ['', ['is empty']],
    ['-a', ['may not begin or end with a hyphen']],
    ['a-', ['may not begin or end with a hyphen']],
    ['a-b', []],
    ['a_b', ['may hold only letters, digits and hyphens']],
    ['ä', ['may hold only letters, digits and hyphens']],
  ])('"%s" has the faults %o', (name, faults) => expect(nameFaults(name)).toEqual(faults));

  it('run out at the last that the counter has, and those in use are passed over', () => {
    const rule = ruleOf('{customer}-{counter:1}');
    expect([capacityOf(rule), capacityOf(ruleOf('{counter:3}'))]).toEqual([9, 999]);
    expect([nameAt(rule, context, 9), nameAt(ruleOf('{role}{counter:3}'), context, 7)]).toEqual([
      'SVG-9',
      'DESK007',
    ]);
    expect(planNames(rule, context, 9, []).missing).toBe(0);
    const ten = planNames(rule, context, 10, ['svg-3']);
    expect([ten.names.length, ten.missing, ten.names.includes('SVG-3'), ten.faults]).toEqual([
      8,
      2,
      false,
      [],
    ]);
    expect(
      planNames(ruleOf('{customer}-'.concat('x'.repeat(12), '{counter:1}')), context, 1, []).faults,
    ).toEqual(['SVG-XXXXXXXXXXXX1 has 17 characters; 15 is the most']);
  });

  it('are left as many as no other has taken, of its own shape only, each once', () => {
    const rule = ruleOf('{customer}-{counter:1}');
    const left = (taken: string[]): number => namesLeft(rule, context, taken);
    expect([
      left([]),
      left(['SVG-1']),
      left(['svg-1', 'SVG-1']),
      left(['SVG-X']),
      left(['SVG-12']),
      left(['SVG-']),
      left(['XSVG-1']),
      left(['SVA-1']),
    ]).toEqual([9, 8, 8, 9, 9, 9, 9, 9]);
    expect(left(Array.from({ length: 12 }, (_, n) => `SVG-${n}`))).toBe(0);
  });

  it('of two rules meet where each place could be the other’s', () => {
    const meet = (one: string, other: string, customer = 'SVG'): boolean =>
      mayMeet({ rule: ruleOf(one), context }, { rule: ruleOf(other), context: { ...context, customer } });
    expect(meet('a{counter:2}', 'a{counter:2}')).toBe(true);
    expect(meet('a{counter:2}', 'a{counter:1}')).toBe(false);
    expect(meet('a{counter:2}', 'a1{counter:1}')).toBe(true);
    expect(meet('a1{counter:1}', 'a{counter:2}')).toBe(true);
    expect(meet('a{counter:2}', 'ax{counter:1}')).toBe(false);
    expect(meet('ax{counter:1}', 'a{counter:2}')).toBe(false);
    expect(meet('{customer}{counter:1}', '{customer}{counter:1}', 'SVH')).toBe(false);
    expect(meet('{customer}{counter:1}', 'svg{counter:1}')).toBe(true);
  });
});

describe('the edges of a forecast', () => {
  const day = (text: string, minor: number, weekday: number) => ({
    date: text,
    from: at(`${text}T00:00Z`),
    to: at(`${text}T00:00Z`) + 86_400_000,
    weekday,
    minor,
  });

  it('are a month that is over, which is what it was, and one that has not begun', () => {
    expect(forecastMonth(money(500, 'EUR'), [], november, november.to, november.from)).toEqual(
      money(500, 'EUR'),
    );
    expect(forecastMonth(money(0, 'EUR'), [], november, november.from, november.from)).toEqual(
      money(0, 'EUR'),
    );
  });

  it('go on as the same weekday did, else as any day did, else as it has run', () => {
    // Monday 30 November 2026 is the last day: what is left of it is one day at noon of the 29th and a half.
    const noon = at('2026-11-29T12:00Z');
    const sunday = day('2026-11-22', 1_000, 7);
    const monday = day('2026-11-23', 4_000, 1);
    expect(forecastMonth(money(100, 'EUR'), [sunday, monday], november, noon, november.from).minor).toBe(
      100 + 500 + 4_000,
    );
    expect(forecastMonth(money(100, 'EUR'), [sunday], november, noon, november.from).minor).toBe(
      100 + 500 + 1_000,
    );
    // A day that is not over is not looked at.
    expect(
      forecastMonth(money(100, 'EUR'), [day('2026-11-29', 9_999, 7), sunday], november, noon, november.from)
        .minor,
    ).toBe(100 + 500 + 1_000);
    // One that has just ended is.
    const midnight = at('2026-11-30T00:00Z');
    expect(
      forecastMonth(money(100, 'EUR'), [day('2026-11-29', 7_000, 7)], november, midnight, november.from)
        .minor,
    ).toBe(100 + 7_000);
    // 28.5 days ran, 1.5 are left.
    expect(forecastMonth(money(2_850, 'EUR'), [], november, noon, november.from).minor).toBe(3_000);
    expect(forecastMonth(money(2_850, 'EUR'), [], november, noon, at('2026-11-29T00:00Z')).minor).toBe(
      2_850 + 3 * 2_850,
    );
    expect(forecastMonth(money(2_850, 'EUR'), [], november, noon, noon).minor).toBe(2_850);
  });
});
