import type { Facts } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import type { Check, Impact, Proposal } from '../../core/planning';
import type { Policy, Purpose } from '../../core/resources';
import type { Money } from '../../core/money';
import type { CostLine } from '../../core/rating';

/** What is to be done to one resource, as it is shown. */
export interface TaskView {
  readonly key: string;
  readonly kind: string;
  readonly name: string;
  readonly do: Purpose;
  /** Each difference that is mended, in plain words. */
  readonly says: readonly string[];
  /** What is wanted of it; for what goes, what was. */
  readonly attributes: Attributes;
  /** People signed in on it. */
  readonly people: number;
}

/** A proposal as it is shown and answered. */
export interface ProposalView {
  readonly kind: string;
  readonly title: string;
  /** What of the input cannot be used, beside its fields; null when all can. */
  readonly refused: Readonly<Record<string, string>> | null;
  readonly tasks: readonly TaskView[];
  readonly steps: readonly {
    readonly key: string;
    readonly kind: string;
    readonly action: string;
    readonly subject: string;
    readonly needs: readonly string[];
    readonly seconds: number;
  }[];
  readonly policy: Policy;
  readonly seconds: number;
  readonly critical: readonly string[];
  readonly cost: readonly CostLine[];
  readonly monthly: Money;
  readonly checks: readonly Check[];
  readonly impact: Impact;
  readonly room: number;
}

export function proposalView(proposal: Proposal, facts: Pick<Facts, 'known'>): ProposalView {
  const known = new Map(facts.known.map((one) => [one.key, one]));
  return {
    kind: proposal.kind,
    title: proposal.title,
    refused: proposal.refused ?? null,
    tasks: proposal.tasks.map(({ key, kind, name, task }) => ({
      key,
      kind: kind.key,
      name,
      do: task.do,
      says: 'differences' in task ? task.differences.map((one) => one.says) : [],
      attributes: 'wanted' in task ? task.wanted.attributes : (known.get(key)?.attributes ?? {}),
      people: task.people,
    })),
    steps: proposal.steps.map(({ key, kind, action, subject, needs, seconds }) => ({
      key,
      kind,
      action,
      subject,
      needs,
      seconds,
    })),
    policy: proposal.policy,
    seconds: proposal.seconds,
    critical: proposal.critical,
    cost: proposal.cost,
    monthly: proposal.monthly,
    checks: proposal.checks,
    impact: proposal.impact,
    room: proposal.room,
  };
}
