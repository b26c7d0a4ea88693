import type { Facts } from '../../../src/core/facts';
import { archived, left } from './desktops';
import { plan, standing, standingTwo, type Case } from './standing';

/** People have been in. */
const lived = (facts: Facts): Facts => ({ ...facts, served: true });

export const livedIn = lived(standing);
export const livedInTwo = lived(standingTwo);
export const leftAndArchived = lived(archived);
export const leftBehind = lived(left);
export const unpromised = plan({ retentionDays: 0 }, livedIn);

/** Retired already: its share is kept. */
export const keptShare: Facts = {
  ...standing,
  known: [],
  present: [],
  environment: standing.environment && { ...standing.environment, wanted: 'retired' },
  retained: [
    {
      id: '01KEPT00000000000000000000',
      kind: 'share',
      name: 'office desks profiles',
      attributes: { site: 'KQ', gib: 500 },
      version: 4,
      until: standing.now + 30 * 86_400_000,
    },
  ],
};

/** What is retired where people have been in, and what was kept then. */
export const OF_RETAINED: readonly Case[] = [
  ['where people were in', 'retire', {}, livedIn],
  ['where people were in, with their data', 'retire', { data: 'destroyed' }, livedIn],
  ['with a disk that was put aside', 'retire', {}, leftAndArchived],
  ['with a desktop whose person left', 'retire', {}, leftBehind],
  ['where the plan promises nothing', 'retire', {}, unpromised],
  ['one pool of two, where people were in', 'retire-pool', { pool: 'lab' }, livedInTwo],
  ['what was kept', 'drop-retained', { retained: ['01KEPT00000000000000000000'] }, keptShare],
  ['what is not kept', 'drop-retained', { retained: ['01NOT000000000000000000000'] }, keptShare],
];
