import type { FingerprintedProposal } from '../../contract';
import { windowAt } from '../../core/calendar';
import type { HostFacts } from '../../core/facts';
import { edited, nextChange, OVERRIDDEN } from '../../core/overrides';
import { editedOf, proposeForHosts, type HostChange, type Proposal } from '../../core/planning';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { join, sql } from '../db';
import { dropOverrides, keepOverrides, noteDue } from '../overrides';
import { createRun } from '../runs';
import { write, type Tx } from '../write';
import {
  fingerprintOf,
  refuseUnlessAgreed,
  refuseWhereGone,
  stateOf,
  type Asked,
  type Begun,
} from './agreement';
import { readHostFacts, type HostFactsRead } from './host-facts';
import { proposalView } from './view';

/* Changes of hosts that leave the intent alone. They are cheap: one lock, few statements, and nothing outside is asked. */

interface AskedOfHosts extends Asked {
  readonly environment: string;
}

/** What a change of hosts would do now. @throws Problem 404 */
export async function proposeHostChange(
  app: App,
  scope: CustomerScope,
  change: HostChange,
  { environment, input, policy, hold }: AskedOfHosts,
): Promise<FingerprintedProposal> {
  const { facts } = await readHostFacts(app, app.db, scope, environment, { hold, isAnew: true });
  const proposal = proposeForHosts(app.catalogue.kinds, change, input, facts, policy ?? {});
  return { proposal: proposalView(proposal, facts), fingerprint: fingerprintOf(proposal, facts) };
}

/** Proposes a change of hosts again under the lock of its environment, and goes on when it is what was agreed to. */
export const hostChangeUnderLock = <Made>(
  app: App,
  scope: CustomerScope,
  change: HostChange,
  { environment, input, policy, hold, fingerprint }: AskedOfHosts & { readonly fingerprint: string },
  goOn: (tx: Tx, read: HostFactsRead, proposal: Proposal) => Promise<Made>,
): Promise<Made> =>
  write(
    app,
    scope,
    [{ table: 'environment', key: { customer_id: scope.customer.id, id: environment } }],
    async (tx) => {
      const read = await readHostFacts(app, tx, scope, environment, { hold, isAnew: false });
      refuseWhereGone(read.facts);
      const proposal = proposeForHosts(app.catalogue.kinds, change, input, read.facts, policy ?? {});
      refuseUnlessAgreed(fingerprint, proposal, read.facts);
      return goOn(tx, read, proposal);
    },
  );

/** Keeps what is set by hand and what is wanted of hosts from now on, and puts the work on the queue. */
export async function carryOutForHosts(
  app: App,
  tx: Tx,
  scope: CustomerScope,
  { facts, due }: HostFactsRead,
  proposal: Proposal,
  {
    reason,
    approved,
    isWhole,
  }: { readonly reason: string; readonly approved: boolean; readonly isWhole: boolean },
): Promise<Begun> {
  const now = app.clock.now();
  const environment = facts.environment?.id ?? '';
  const known = new Map(facts.known.map((one) => [one.key, one]));
  const idOf = (key: string): string => known.get(key)?.id ?? '';
  const made = { why: reason, by: scope.actor.name, since: now };
  // Where others are still to follow, they are looked at as soon as they were to be.
  if (isWhole || due === null || due > now) await noteWhatEnds(tx, scope, environment, due, facts, proposal);
  await keepOverrides(tx, scope, proposal.overrides, idOf, made);
  const versions = await keepWantedOfHosts(tx, scope, facts, proposal);
  const run = await createRun(
    tx,
    scope,
    {
      kind: proposal.kind,
      subject: { kind: 'environment', id: environment },
      environmentId: environment,
      title: proposal.title,
      steps: proposal.steps.map((step) => {
        const host = step.resource === null ? undefined : known.get(step.resource);
        return {
          ...step,
          resourceId: host?.id ?? null,
          wantedVersion: (host && versions.get(host.key)) ?? host?.version ?? 0,
        };
      }),
      policy: proposal.policy,
      works: proposal.policy.window && windowAt(proposal.policy.window, now, facts.customer.zone),
      impact: proposal.impact,
      intent: { before: null, after: null },
      reason,
      approved,
      ...stateOf(facts, proposal),
    },
    now,
  );
  return { run, environment };
}

/** What is over is set no longer; when the next of them ends is noted, where that is another time than before. */
async function noteWhatEnds(
  tx: Tx,
  scope: CustomerScope,
  environment: string,
  due: number | null,
  { overrides = [], now }: HostFacts,
  proposal: Proposal,
): Promise<void> {
  if (overrides.some(({ until }) => until !== null && until <= now))
    await dropOverrides(tx, scope, environment, now);
  const left = edited(overrides, proposal.overrides, { why: '', by: '', since: now });
  const next = nextChange(left, now) ?? null;
  if (next !== due) await noteDue(tx, scope, environment, next);
}

/**
 * Writes what is wanted of hosts now: those that are alike in one statement. One of which something is asked once has
 * another version, too: what is asked of it comes after what was asked before.
 */
async function keepWantedOfHosts(
  tx: Tx,
  { customer }: CustomerScope,
  facts: HostFacts,
  proposal: Proposal,
): Promise<Map<string, number>> {
  const known = new Map(facts.known.map((one) => [one.key, one]));
  const changed = new Set([
    ...editedOf(facts, proposal.wanted).map(({ key }) => key),
    ...proposal.tasks.map(({ key }) => key),
  ]);
  const alike = new Map<string, { wanted: Proposal['wanted'][number]; ids: string[] }>();
  const versions = new Map<string, number>();
  for (const wanted of proposal.wanted) {
    const before = known.get(wanted.key);
    if (!before || !changed.has(wanted.key)) continue;
    const what = JSON.stringify(OVERRIDDEN.map((attribute) => wanted.attributes[attribute] ?? null));
    const group = alike.get(what) ?? { wanted, ids: [] };
    group.ids.push(before.id);
    alike.set(what, group);
    versions.set(wanted.key, before.version + 1);
  }
  for (const { wanted, ids } of alike.values()) {
    const { power, accepting, picture } = wanted.attributes;
    const set = sql`JSON_SET(attributes, '$.power', ${String(power)},
      '$.accepting', JSON_EXTRACT(${accepting === false ? 'false' : 'true'}, '$'))`;
    const kept =
      picture === true
        ? sql`JSON_SET(${set}, '$.picture', JSON_EXTRACT('true', '$'))`
        : sql`JSON_REMOVE(${set}, '$.picture')`;
    await tx.write(
      sql`UPDATE resource SET attributes = ${kept}, version = version + 1
          WHERE customer_id = ${customer.id} AND id IN (${join(ids)})`,
    );
  }
  return versions;
}
