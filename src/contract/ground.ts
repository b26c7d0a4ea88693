import { GROUND_CHANGES } from '../core/ground';
import { RATE_UNITS } from '../core/rating';
import { id, moneySchema, ownCode } from './common';
import { endpoint } from './endpoint';
import {
  filled,
  flag,
  listOf,
  maybe,
  maybeText,
  maybeWhole,
  number,
  oneOf,
  shape,
  text,
  whole,
  type Of,
} from './shape';

/** Something that was otherwise at a reading than at the one before, with what it touches. */
export const groundChangeSchema = shape({
  id: text,
  site: text,
  siteName: text,
  kind: oneOf(GROUND_CHANGES),
  /** The node, size or image; empty for a quota. */
  subject: text,
  before: text,
  after: text,
  at: whole,
  /** Whether something was taken away. */
  worse: flag,
  /** Hosts that it touches, and codes of their customers in reach; others: how many customers are out of reach. */
  hosts: whole,
  customers: listOf(text),
  others: whole,
});
export type GroundChangeEntry = Of<typeof groundChangeSchema>;

export const providerPricesSchema = shape({
  provider: text,
  name: text,
  currency: text,
  /** Whether it has told any prices. */
  toldAtAll: flag,
  /** From when those in force are; null: none are. */
  from: maybeWhole,
  /** From when others are to be; null: none are planned. */
  plannedFrom: maybeWhole,
  prices: listOf(
    shape({
      kind: oneOf(['price up', 'price down', 'price new', 'price gone', 'price same']),
      meter: text,
      size: maybeText,
      unit: oneOf(RATE_UNITS),
      inForce: maybeText,
      told: maybeText,
      dearer: maybe(number),
      /** How many of it stand there now: hosts that are on, or GiB. */
      standing: whole,
    }),
  ),
  /** What what is told costs a month more, for what stands there now. */
  monthly: maybe(moneySchema),
});
export type ProviderPricesView = Of<typeof providerPricesSchema>;

const area = 'Ground';

export const groundEndpoints = {
  changes: endpoint({
    method: 'GET',
    path: '/ground/changes',
    area,
    summary: 'What was otherwise at a reading of a site than at the one before, and what it touches',
    answer: shape({ changes: listOf(groundChangeSchema) }),
  }),
  note: endpoint({
    method: 'POST',
    path: '/ground/changes/{change}/noted',
    area,
    everyone: true,
    summary: 'Note a change: it is not shown any more',
    params: shape({ change: id }),
    right: 'build',
    status: 204,
  }),
  prices: endpoint({
    method: 'GET',
    path: '/ground/prices',
    area,
    summary: 'What each provider asks, beside what is in force with us',
    answer: shape({ providers: listOf(providerPricesSchema) }),
  }),
  takePrices: endpoint({
    method: 'POST',
    path: '/providers/{provider}/prices',
    area,
    everyone: true,
    summary: 'Take over what a provider asks: from a date on it is what its things cost us',
    params: shape({ provider: ownCode }),
    right: 'decide',
    body: shape({ from: filled(maybe(whole).description('Left out: from now on'), null) }),
    answer: shape({ taken: whole }),
  }),
};
