import type { ImageTrack, PublishedItem } from '../intent';
import type { ArrivalRule } from '../placement';
import type { ProfileKey } from '../sizing';

/** What a template says of one pool. */
export interface PoolSpec {
  /** Fills `{role}` in names; also the pool's name. */
  readonly role: string;
  /** An image of the provider's, or a line of ours by its code. */
  readonly image: string;
  /** Of a line of ours: its current version, or the newest on trial. Left out: the current one. */
  readonly track?: ImageTrack | undefined;
  readonly arrival: ArrivalRule;
  readonly profile: ProfileKey;
  /** Of the environment's people, the part that uses this pool: above 0, at most 1. */
  readonly partOfPeople: number;
  /** Of the pool's people, the part that is in at the busiest moment: above 0, at most 1. */
  readonly concurrency: number;
  /** Most seats on one host, however large it is. */
  readonly mostSeats: number;
  readonly diskGiB: number;
  readonly shareGiBPerPerson: number;
  /** The pool's ceiling as a multiple of its first hosts, from 1: its subnet is made for the ceiling. */
  readonly ceilingFactor: number;
  readonly items: readonly PublishedItem[];
}

/** What a template's revision says of an environment. */
export interface TemplateSpec {
  readonly naming: string;
  readonly pools: readonly PoolSpec[];
  /** Steps at a time. */
  readonly atATime: number;
  /** A run stops after so many failed steps. */
  readonly failureLimit: number;
}
