import { describe, expect, it } from 'vitest';
import { isWorse, priceChanges, siteChanges, type SiteReading } from '../../src/core/ground';

const node = (id: string, over: object = {}) => ({
  id,
  vcpu: 128,
  memoryGiB: 384,
  diskGiB: 7_680,
  state: 'up' as const,
  ...over,
});
const reading: SiteReading = {
  images: [{ name: 'Ostrel 12', diskGiB: 48 }],
  sizes: [
    { key: 's2x8', vcpu: 2, memoryGiB: 8 },
    { key: 's4x16', vcpu: 4, memoryGiB: 16 },
  ],
  nodes: [node('a1'), node('a2'), node('a3', { state: 'lost' })],
  quota: { vcpu: 160 },
};
const told = (over: Partial<SiteReading>) =>
  siteChanges(reading, { ...reading, ...over }).map(({ kind, subject }) => [kind, subject]);

describe('what is otherwise at a site', () => {
  it('is nothing where it was read again as it was', () => expect(told({})).toEqual([]));

  it('is a node that is gone, lost, back, smaller or new', () => {
    expect(told({ nodes: [node('a2', { state: 'lost' }), node('a3'), node('a4')] })).toEqual([
      ['node gone', 'a1'],
      ['node lost', 'a2'],
      ['node back', 'a3'],
      ['node new', 'a4'],
    ]);
    expect(told({ nodes: [node('a1'), node('a2'), node('a3', { vcpu: 64 })] })).toEqual([
      ['node back', 'a3'],
      ['node smaller', 'a3'],
    ]);
    expect(
      told({ nodes: [node('a1', { memoryGiB: 256 }), node('a2'), node('a3', { state: 'lost' })] }),
    ).toEqual([['node smaller', 'a1']]);
  });

  it('is told once of a node that is gone, and again when it is back', () => {
    const without = { ...reading, nodes: [node('a1', { state: 'gone' })] };
    expect(siteChanges(without, { ...reading, nodes: [] })).toEqual([]);
    expect(siteChanges(without, { ...reading, nodes: [node('a1')] })).toMatchObject([{ kind: 'node back' }]);
  });

  it('is a quota, and only where there is one', () => {
    expect(siteChanges(reading, { ...reading, quota: { vcpu: 120 } })).toEqual([
      { kind: 'quota lowered', subject: '', before: '160 vCPU', after: '120 vCPU' },
    ]);
    expect(told({ quota: { vcpu: 200 } })).toEqual([['quota raised', '']]);
    expect(told({ quota: null })).toEqual([]);
  });

  it('is a size or an image that came or went; what takes away is worse', () => {
    const changes = told({
      sizes: [
        { key: 's2x8', vcpu: 2, memoryGiB: 8 },
        { key: 's8x32', vcpu: 8, memoryGiB: 32 },
      ],
      images: [],
    });
    expect(changes).toEqual([
      ['size withdrawn', 's4x16'],
      ['size new', 's8x32'],
      ['image gone', 'Ostrel 12'],
    ]);
    expect([
      isWorse('size withdrawn'),
      isWorse('size new'),
      isWorse('price up'),
      isWorse('price down'),
    ]).toEqual([true, false, true, false]);
  });
});

describe('what a provider asks beside what is in force', () => {
  const rate = (size: string | null, price: string) => ({
    meter: 'host',
    size,
    unit: 'hour' as const,
    price,
  });

  it('is dearer, cheaper, new, gone or the same, exactly', () =>
    // 0.0880 × 1.04 = 0.09152; 0.1 and 0.100000 are one price, and 0.1 + 0.2 is 0.3.
    expect(
      priceChanges(
        [rate('a', '0.088000'), rate('b', '0.100000'), rate('c', '0.3'), rate('d', '1'), rate('f', '0')],
        [rate('a', '0.09152'), rate('b', '0.1'), rate('c', '0.2'), rate('e', '2'), rate('f', '0.1')],
      ).map(({ kind, size, dearer }) => [size, kind, dearer]),
    ).toEqual([
      ['a', 'price up', 0.04],
      ['b', 'price same', 0],
      ['c', 'price down', -0.3333],
      ['e', 'price new', null],
      ['f', 'price up', null],
      ['d', 'price gone', null],
    ]));

  it('tells things by meter, size and unit together', () =>
    expect(
      priceChanges([rate(null, '1')], [{ ...rate(null, '1'), unit: 'month' as const }]).map(
        ({ kind }) => kind,
      ),
    ).toEqual(['price new', 'price gone']));
});
