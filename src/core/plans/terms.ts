import type { Included } from '../rating';

/** What a plan limits, each a whole number of what `LIMIT_WORDS` says. */
export const LIMITS = ['people', 'hosts', 'vcpu', 'memoryGiB', 'storageGiB', 'personal'] as const;
export type Limit = (typeof LIMITS)[number];

/** How much there is of each. `storageGiB` is the disks of hosts and the shares; `personal` hosts of one person each. */
export type Amounts = Readonly<Record<Limit, number>>;

interface LimitWords {
  /** As a heading. */
  readonly title: string;
  readonly one: string;
  readonly many: string;
}

export const LIMIT_WORDS: Readonly<Record<Limit, LimitWords>> = {
  people: { title: 'People', one: 'person', many: 'people' },
  hosts: { title: 'Hosts', one: 'host', many: 'hosts' },
  vcpu: { title: 'vCPU', one: 'vCPU', many: 'vCPU' },
  memoryGiB: { title: 'Memory, GiB', one: 'GiB of memory', many: 'GiB of memory' },
  storageGiB: { title: 'Storage, GiB', one: 'GiB of storage', many: 'GiB of storage' },
  personal: { title: 'Personal desktops', one: 'personal desktop', many: 'personal desktops' },
};

/** `12 hosts`, `1 person`. */
export const writeAmount = (limit: Limit, amount: number): string =>
  `${amount} ${amount === 1 ? LIMIT_WORDS[limit].one : LIMIT_WORDS[limit].many}`;

export const NO_AMOUNTS: Amounts = {
  people: 0,
  hosts: 0,
  vcpu: 0,
  memoryGiB: 0,
  storageGiB: 0,
  personal: 0,
};

/** The most that a plan allows of each; null: as much as one likes. */
export type Most = Readonly<Record<Limit, number | null>>;

export const NO_LIMITS: Most = {
  people: null,
  hosts: null,
  vcpu: null,
  memoryGiB: null,
  storageGiB: null,
  personal: null,
};

/** What a plan costs a month in one currency; `monthly` is decimal text in major units. */
export interface PlanFee {
  readonly currency: string;
  readonly monthly: string;
}

/** What one version of a plan says. */
export interface PlanTerms {
  readonly most: Most;
  /** Keys of the sizes that may be had; empty: all. */
  readonly sizes: readonly string[];
  /** Codes of the sites where its customers may have environments; empty: all. */
  readonly sites: readonly string[];
  readonly fees: readonly PlanFee[];
  /** What of the metered things is in the fee; each of them at most once, those alone that have one price for all sizes. */
  readonly included: readonly Included[];
  /** Days for which a customer's data are kept after they have left. */
  readonly retentionDays: number;
  /** Whether the customer has an administrator of its own on its hosts. */
  readonly localAdministrator: boolean;
  /** Hosts that a new environment gets from the ready shelf, where they are ready; 0: none. */
  readonly readyHosts: number;
}

/** A limit that a lead has raised for one customer, until an instant. */
export interface Allowance {
  readonly limit: Limit;
  readonly most: number;
  /** Instant; from then on the plan's own limit holds again. */
  readonly until: number;
}

/** A plan as it holds for a customer now: the terms of its version, and what was allowed beyond them. */
export interface PlanFacts extends PlanTerms {
  readonly name: string;
  readonly allowances: readonly Allowance[];
}
