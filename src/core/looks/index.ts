import { urgency, type Harm } from '../signs';
import type { HostStatus } from '../status';

/** What may need attention: of a customer, or of what concerns no one customer. */
export const ATTENTION_KINDS = [
  'drift',
  'money',
  'plan',
  'gateway',
  'run',
  'provider',
  'approval',
  'directory',
] as const;
export type AttentionKind = (typeof ATTENTION_KINDS)[number];

/** What it comes from that something needs a look. */
export type LookCause =
  | { readonly of: 'sign'; readonly harm: Harm }
  | { readonly of: 'run'; readonly byHand: boolean }
  | { readonly of: 'all'; readonly kind: AttentionKind }
  | { readonly of: 'customer'; readonly kind: AttentionKind; readonly hardship: number };

/** What everyone depends on comes before all that is one customer's. */
const OF_ALL = 1_000;

const OF_CUSTOMER: Readonly<Record<AttentionKind, number>> = {
  drift: 30,
  directory: 28,
  approval: 25,
  money: 10,
  plan: 10,
  gateway: 10,
  run: 10,
  provider: 10,
};

/**
 * How soon something should be looked at, among what hits nobody: the more, the sooner. Common practice, no source.
 * @returns from 10 to 1 000
 */
export function pressOf(cause: LookCause): number {
  switch (cause.of) {
    case 'all':
      return OF_ALL;
    case 'run':
      return cause.byHand ? 20 : 100;
    case 'sign':
      return cause.harm === 'soon' ? 22 : 60;
    case 'customer':
      return OF_CUSTOMER[cause.kind] + (cause.kind === 'drift' ? cause.hardship : 0);
  }
}

/**
 * Of a customer's hosts, the part that cannot be used though it should.
 * @param arcs its hosts by how they are
 * @param hosts all of them
 * @returns from 0 to 60
 */
export function hardshipOf(
  arcs: readonly { readonly status: HostStatus; readonly hosts: number }[],
  hosts: number,
): number {
  const bad = arcs.filter(({ status }) => status === 'unwell' || status === 'missing');
  return hosts === 0 ? 0 : (60 * bad.reduce((sum, arc) => sum + arc.hosts, 0)) / hosts;
}

interface Looked {
  /** Null: it hits nobody. */
  readonly harm: Harm | null;
  readonly people: number;
  /** See `pressOf`. */
  readonly press: number;
}

/** What hits most people first; of what hits nobody, what presses most. */
export const inOrderOfLooking = <One extends Looked>(looks: readonly One[]): One[] =>
  [...looks].sort((a, b) => urgent(b) - urgent(a) || b.press - a.press || b.people - a.people);

const urgent = ({ harm, people }: Looked): number => (harm === null ? 0 : urgency({ harm, people }));
