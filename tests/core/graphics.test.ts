import { describe, expect, it } from 'vitest';
import type { Facts, Quota } from '../../src/core/facts';
import { writeSize, type MachineSize } from '../../src/core/machines';
import { mayBegin, quotaWith, takesOf, withKept, type Proposal } from '../../src/core/planning';
import { RESOURCE_KINDS } from '../../src/core/resources';
import { benchOf, compareSizes, mixOf, needsWith, seatsOn, WORK_PROFILES } from '../../src/core/sizing';
import { fitsRule } from '../../src/core/terms';
import { money } from '../../src/core/money';
import { carriedOut, facts, input, poolSpec, proposed, spec } from './setup/facts';

const plain: MachineSize = { key: 's8x32', vcpu: 8, memoryGiB: 32 };
const drawing: MachineSize = {
  key: 's8x32g8',
  vcpu: 8,
  memoryGiB: 32,
  graphicsGiB: 8,
  family: 'graphics',
};
const drafter = { ...WORK_PROFILES.graphics, graphicsGiB: 2 };

describe('work that needs a graphics processor', () => {
  it('is seated by its memory, where that runs out first', () => {
    // 8 vCPU at 1 a person: 8. 30 GiB at 6: 5. 8 GiB of graphics at 2: 4.
    expect(seatsOn(drawing, drafter)).toEqual({ seats: 4, binding: 'graphics memory' });
    expect(seatsOn(drawing, { ...drafter, graphicsGiB: 1 })).toEqual({ seats: 5, binding: 'memory' });
    expect(seatsOn(plain, drafter)).toEqual({ seats: 0, binding: 'graphics memory' });
  });

  it('needs none as usual: people say what their programs take', () => {
    for (const profile of Object.values(WORK_PROFILES)) expect(profile.graphicsGiB).toBe(0);
    expect(seatsOn(plain, WORK_PROFILES.graphics).seats).toBe(5);
    expect(needsWith([{ ...drafter, source: 'measured' }]).graphics.graphicsGiB).toBe(2);
  });

  it('gets the sizes that have one, though others cost less', () => {
    const monthlyOf = ({ graphicsGiB = 0 }: MachineSize, hosts: number) =>
      money(hosts * (graphicsGiB > 0 ? 500_00 : 100_00), 'EUR');
    const question = {
      people: 8,
      concurrency: 1,
      sizes: [plain, drawing],
      monthlyOf,
      arrival: 'spread',
    } as const;
    expect(compareSizes({ ...question, profile: drafter }).chosen).toMatchObject({
      size: drawing,
      seats: 4,
      hosts: 3,
    });
    expect(compareSizes({ ...question, profile: WORK_PROFILES.graphics }).chosen?.size).toEqual(plain);
    const offers = [plain, drawing].map((size) => ({
      site: 'NL',
      size,
      monthlyOf: (hosts: number) => monthlyOf(size, hosts),
    }));
    const groups = [{ profile: drafter, people: 8, concurrency: 1 }];
    const points = benchOf({ groups, offers, spareSeats: 0 });
    expect(new Set(points.map(({ size }) => size.key))).toEqual(new Set(['s8x32g8']));
  });

  it('is reckoned with others as the average of who is in', () => {
    const mix = mixOf([
      { profile: drafter, people: 10, concurrency: 1 },
      { profile: WORK_PROFILES.standard, people: 30, concurrency: 1 },
    ]);
    expect(mix?.need.graphicsGiB).toBe(0.5);
  });
});

describe('a size with a graphics processor', () => {
  it('is written by what it holds', () => {
    expect(writeSize(drawing)).toBe('8 vCPU · 32 GiB · 8 GiB graphics');
    expect(writeSize(plain)).toBe('8 vCPU · 32 GiB');
  });

  it.each([
    ['8 vCPU · 32 GiB', plain, true],
    ['8 vCPU · 32 GiB', drawing, false],
    ['8 vCPU · 32 GiB · 8 GiB graphics', drawing, true],
    ['8 vCPU · 32 GiB · 4 GiB graphics', drawing, false],
    ['at least 4 vCPU · 16 GiB', drawing, true],
    ['at least 4 vCPU · 16 GiB · 4 GiB graphics', drawing, true],
    ['at least 4 vCPU · 16 GiB · 4 GiB graphics', plain, false],
    ['cheapest', plain, true],
  ])('%s: %j fits, %s', (rule, size, fits) => expect(fitsRule(rule, size)).toBe(fits));
});

describe('the quota of a family of sizes', () => {
  const region = (quota: Quota): Facts => ({
    ...facts,
    rates: [
      ...facts.rates,
      { meter: 'host', size: 's8x32g8', unit: 'hour', price: '0.53', from: 0, to: null },
    ],
    site: { ...facts.site, kind: 'hosted region', nodes: [], sizes: [...facts.site.sizes, drawing], quota },
    template: {
      code: 'shared-office',
      revision: 1,
      document: { ...spec, pools: [{ ...poolSpec, size: '8 vCPU · 32 GiB · 8 GiB graphics', spare: 0 }] },
    },
  });
  const of = (vcpu: number, vcpuUsed: number, whole = 0): Quota => ({
    vcpu: 400,
    vcpuUsed: whole,
    families: [{ family: 'graphics', vcpu, vcpuUsed }],
  });
  const capacity = ({ checks }: Proposal): string => {
    const found = checks.find((one) => one.key === 'capacity');
    return `${found?.state ?? ''}: ${found?.says ?? ''}`;
  };

  it('is held beside that of the whole', () => {
    const fits = proposed('provision', input, region(of(48, 24)));
    expect(capacity(fits)).toMatch(/^passes: (\d+) of 400 free vCPU; \1 of 24 free vCPU of graphics$/);
    expect(mayBegin(fits.checks)).toBe(true);
    const full = proposed('provision', input, region(of(48, 47)));
    expect(capacity(full)).toMatch(/^blocks: \d+ vCPU of graphics needed, 1 of 48 free$/);
    expect(capacity(proposed('provision', input, region(of(48, 24, 399))))).toMatch(
      /^blocks: \d+ vCPU needed, 1 of 400 free$/,
    );
  });

  it('is not asked of by sizes of no family', () => {
    const other = region(of(0, 0));
    const plainly = { ...other, template: facts.template } as Facts;
    expect(capacity(proposed('provision', input, plainly))).toMatch(/^passes: \d+ of 400 free vCPU$/);
  });

  it('is kept for a held proposal', () => {
    const before = region(of(48, 0));
    const kept = takesOf(RESOURCE_KINDS, before, proposed('provision', input, before));
    const used = kept.placed.reduce((sum, { vcpu }) => sum + vcpu, 0);
    expect(used).toBeGreaterThan(0);
    const left = withKept(before, [{ own: false, takes: kept }]).site.quota;
    expect(left).toEqual({
      vcpu: 400,
      vcpuUsed: used,
      families: [{ family: 'graphics', vcpu: 48, vcpuUsed: used }],
    });
  });

  it('is kept whole for hosts that come to have a graphics processor, though they have no more vCPU', () => {
    const before = region(of(48, 0));
    const plainly: Facts = {
      ...before,
      rates: [
        ...before.rates,
        { meter: 'host', size: 's8x32', unit: 'hour', price: '0.2', from: 0, to: null },
      ],
      site: { ...before.site, sizes: [plain, drawing] },
      template: {
        code: 'shared-office',
        revision: 1,
        document: { ...spec, pools: [{ ...poolSpec, size: '8 vCPU · 32 GiB' }] },
      },
    };
    const standing = carriedOut(proposed('provision', input, plainly), plainly);
    const resized = proposed('resize', { pool: 'desks', size: 's8x32g8' }, standing);
    const hosts = resized.wanted.filter(({ kind }) => kind === 'host').length;
    expect(hosts).toBeGreaterThan(0);
    const kept = takesOf(RESOURCE_KINDS, standing, resized);
    expect(kept.placed.map(({ node, vcpu }) => [node, vcpu])).toEqual(
      Array.from({ length: hosts }, () => ['graphics', 8]),
    );
    expect(withKept(standing, [{ own: false, takes: kept }]).site.quota?.families?.[0]?.vcpuUsed).toBe(
      8 * hosts,
    );
  });

  it('counts what stands by where it counts', () => {
    const placed = [
      { node: 'graphics', vcpu: 8 },
      { node: '', vcpu: 4 },
    ];
    expect(quotaWith(of(48, 0), placed)).toMatchObject({ vcpuUsed: 12, families: [{ vcpuUsed: 8 }] });
    expect(quotaWith({ vcpu: 10, vcpuUsed: 1 }, placed)).toEqual({ vcpu: 10, vcpuUsed: 13 });
  });
});
