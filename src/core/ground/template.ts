import { parseRule } from '../naming';
import type { ArrivalRule } from '../placement';
import type { ProfileKey } from '../sizing';

export interface PublishedItem {
  readonly name: string;
  readonly kind: 'desktop' | 'app';
}

/** What a template's revision says of an environment: one shared pool on a network, with a share and items. */
export interface TemplateSpec {
  readonly naming: string;
  /** Fills `{role}` in names; also the pool's name. */
  readonly role: string;
  readonly image: string;
  readonly arrival: ArrivalRule;
  readonly profile: ProfileKey;
  /** Of the people, the part that is in at the busiest moment: above 0, at most 1. */
  readonly concurrency: number;
  /** Most seats on one host, however large it is. */
  readonly mostSeats: number;
  readonly diskGiB: number;
  readonly shareGiBPerPerson: number;
  /** The pool's ceiling as a multiple of its first hosts, from 1: its subnet is made for the ceiling. */
  readonly ceilingFactor: number;
  /** Hosts built at a time. */
  readonly atATime: number;
  /** A run stops after so many failed steps. */
  readonly failureLimit: number;
  readonly items: readonly PublishedItem[];
}

/** What is wrong with a template, each in plain words; empty when it can be used. */
export function checkTemplate(spec: TemplateSpec): string[] {
  const faults: string[] = [];
  const rule = parseRule(spec.naming);
  if (!rule.ok) faults.push(rule.problem);
  if (!(spec.concurrency > 0 && spec.concurrency <= 1)) faults.push('concurrency is above 0 and at most 1');
  if (spec.ceilingFactor < 1) faults.push('the ceiling is at least the first hosts');
  if (spec.atATime < 1 || spec.failureLimit < 1)
    faults.push('hosts at a time and failure limit are at least 1');
  if (spec.items.length === 0) faults.push('nothing is published: people would find nothing');
  return faults;
}
