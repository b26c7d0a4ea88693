import type { Facts } from '../../../src/core/facts';
import type { TemplateDocument } from '../../../src/core/templates';
import { carriedOut, input, poolSpec, proposed, spec } from '../setup/facts';
import { large, sized, standing, twoPools, withSizes, type Case } from './standing';

/* An environment that its template has left behind, or that has left its template. */

const newer = (document: Partial<TemplateDocument>, from: Facts = standing): Facts => ({
  ...from,
  template: { code: 'shared-office', revision: 2, document: { ...spec, ...document } },
});

/** The disk was made bigger by hand. */
export const grown = carriedOut(proposed('grow-disk', { pool: 'desks', diskGiB: 256 }, standing), standing);

const asked: TemplateDocument = {
  ...spec,
  inputs: [
    {
      key: 'work',
      title: 'Work',
      help: '',
      short: true,
      type: 'choice',
      choices: ['light', 'heavy'],
      usual: 'heavy',
    },
  ],
  pools: [{ ...poolSpec, profile: '=work' }],
};
const filledLight: Facts = { ...large, template: { code: 'asked', revision: 1, document: asked } };
const light = carriedOut(
  proposed(
    'provision',
    { ...input, template: 'asked', inputs: [{ key: 'work', value: 'light' }] },
    filledLight,
  ),
  filledLight,
);

const lab = { ...poolSpec, role: 'lab', people: 3, profile: 'heavy' as const };

const OWN = { ...poolSpec, role: 'own', kind: 'personal' as const, mostSeats: 1, ownDiskGiB: 64 };
const owning: Facts = {
  ...large,
  template: { code: 'own', revision: 1, document: { ...spec, pools: [OWN] } },
};
const withDisks = carriedOut(proposed('provision', { ...input, template: 'own', people: 2 }, owning), owning);
const ownDisksOf = (ownDiskGiB: number): Facts => ({
  ...withDisks,
  template: { code: 'own', revision: 2, document: { ...spec, pools: [{ ...OWN, ownDiskGiB }] } },
});

const TWO_SEATS = { ...input, template: 'own', pools: [{ role: 'own', mostSeats: 2 }] };

/** Provisioned while nothing was dear; then the rates of what was chosen went up ninefold, and a newer revision came. */
function atLeast(size: string): Facts {
  const from: Facts = withSizes({
    ...large,
    template: {
      code: 'least',
      revision: 1,
      document: { ...spec, pools: [{ ...poolSpec, size: 'at least 4 vCPU · 16 GiB' }] },
    },
  });
  const now = carriedOut(proposed('provision', { ...input, template: 'least' }, from), from);
  const chosen = now.environment?.intent.pools[0]?.size;
  return {
    ...now,
    rates: now.rates.map((rate) =>
      rate.size === chosen ? { ...rate, price: String(Number(rate.price) * 9) } : rate,
    ),
    template: { code: 'least', revision: 2, document: { ...spec, pools: [{ ...poolSpec, size }] } },
  };
}

export const FOLLOWING: readonly Case[] = [
  ['the revision that it came from', 'follow-template', {}, standing],
  [
    'more room for what people keep, and drives may cross',
    'follow-template',
    {},
    newer({ pools: [{ ...poolSpec, shareGiBPerPerson: 15, crosses: ['clipboard', 'drives'] }] }),
  ],
  ['a bigger disk put back', 'follow-template', {}, grown],
  ['a bigger disk kept', 'follow-template', { keep: ['desks.diskGiB'] }, grown],
  ['a pool more', 'follow-template', {}, newer({ pools: [poolSpec, lab] })],
  ['a pool more, not taken', 'follow-template', { keep: ['lab'] }, newer({ pools: [poolSpec, lab] })],
  [
    'another work, and so other seats',
    'follow-template',
    {},
    newer({ pools: [{ ...poolSpec, profile: 'light' }] }, sized),
  ],
  ['what was filled in stays', 'follow-template', {}, light],
  ['what is filled in otherwise', 'follow-template', { inputs: [{ key: 'work', value: 'heavy' }] }, light],
  ['what is asked no more', 'follow-template', { inputs: [{ key: 'play', value: 'heavy' }] }, light],
  [
    'another template',
    'follow-template',
    {},
    { ...standing, template: { code: 'other', revision: 1, document: spec } },
  ],
  ['smaller disks of people’s own', 'follow-template', {}, ownDisksOf(32)],
  ['larger disks of people’s own', 'follow-template', {}, ownDisksOf(96)],
  [
    'a size by what it holds',
    'provision',
    input,
    withSizes({
      ...large,
      template: {
        code: 'sized',
        revision: 1,
        document: { ...spec, pools: [{ ...poolSpec, size: '4 vCPU · 16 GiB' }] },
      },
    }),
  ],
  ['two seats on what is one person’s own', 'provision', TWO_SEATS, owning],
  [
    'what the rule allows is not resized by rates',
    'follow-template',
    {},
    atLeast('at least 4 vCPU · 16 GiB'),
  ],
  ['what the rule allows no more', 'follow-template', {}, atLeast('at least 8 vCPU · 32 GiB')],
  ['half of them from the start', 'provision', { ...input, ready: 6 }, large],
  [
    'a feature that the plan lacks',
    'provision',
    input,
    {
      ...large,
      template: { code: 'f', revision: 1, document: { ...spec, features: ['local administrator'] } },
    },
  ],
  [
    'a disk otherwise from the first',
    'provision',
    { ...input, pools: [{ role: 'desks', diskGiB: 200 }] },
    twoPools,
  ],
];
