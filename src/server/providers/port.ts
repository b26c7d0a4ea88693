import type { Quota } from '../../core/facts';
import type { Answer as LookAnswer } from '../../core/look-along';
import type { Attributes } from '../../core/intent';
import type { MachineSize } from '../../core/machines';
import type { Rate } from '../../core/rating';
import type { Vitals } from '../../core/signs';

export type Tags = Readonly<Record<string, string>>;

/** Something that is to be made. Which attributes a kind has, the kinds of resource know. */
export interface MakeAsk {
  readonly kind: string;
  readonly site: string;
  readonly name: string;
  readonly attributes: Attributes;
  readonly tags: Tags;
}

/** Something that takes a while. */
export interface Operation {
  readonly id: string;
  /** The resource's name at the provider. */
  readonly resource: string;
  readonly state: 'working' | 'done' | 'failed';
  readonly says: string;
  /** What it has written until now, where it writes anything. */
  readonly output?: string;
}

/** A resource as the provider shows it. */
export interface PresentResource {
  /** The provider's own name for it, up to 128 characters. */
  readonly ref: string;
  readonly kind: string;
  readonly site: string;
  readonly name: string;
  /** In the provider's word: `building`, `ready`, `on`, `off`, `unwell`, `gone`. */
  readonly state: string;
  readonly tags: Tags;
  /** Grows with each change of it; a write may be bound to the one that was read. */
  readonly version: number;
  readonly createdAt: number;
  readonly goneAt: number | null;
  readonly attributes: Attributes;
  /** The operation that is at work on it; what it shows otherwise is how it was before. */
  readonly busyWith: string | null;
}

/** A stretch of the provider's record of changes; each entry shows a resource as it was from `at` on. */
export interface FeedPage {
  readonly entries: readonly {
    readonly seq: number;
    readonly at: number;
    readonly present: PresentResource;
  }[];
  readonly more: boolean;
  /** How far it goes, also where its last entries could not be understood; left out: it is empty. */
  readonly last?: number;
}

export interface PresentSession {
  readonly id: string;
  readonly host: string;
  readonly account: string;
  readonly state: 'active' | 'idle';
  readonly since: number;
}

/** What may cross between a session and where it is shown, and how large it is shown. */
export interface SessionManner {
  readonly crosses: readonly string[];
  readonly screen: string;
}

export interface LookAsk {
  readonly id: string;
  /** Whose session it is. */
  readonly account: string;
  readonly by: string;
  readonly answerMs: number;
  readonly lookMs: number;
}

/** A session that was opened for somebody, and where they reach it. */
export interface OpenedSession {
  readonly session: PresentSession;
  /** An address with a ticket that lets them in, and until when it does. */
  readonly address: string;
  readonly until: number;
}

/** Something that runs in a session. */
export interface Program {
  readonly id: string;
  readonly name: string;
  /** Of one vCPU, in hundredths. */
  readonly load: number;
  readonly memoryMiB: number;
  readonly responds: boolean;
}

/** What a host last said of itself. */
export interface Beat extends Vitals {
  /** The host, by the provider's name for it. */
  readonly host: string;
  readonly isUnwell: boolean;
}

/** A stretch of what hosts that run last said of themselves. */
export interface BeatsPage {
  /** Of those that could be understood. */
  readonly entries: readonly Beat[];
  /** All that it was of, also those that could not. */
  readonly mentioned: readonly string[];
  readonly next: string | null;
  readonly askedAt: number;
}

/** A session as it was from a place in the provider's record on. */
export type SessionChange =
  | (PresentSession & { readonly seq: number })
  | { readonly seq: number; readonly id: string; readonly host: string; readonly state: 'ended' };

export interface ProviderSite {
  readonly code: string;
  readonly name: string;
  readonly kind: 'own nodes' | 'hosted region';
  readonly reservedAddresses: number;
  readonly images: readonly { readonly name: string; readonly diskGiB: number }[];
  readonly sizes: readonly MachineSize[];
  readonly nodes: readonly {
    readonly id: string;
    readonly zone: string;
    readonly vcpu: number;
    readonly memoryGiB: number;
    readonly diskGiB: number;
    readonly dedicatedTo: string | null;
    readonly state: 'up' | 'lost';
  }[];
  readonly quota: Quota | null;
}

/** A provider's prices, as rates of what we meter. */
export interface ProviderPrices {
  readonly currency: string;
  readonly rates: readonly Rate[];
}

/** Which resources: those whose tags say so. */
export interface TagFilter {
  readonly customer: string;
  readonly environment?: string;
  readonly resource?: string;
  readonly purpose?: string;
}

/**
 * A provider, as far as Laager reaches it. Everything throws `OutsideError` when it does not work out.
 *
 * `make`, `act` and `remove` with a key that was used before answer with the operation begun then, and begin nothing.
 * `act`, `remove`, `change` and `tag` are bound to a version (RFC 9110, If-Match): when the resource has changed since it was
 * read, nothing is done, and the error says `changed`.
 */
export interface Provider {
  /** Whether it is there at all, without our account; and its clock, as far as it says. */
  reach(): Promise<{ readonly clock: number | undefined }>;
  signIn(): Promise<void>;
  sites(): Promise<ProviderSite[]>;
  /** What it asks for what it meters. */
  prices(): Promise<ProviderPrices>;
  make(ask: MakeAsk, key: string): Promise<Operation>;
  act(ref: string, version: number, action: string, parameters: Attributes, key: string): Promise<Operation>;
  remove(ref: string, version: number, key: string): Promise<Operation>;
  /** A small change that takes effect at once. */
  change(ref: string, version: number, attributes: Attributes): Promise<void>;
  /** Changes its tags, and so its version. */
  tag(ref: string, version: number, tags: Tags): Promise<void>;
  operation(id: string): Promise<Operation>;
  /** Undefined: the provider knows no such resource. One that is gone is shown as gone. */
  resource(ref: string): Promise<PresentResource | undefined>;
  /** Everything that is there and carries the tags. */
  resources(filter: TagFilter): Promise<PresentResource[]>;
  /** Everything that is there, whosesoever. */
  everything(): Promise<PresentResource[]>;
  /** Shows a message to those who are signed in on a host; the same id again shows nothing. */
  message(host: string, id: string, text: string): Promise<void>;
  endSessions(host: string): Promise<void>;
  /**
   * Opens a session for somebody on a host, or finds the one that they have there.
   * @throws OutsideError, lasting, when that host has no seat for them
   */
  openSession(host: string, account: string, item: string, how: SessionManner): Promise<OpenedSession>;
  /** One session is spoken to, left idle or ended; the same message id again shows nothing. One that is over is over. */
  messageSession(session: string, id: string, text: string): Promise<void>;
  disconnect(session: string): Promise<void>;
  endSession(session: string): Promise<void>;
  /**
   * Asks somebody in their session whether `by` may look along; the same id again asks nothing. Times in ms.
   * @throws OutsideError, lasting, when it is not that account's session, or is over
   */
  askToLook(session: string, ask: LookAsk): Promise<void>;
  /** What they said of it, and where one looks along as long as they let one. */
  lookAlong(
    session: string,
    id: string,
  ): Promise<{ readonly answer: LookAnswer; readonly address: string | null }>;
  endLook(session: string, id: string): Promise<void>;
  programs(session: string): Promise<Program[]>;
  endProgram(session: string, program: string): Promise<void>;
  sessions(host: string): Promise<PresentSession[]>;
  /** Everyone who is in, and the place in the record of their changes from which to go on. */
  allSessions(): Promise<{ readonly sessions: readonly PresentSession[]; readonly place: string }>;
  /** What has changed after a place; undefined: the record does not hold all of it, and everything is to be read anew. */
  sessionChanges(
    after: string,
  ): Promise<
    { readonly entries: readonly SessionChange[]; readonly more: boolean; readonly last?: number } | undefined
  >;
  /** What hosts that run last said of themselves, by the host, after one; and when it was asked, by its own clock. */
  beats(after: string): Promise<BeatsPage>;
  /** What one host last said; undefined: it does not run. */
  beatOf(host: string): Promise<(Beat & { readonly askedAt: number }) | undefined>;
  /** Undefined: its record does not go back to that place. */
  feed(after: string): Promise<FeedPage | undefined>;
  /** Where its record of changes stands now. */
  feedPlaceNow(): Promise<string>;
  /**
   * Tries, from inside a network, whether an address is reached, and with `ask`, whether the name server there knows a name.
   * Changes nothing.
   */
  probe(
    network: string,
    what: { readonly to: string; readonly ask?: string },
  ): Promise<{ readonly worked: boolean; readonly says: string }>;
}
