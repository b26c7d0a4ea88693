import type { CustomerScope } from './access';
import type { App } from './app';
import type { Catalogue } from './catalogue';
import type { Route } from './http';
import type { ParentKind } from './parent-runs';
import type { Tx } from './write';

/** A job as held by this worker. */
export interface JobLease {
  readonly name: string;
  readonly place: string;
  readonly fence: number;
}

/** What a job is run with. */
export interface JobRun {
  readonly lease: JobLease;
  /** Aborted when the worker is to end: nothing new begins then. */
  readonly stop: AbortSignal;
  /** All rooms, for a job that does something in each. */
  readonly rooms: readonly Manifest[];
}

/** Something a worker does again and again. Each is done by one worker at a time, under a lease. */
export interface Job {
  readonly name: string;
  readonly everyMs: number;
  readonly run: (app: App, how: JobRun) => Promise<unknown>;
  /** Each thing that it works on has its own rest: it is looked for at once what is due next. */
  readonly restsItself?: true;
}

/** Removes what a room keeps of a customer, in the transaction that ends the customer. @param now ms since 1970 */
type Ending = (tx: Tx, scope: CustomerScope, now: number) => Promise<unknown>;

/** What a room of the server brings. A new room is its `manifest.ts` and its line in `rooms.ts`. */
export interface Manifest {
  /** Its folder. */
  readonly room: string;
  /** Tables that it alone writes. */
  readonly tables?: readonly string[];
  /** Tables of other rooms that it writes too, with what it writes there. The fewer the better. */
  readonly alsoWrites?: Readonly<Record<string, string>>;
  readonly routes?: readonly Route[];
  /** Routes that follow from the kinds and changes that the process knows. */
  readonly routesOf?: (catalogue: Catalogue) => readonly Route[];
  readonly jobs?: readonly Job[];
  /** What expires: removed each minute. */
  readonly sweeps?: readonly ((app: App) => Promise<unknown>)[];
  /** What is removed once a customer has left, like keys and secrets. */
  readonly ends?: Ending;
  /** What is deleted once a customer's data have been kept as long as their plan promised. */
  readonly forgets?: Ending;
  /** What it keeps encrypted, by name: each function encrypts it again with the current key and returns how many it did. */
  readonly reencrypts?: Readonly<Record<string, (app: App) => Promise<number>>>;
  readonly parents?: readonly ParentKind[];
}
