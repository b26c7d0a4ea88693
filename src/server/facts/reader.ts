import type { Facts } from '../../core/facts';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import type { OutsideSays } from '../sites';

/** What a proposal is about. */
export interface Subject {
  readonly site: string;
  readonly template?: string;
  readonly environment?: string;
  /** The version of its intent that the change looks back to. */
  readonly lookBackTo?: number | undefined;
  /** Accounts of people whom the change names. */
  readonly concerns?: readonly string[] | undefined;
  readonly grantees?: readonly string[] | undefined;
  /** The hold that it is about. */
  readonly hold?: string | undefined;
}

/** A group of facts, by its name. */
export type FactKey = keyof Facts;

/** What a reader reads by. */
export interface FactAsk {
  readonly app: App;
  readonly connection: Connection;
  readonly scope: CustomerScope;
  readonly subject: Subject;
  readonly outside: OutsideSays;
  /** Another group: read once, however many ask for it. */
  get<Key extends FactKey>(key: Key): Promise<Facts[Key]>;
}

/** How one group of facts is read. A new group is a file with a reader and its line in the list. */
export type FactReader<Key extends FactKey> = (ask: FactAsk) => Promise<Facts[Key]>;
