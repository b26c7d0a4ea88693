import type { ProposalView } from '../../contract';
import type { HostFacts } from '../../core/facts';
import type { Proposal } from '../../core/planning';
import { saysOf } from '../../core/resources';

export function proposalView(proposal: Proposal, facts: Pick<HostFacts, 'known' | 'site'>): ProposalView {
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
      says: 'differences' in task ? task.differences.map((one) => saysOf(one, facts.site.sizes)) : [],
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
    destroyed: proposal.destroyed,
    cost: proposal.cost,
    monthly: proposal.monthly,
    checks: proposal.checks,
    impact: proposal.impact,
    room: proposal.room,
  };
}
