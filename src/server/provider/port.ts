/** The kinds of thing that a provider keeps for us. */
export type ResourceKind = 'network' | 'subnet' | 'share' | 'pool' | 'host';

export type Tags = Readonly<Record<string, string>>;

/** What can be asked of a provider that takes a while. */
export type Ask =
  | {
      readonly do: 'make network';
      readonly site: string;
      readonly name: string;
      readonly cidr: string;
      readonly tags: Tags;
    }
  | {
      readonly do: 'make subnet';
      readonly site: string;
      readonly name: string;
      readonly cidr: string;
      readonly network: string;
      readonly tags: Tags;
    }
  | {
      readonly do: 'make share';
      readonly site: string;
      readonly name: string;
      readonly gib: number;
      readonly tags: Tags;
    }
  | {
      readonly do: 'make pool';
      readonly site: string;
      readonly name: string;
      readonly seats: number;
      readonly arrival: 'spread' | 'fill';
      readonly tags: Tags;
    }
  | {
      readonly do: 'make host';
      readonly site: string;
      readonly name: string;
      readonly size: string;
      readonly image: string;
      readonly subnet: string;
      readonly address: string;
      readonly diskGiB: number;
      readonly node: string | null;
      readonly tags: Tags;
    }
  | { readonly do: 'install agent'; readonly ref: string }
  | { readonly do: 'join'; readonly ref: string; readonly realm: string }
  | { readonly do: 'power'; readonly ref: string; readonly power: 'on' | 'off' }
  | { readonly do: 'remove'; readonly ref: string };

export interface Operation {
  readonly id: string;
  readonly resource: string;
  readonly state: 'working' | 'done' | 'failed';
  readonly says: string;
}

/** A resource as the provider shows it. Fields beyond the first six are there for the kinds that have them. */
export interface Seen {
  readonly id: string;
  readonly kind: ResourceKind;
  readonly site: string;
  readonly name: string;
  readonly state: string;
  readonly tags: Tags;
  readonly createdAt: number;
  readonly goneAt: number | null;
  readonly size: string | null;
  readonly diskGiB: number | null;
  readonly node: string | null;
  readonly accepting: boolean | null;
  readonly agent: string | null;
  readonly joined: string | null;
  readonly pool: string | null;
  readonly gib: number | null;
  readonly licences: number | null;
}

/** A stretch of the provider's record of changes; each entry shows a resource as it was from `at` on. */
export interface FeedPage {
  readonly entries: readonly { readonly seq: number; readonly at: number; readonly seen: Seen }[];
  readonly more: boolean;
}

export interface SeenSession {
  readonly id: string;
  readonly host: string;
  readonly account: string;
  readonly state: 'active' | 'idle';
  readonly since: number;
}

export interface ProviderSite {
  readonly code: string;
  readonly name: string;
  readonly kind: 'own nodes' | 'hosted region';
  readonly reservedAddresses: number;
  readonly images: readonly string[];
  readonly sizes: readonly { readonly key: string; readonly vcpu: number; readonly memoryGiB: number }[];
  readonly nodes: readonly {
    readonly id: string;
    readonly zone: string;
    readonly vcpu: number;
    readonly memoryGiB: number;
    readonly diskGiB: number;
    readonly dedicatedTo: string | null;
    readonly state: 'up' | 'lost';
  }[];
  readonly quota: { readonly vcpu: number; readonly vcpuUsed: number } | null;
}

/** Small changes to a resource that take effect at once. */
export interface Change {
  readonly accepting?: boolean;
  readonly pool?: string | null;
  readonly publish?: {
    readonly items: readonly string[];
    readonly accounts: readonly string[];
    readonly licences: number;
  };
}

/**
 * The outside world, as far as Laager reaches it. Everything throws `ProviderTrouble` when it does not work out.
 * `begin` with a key that was used before answers with the operation begun then, and begins nothing.
 */
export interface Provider {
  signIn(): Promise<void>;
  sites(): Promise<ProviderSite[]>;
  begin(ask: Ask, key: string): Promise<Operation>;
  operation(id: string): Promise<Operation>;
  /** Undefined: the provider knows no such resource. One that is gone is shown as gone. */
  resource(ref: string): Promise<Seen | undefined>;
  /** Everything that is there and tagged with a customer's code. */
  resources(customer: string): Promise<Seen[]>;
  change(ref: string, change: Change): Promise<void>;
  endSessions(pool: string): Promise<void>;
  feed(after: number): Promise<FeedPage>;
  sessions(): Promise<SeenSession[]>;
}

/** The provider refused, or no answer came. `lasting`: asking again will not help. */
export class ProviderTrouble extends Error {
  constructor(
    message: string,
    readonly lasting: boolean,
    readonly retryAfterMs?: number,
  ) {
    super(message);
  }
}
