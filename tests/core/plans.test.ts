import { describe, expect, it } from 'vitest';
import {
  compareTerms,
  dearerBy,
  limitsPassed,
  moveFindings,
  mostOf,
  NO_AMOUNTS,
  planReminders,
  takenBy,
  writeAmount,
} from '../../src/core/plans';
import { facts, planOf, poolSpec, spec } from './setup/facts';
import { proposed, input } from './setup/facts';

const NOW = Date.UTC(2026, 10, 24);
const DAY = 86_400_000;
const sizes = [{ key: 's2x8', vcpu: 2, memoryGiB: 8 }];
const large = { ...facts, customer: { ...facts.customer, plan: planOf({}) } };
const intent = proposed('provision', input, large).intent;
if (!intent) throw new Error('nothing was proposed');

describe('what an environment takes of a plan', () => {
  it('is its hosts, what they hold, and its shares', () =>
    // Five hosts of 2 vCPU, 8 GiB and a disk of 128 GiB; a share of 10 GiB for each of twelve people.
    expect(takenBy(intent, sizes)).toEqual({
      people: 12,
      hosts: 5,
      vcpu: 10,
      memoryGiB: 40,
      storageGiB: 5 * 128 + 120,
      personal: 0,
    }));

  it('counts hosts of one person each as personal desktops', () => {
    const own = proposed(
      'provision',
      { ...input, people: 3 },
      {
        ...large,
        template: { code: 'own', revision: 1, document: { ...spec, pools: [{ ...poolSpec, mostSeats: 1 }] } },
      },
    );
    expect(takenBy(own.intent, sizes)).toMatchObject({ hosts: 3, personal: 3 });
  });

  it('is nothing where nothing is wanted, and counts no size that is not known', () => {
    expect(takenBy(null, sizes)).toEqual(NO_AMOUNTS);
    expect(takenBy(intent, [])).toMatchObject({ hosts: 5, vcpu: 0, memoryGiB: 0 });
  });
});

describe('limits', () => {
  const four = planOf({ hosts: 4 });
  const amounts = (hosts: number) => ({ ...NO_AMOUNTS, hosts });

  it('are passed by one more, not by as many', () => {
    expect(limitsPassed(amounts(4), four, NOW)).toEqual([]);
    expect(limitsPassed(amounts(5), four, NOW).map((one) => one.says)).toEqual([
      '5 hosts; plan Harbour allows 4',
    ]);
  });

  it('of nothing allow nothing, and none allow everything', () => {
    expect(limitsPassed(amounts(1), planOf({ hosts: 0 }), NOW)).toHaveLength(1);
    expect(limitsPassed(amounts(1e6), planOf({}), NOW)).toEqual([]);
  });

  it('are raised until an instant, which is not of it any more', () => {
    const raised = planOf({ hosts: 4 }, { allowances: [{ limit: 'hosts', most: 6, until: NOW + DAY }] });
    expect(mostOf(raised, 'hosts', NOW + DAY - 1)).toBe(6);
    expect(mostOf(raised, 'hosts', NOW + DAY)).toBe(4);
    expect(mostOf(raised, 'vcpu', NOW)).toBeNull();
    expect(limitsPassed(amounts(7), raised, NOW)[0]?.says).toBe(
      '7 hosts; plan Harbour allows 6, as it was raised for them',
    );
  });

  it('are never lowered by what was allowed beyond them', () =>
    expect(
      mostOf(
        planOf({ hosts: 4 }, { allowances: [{ limit: 'hosts', most: 2, until: NOW + DAY }] }),
        'hosts',
        NOW,
      ),
    ).toBe(4));

  it('are written in the words of what they count', () =>
    expect([writeAmount('hosts', 1), writeAmount('storageGiB', 20)]).toEqual([
      '1 host',
      '20 GiB of storage',
    ]));
});

describe('a change under a plan', () => {
  const checkOf = (plan: ReturnType<typeof planOf>, takes = NO_AMOUNTS) =>
    proposed('provision', input, { ...facts, customer: { ...facts.customer, plan, takes } }).checks.find(
      (one) => one.key === 'plan',
    );
  it.each([
    ['vCPU', planOf({ vcpu: 9 }), '10 vCPU; plan Harbour allows 9'],
    ['memory', planOf({ memoryGiB: 39 }), '40 GiB of memory; plan Harbour allows 39'],
    ['storage', planOf({ storageGiB: 759 }), '760 GiB of storage; plan Harbour allows 759'],
    ['a site', planOf({}, { sites: ['NL'] }), 'plan Harbour does not reach Kelp Quay'],
  ])('is blocked by %s', (_what, plan, says) =>
    expect(checkOf(plan)).toMatchObject({ state: 'blocks', says }),
  );

  it('counts what the customer’s other environments take', () => {
    const plan = planOf({ hosts: 7 });
    expect(checkOf(plan, { ...NO_AMOUNTS, hosts: 2 })).toMatchObject({ state: 'passes' });
    expect(checkOf(plan, { ...NO_AMOUNTS, hosts: 3 })).toMatchObject({
      state: 'blocks',
      says: '8 hosts; plan Harbour allows 7',
    });
  });

  it('is not blocked by what stands beyond a limit already and does not grow', () =>
    expect(checkOf(planOf({ people: 100, personal: 2 }), { ...NO_AMOUNTS, personal: 5 })).toMatchObject({
      state: 'passes',
    }));
});

describe('a move to another plan', () => {
  const environments = [{ intent, sizes }];
  it('finds what would not fit: limits that can be raised, and what cannot be had at all', () =>
    expect(
      moveFindings(
        environments,
        96,
        planOf({ hosts: 4, people: 90 }, { name: 'Skiff', sizes: ['s4x16'], sites: ['NL'] }),
        NOW,
      ),
    ).toEqual([
      { says: '96 people; plan Skiff allows 90', limit: 'people', amount: 96 },
      { says: '5 hosts; plan Skiff allows 4', limit: 'hosts', amount: 5 },
      { says: 'office stands at KQ; plan Skiff has no such site' },
      { says: 'office has hosts of s2x8; plan Skiff has no such size' },
    ]));

  it('of who has nothing finds nothing', () =>
    expect(moveFindings([], 0, planOf({ hosts: 0 }), NOW)).toEqual([]));

  it('is reminded of from fourteen days before what was allowed ends, and only while it is needed', () => {
    const until = NOW + 15 * DAY;
    const raised = planOf({ hosts: 4 }, { allowances: [{ limit: 'hosts', most: 9, until }] });
    const at = (now: number, plan = raised): string[] => planReminders(environments, 0, plan, now);
    expect(at(until - 14 * DAY - 1)).toEqual([]);
    expect(at(until - 14 * DAY)).toEqual(['Hosts beyond plan Harbour only until 2026-12-09']);
    expect(at(until)).toEqual(['5 hosts; plan Harbour allows 4']);
    expect(at(until - 1, { ...raised, most: { ...raised.most, hosts: 5 } })).toEqual([]);
  });

  it('costs what the fees differ by, in a currency in which both are sold', () => {
    const eur = (monthly: string) => [{ currency: 'EUR', monthly }];
    expect(dearerBy(eur('35'), eur('140.50'), 'EUR')).toEqual({ minor: 10_550, currency: 'EUR' });
    expect(dearerBy(eur('35'), [], 'EUR')).toEqual({ minor: -3_500, currency: 'EUR' });
    expect(dearerBy([], eur('35'), 'SEK')).toBeNull();
    expect(dearerBy([], [], 'SEK')).toEqual({ minor: 0, currency: 'SEK' });
  });

  it('tells of every term whether it is otherwise, and whether it is less', () => {
    const less = planOf(
      { people: 1, memoryGiB: 2, storageGiB: 3, personal: 4 },
      {
        sites: ['KQ'],
        sizes: ['a', 'b'],
        fees: [{ currency: 'GBP', monthly: '5.00' }],
        included: [{ meter: 'disk', quantity: 10 }],
        retentionDays: 7,
      },
    );
    const more = planOf(
      { people: 9 },
      {
        sites: ['NL', 'KQ'],
        sizes: ['c', 'b', 'a10', 'a'],
        included: [
          { meter: 'disk', quantity: 20 },
          { meter: 'licence', quantity: 5 },
        ],
        retentionDays: 8,
        readyHosts: 2,
        localAdministrator: true,
      },
    );
    const expected: [title: string, from: string, to: string, less: boolean | undefined][] = [
      ['People', '1', '9', false],
      ['Memory, GiB', '2', 'no limit', false],
      ['Storage, GiB', '3', 'no limit', false],
      ['Personal desktops', '4', 'no limit', false],
      ['Sizes', 'a, b', 'a, a10, b, c', false],
      ['Sites', 'KQ', 'KQ, NL', false],
      ['A month in GBP', '5.00', 'none', undefined],
      ['Included: disk, GiB', '10', '20', false],
      ['Included: licence, seat', '0', '5', false],
      ['Days that data are kept', '7', '8', false],
      ['Hosts from the ready shelf', '0', '2', false],
      ['Local administrator', 'no', 'yes', false],
    ];
    const told = (differences: ReturnType<typeof compareTerms>) =>
      differences.map((one) => [one.title, one.from, one.to, one.less]);
    expect(told(compareTerms(less, more, {}))).toEqual(expected);
    expect(told(compareTerms(more, less, {}))).toEqual(
      expected.map(([title, from, to, isLess]) => [title, to, from, isLess === undefined ? undefined : true]),
    );
    // Another site is less as well: the one before is missing.
    const other = compareTerms(less, { ...less, sites: ['NL', 'TF'] }, {});
    expect(told(other)).toEqual([['Sites', 'KQ', 'NL, TF', true]]);
  });

  it('tells what the terms say otherwise, and what is less of it', () => {
    const from = planOf({ hosts: 20 }, { fees: [{ currency: 'EUR', monthly: '140.00' }], retentionDays: 90 });
    const to = planOf(
      { hosts: 4, vcpu: 16 },
      {
        sizes: ['s2x8'],
        fees: [{ currency: 'EUR', monthly: '35.00' }],
        retentionDays: 90,
        localAdministrator: true,
      },
    );
    expect(compareTerms(from, to, { s2x8: '2 vCPU · 8 GiB' })).toEqual([
      { title: 'Hosts', from: '20', to: '4', less: true },
      { title: 'vCPU', from: 'no limit', to: '16', less: true },
      { title: 'Sizes', from: 'all', to: '2 vCPU · 8 GiB', less: true },
      { title: 'A month in EUR', from: '140.00', to: '35.00' },
      { title: 'Local administrator', from: 'no', to: 'yes', less: false },
    ]);
    expect(compareTerms(to, from, {}).find((one) => one.title === 'Sizes')).toMatchObject({ less: false });
    expect(compareTerms(from, from, {})).toEqual([]);
  });
});
