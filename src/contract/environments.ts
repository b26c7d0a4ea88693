import { ASSIGNINGS, HOLDINGS, IMAGE_TRACKS, ITEM_KINDS } from '../core/intent';
import { OVERRIDDEN, OVERRIDE_CAUSES } from '../core/overrides';
import { ARRIVAL_RULES } from '../core/placement';
import { HOST_STATUSES, POWERS } from '../core/status';
import {
  arcSchema,
  customerParams,
  environmentParams,
  listQuery,
  moneySchema,
  pageOf,
  saysSchema,
} from './common';
import { endpoint } from './endpoint';
import { originSchema } from './templates';
import { flag, listOf, maybe, maybeText, maybeWhole, oneOf, shape, text, whole, type Of } from './shape';

/** A run is making it, or stopped before its end; or it serves, leaves or is retired. */
export const ENVIRONMENT_STATES = ['under way', 'unfinished', 'serving', 'leaving', 'retired'] as const;

/** What is wanted of an environment as a whole. */
export const ENVIRONMENT_WANTED = ['serving', 'retired'] as const;

export const itemSchema = shape({ name: text, kind: oneOf(ITEM_KINDS) });

const environment = {
  id: text,
  name: text,
  site: text,
  siteName: text,
  template: text,
  revision: whole,
  state: oneOf(ENVIRONMENT_STATES),
  people: whole,
  /** What it is of: a customer's own image is built and kept like an environment. */
  holds: oneOf(HOLDINGS),
  hosts: whole,
  createdAt: whole,
  retiredAt: maybeWhole,
  /** The version of its intent. */
  version: whole,
  arcs: listOf(arcSchema),
};
export const environmentSchema = shape(environment);
export type Environment = Of<typeof environmentSchema>;

export const poolSchema = shape({
  role: text,
  image: text,
  /** Of an image that is made here: which of its versions it follows; null: it is the provider's. */
  track: maybe(oneOf(IMAGE_TRACKS)),
  size: text,
  seats: whole,
  arrival: oneOf(ARRIVAL_RULES),
  diskGiB: whole,
  shareGiB: whole,
  people: whole,
  ceiling: whole,
  hosts: whole,
  subnet: text,
  items: listOf(itemSchema),
  /** How one comes to theirs, where everyone has a host of their own; null: many share them. */
  assign: maybe(oneOf(ASSIGNINGS)),
  ownDiskGiB: whole,
});
export type Pool = Of<typeof poolSchema>;

export const environmentWithPoolsSchema = shape({
  ...environment,
  pools: listOf(poolSchema),
  /** What its hosts may be made of, at its site. */
  images: listOf(text),
  network: text,
  peopleIn: whole,
  seatsOpen: whole,
  /** Hosts whose person has left, by the host's key, and until when each is kept. */
  keptDesktops: listOf(shape({ key: text, until: whole })),
  /** Disks that were put aside, of people who had a desktop here. */
  keptDisks: listOf(shape({ key: text, pool: text, person: text, gib: whole, until: whole })),
  /** Resources that are otherwise than wanted. */
  drift: whole,
});
export type EnvironmentWithPools = Of<typeof environmentWithPoolsSchema>;

/** Something that is wanted of a host otherwise than its intent says. */
export const overrideSchema = shape({
  cause: oneOf(OVERRIDE_CAUSES),
  attribute: oneOf(OVERRIDDEN),
  /** `on` or `off`; `true` or `false`. */
  wants: text,
  why: text,
  by: text,
  since: whole,
  /** Null: until it is removed. */
  until: maybeWhole,
});
export type HostOverride = Of<typeof overrideSchema>;

export const hostSchema = shape({
  id: text,
  key: text,
  environmentId: text,
  pool: text,
  name: text,
  address: text,
  node: maybeText,
  size: text,
  diskGiB: whole,
  status: oneOf(HOST_STATUSES),
  /** Each difference in plain words. */
  drift: listOf(text),
  wantedPower: oneOf(POWERS),
  wantedAccepting: flag,
  /** What is wanted of it otherwise than its intent says, what wins first. */
  overrides: listOf(overrideSchema),
  /** Whether a picture of it is kept, to go back to. */
  pictured: flag,
  /** What the provider says; null: it knows no such host. */
  present: maybeText,
  ref: maybeText,
  sessions: whole,
  seats: whole,
  version: whole,
  /** Whose it is, by account; empty: nobody's yet; null: many share it. */
  person: maybeText,
  /** Our id of that person; null: nobody's. */
  personId: maybeText,
  /** Whether it is kept for somebody who left: then nobody signs in there. */
  kept: flag,
});
export type Host = Of<typeof hostSchema>;

/** Why something is otherwise than wanted: no run has got to it, or it was changed past us. */
export const DIFFERENCE_CAUSES = ['not done yet', 'changed there'] as const;

export const differenceSchema = shape({
  key: text,
  kind: text,
  name: text,
  /** Null: it concerns the whole resource. */
  attribute: maybeText,
  what: oneOf(['missing', 'extra', 'otherwise']),
  cause: oneOf(DIFFERENCE_CAUSES),
  says: text,
  /** Whether mending it ends sessions. */
  disturbs: flag,
  /** Whether what is there can be taken as wanted. */
  takeable: flag,
});
export type Difference = Of<typeof differenceSchema>;

export const PROOF_WORDS = [
  'gone',
  'kept',
  'still there',
  'unknown to the provider',
  'could not be asked',
] as const;

export const proofRowSchema = shape({
  kind: text,
  name: text,
  ref: text,
  says: oneOf(PROOF_WORDS),
  goneAt: maybeWhole,
  /** Until when it is kept for its data; null: it is not. */
  keptUntil: maybeWhole,
  lastCharge: moneySchema,
  metering: flag,
});
export type ProofRow = Of<typeof proofRowSchema>;

export const proofSchema = shape({
  environment: text,
  askedAt: whole,
  clean: flag,
  rows: listOf(proofRowSchema),
  month: text,
  lastCharges: moneySchema,
  returned: shape({
    names: listOf(text),
    stillInDirectory: listOf(text),
    directory: saysSchema,
    /** What else it took that only one can have, by its sort, like `subnet`; what is shared serves other environments too. */
    values: listOf(shape({ space: text, values: listOf(text), returned: flag, shared: flag })),
  }),
});
export type Proof = Of<typeof proofSchema>;

/** All that an environment's page shows. */
export const environmentWholeSchema = shape({
  environment: environmentWithPoolsSchema,
  hosts: listOf(hostSchema),
  differences: listOf(differenceSchema),
  origin: originSchema,
});
export type EnvironmentWhole = Of<typeof environmentWholeSchema>;

const area = 'Environments';

export const environmentEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/customers/{customer}/environments',
    area,
    summary: "The customer's environments",
    params: customerParams,
    own: true,
    query: listQuery,
    answer: pageOf(environmentSchema),
  }),
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}',
    area,
    summary: 'One environment: wanted against present',
    params: environmentParams,
    own: true,
    answer: environmentWithPoolsSchema,
  }),
  whole: endpoint({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/whole',
    area,
    summary: 'One environment with its hosts, its differences and where it came from: read once',
    params: environmentParams,
    own: true,
    answer: environmentWholeSchema,
  }),
  hosts: endpoint({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/hosts',
    area,
    summary: 'Its hosts by name: what is wanted of each, and what the provider says',
    params: environmentParams,
    own: true,
    query: listQuery,
    answer: pageOf(hostSchema),
  }),
  differences: endpoint({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/differences',
    area,
    summary: 'What is otherwise than wanted, resource by resource; `mend` takes them',
    params: environmentParams,
    own: true,
    answer: shape({ differences: listOf(differenceSchema) }),
  }),
  proof: endpoint({
    method: 'GET',
    path: '/customers/{customer}/environments/{environment}/proof',
    area,
    summary: 'What the provider and the directory say now of everything that was ever made for it',
    params: environmentParams,
    own: true,
    answer: proofSchema,
  }),
};
