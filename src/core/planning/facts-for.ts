import type { Facts } from '../facts';
import type { Change } from './change';
import { FACTS_OF_CHECKS } from './checks';

/** What every change of an intent is proposed from. */
const ALWAYS = [
  'now',
  'customer',
  'environment',
  'site',
  'rates',
  'known',
  'present',
  'overrides',
] as const satisfies readonly (keyof Facts)[];

/**
 * The groups of facts that a change is proposed from: those of every plan, what its checks go by, and what it names itself.
 * No other is read for it.
 */
export const factsFor = (change: Pick<Change, 'needs'>): readonly (keyof Facts)[] => [
  ...new Set([...ALWAYS, ...FACTS_OF_CHECKS, ...change.needs]),
];
