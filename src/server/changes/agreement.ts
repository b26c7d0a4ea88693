import { createHash } from 'node:crypto';
import type { HostFacts } from '../../core/facts';
import { editLines } from '../../core/intent';
import { editedOf, mayBegin, type PolicyWish, type Proposal } from '../../core/planning';
import { conflict, Problem } from '../problem';
import { proposalView } from './view';

/* What somebody asks for, and whether what would be done is what they agreed to. */

/** What someone asks for. */
export interface Asked {
  readonly input: unknown;
  readonly policy?: PolicyWish | undefined;
  /** The environment that it changes; undefined for what makes one. */
  readonly environment?: string | undefined;
  /** The hold that it is, whose own is not counted against it. */
  readonly hold?: string | undefined;
}

export interface Begun {
  readonly run: string;
  readonly environment: string;
}

export interface Agreed extends Asked {
  readonly fingerprint: string;
  readonly reason: string;
  /** The customer's code as typed, where the change asks for it. */
  readonly code?: string | undefined;
}

/** 128 bits: nobody makes another proposal that has the same. */
const FINGERPRINT_LETTERS = 32;

/** The parts of a proposal that people agree to: what is done to what, under which names, at which places, for how much. */
export function fingerprintOf(proposal: Proposal, facts: Pick<HostFacts, 'known' | 'environment'>): string {
  const versions = new Map(facts.known.map((one) => [one.key, one.version]));
  const agreed = {
    kind: proposal.kind,
    steps: proposal.steps.map((step) => step.key),
    wanted: editedOf(facts, proposal.wanted).map(({ key, name, attributes }) => ({ key, name, attributes })),
    touched: proposal.tasks.map((task) => [task.key, versions.get(task.key) ?? 0]),
    // What stands in the document alone has no version of its own: what it was before is agreed to, too.
    edits: editLines(facts.environment?.intent ?? null, proposal.intent),
    overrides: proposal.overrides,
    monthly: proposal.monthly,
    policy: proposal.policy,
  };
  return createHash('sha256').update(JSON.stringify(agreed)).digest('hex').slice(0, FINGERPRINT_LETTERS);
}

export function refuseWhereGone(
  { environment }: Pick<HostFacts, 'environment'>,
  { ofRetired = false }: { readonly ofRetired?: boolean } = {},
): void {
  if (environment?.wanted === 'retired' && !ofRetired)
    throw conflict('retired', `${environment.intent.name} is being retired or gone already.`);
}

/** @throws Problem where the proposal is refused or blocked, and 409 with it when it is not what was agreed to */
export function refuseUnlessAgreed(
  agreed: string,
  proposal: Proposal,
  facts: Pick<HostFacts, 'known' | 'environment' | 'site'>,
): void {
  const fingerprint = fingerprintOf(proposal, facts);
  refuseWhereBlocked(proposal);
  if (fingerprint !== agreed)
    throw conflict('changed', 'What would be done has changed since you looked.', {
      proposal: proposalView(proposal, facts),
      fingerprint,
    });
}

function refuseWhereBlocked(proposal: Proposal): void {
  if (proposal.refused)
    throw new Problem(422, 'invalid', 'Some of what was sent cannot be used.', {
      fields: Object.fromEntries(
        Object.entries(proposal.refused).map(([field, why]) => [`input.${field}`, why]),
      ),
    });
  if (mayBegin(proposal.checks)) return;
  const blocking = proposal.checks.filter((check) => check.state === 'blocks');
  throw new Problem(422, 'preflight', blocking.map((check) => `${check.title}: ${check.says}`).join('; '), {
    extra: { checks: proposal.checks },
  });
}

/** How what a change touches stood and shall stand, for the trail. */
export function stateOf(
  facts: Pick<HostFacts, 'known'>,
  proposal: Proposal,
): { before: unknown; after: unknown } {
  const known = new Map(facts.known.map((one) => [one.key, one]));
  const before: Record<string, unknown> = {};
  const after: Record<string, unknown> = {};
  for (const { key, name, task } of proposal.tasks) {
    const was = known.get(key);
    const label = name === '' ? key : name;
    before[label] = was?.wanted === true ? was.attributes : null;
    after[label] =
      'wanted' in task ? task.wanted.attributes : task.do === 'retain' ? { until: task.until } : null;
  }
  return {
    before: shortened(before, after),
    after: { ...shortened(after, before), monthly: proposal.monthly },
  };
}

/** Only what differs on the other side: the trail tells what was changed, not everything that is so. */
function shortened(one: Record<string, unknown>, other: Record<string, unknown>): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(one).map(([name, state]) => {
      const against = other[name];
      if (!isRecord(state) || !isRecord(against)) return [name, state];
      return [
        name,
        Object.fromEntries(
          Object.entries(state).filter(
            ([key, value]) => JSON.stringify(value) !== JSON.stringify(against[key]),
          ),
        ),
      ];
    }),
  );
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
