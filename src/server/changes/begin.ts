import type { FingerprintedProposal } from '../../contract';
import { windowAt } from '../../core/calendar';
import { holdingOf, isOfImage } from '../../core/intent';
import type { Facts, KnownResource } from '../../core/facts';
import {
  awaits,
  claimedAt,
  editedOf,
  factsFor,
  isTakenFromSite,
  propose,
  takesOf,
  type Change,
  type Proposal,
} from '../../core/planning';
import { claimsOf, roomIn, type Wanted } from '../../core/resources';
import { MSP, type CustomerScope } from '../access';
import type { App } from '../app';
import { claim } from '../claims';
import { DatabaseError, newId, type Lock } from '../db';
import { isToApprove, dropHold } from '../holds';
import { conflict, notFound, Problem } from '../problem';
import { trySignIn } from '../providers';
import { createRun, overtakeStopped } from '../runs';
import { keepIntent } from '../intents';
import { dropOverrides, keepOverrides } from '../overrides';
import { blockFor, giveBlock, type OutsideSays } from '../sites';
import { write, type Tx } from '../write';
import {
  fingerprintOf,
  refuseUnlessAgreed,
  refuseWhereGone,
  stateOf,
  type Agreed,
  type Asked,
  type Begun,
} from './agreement';
import { askOutside, readFacts, type Subject } from '../facts';
import { carryOutForHosts, hostChangeUnderLock, proposeHostChange } from './host-changes';
import { recalled, remember } from './recent';
import { proposalView } from './view';

/** What a change would do, from the facts of this moment; the provider's credentials are tried for real. */
export async function proposeChange(
  app: App,
  scope: CustomerScope,
  change: Change,
  asked: Asked,
): Promise<FingerprintedProposal> {
  refuseOthers(scope, change);
  if (change.takes === 'facts of hosts')
    return proposeHostChange(app, scope, change, { ...asked, environment: asked.environment ?? '' });
  const subject = await subjectOf(app, scope, change, asked);
  const facts = await readFacts(
    app,
    app.db,
    scope,
    subject,
    factsFor(change),
    await askAll(app, scope, subject.site),
  );
  const proposal = propose(app.catalogue.kinds, change, asked.input, facts, asked.policy ?? {});
  const fingerprint = fingerprintOf(proposal, facts);
  remember(
    app,
    placesKey(scope, fingerprint),
    isTakenFromSite(takesOf(app.catalogue.kinds, facts, proposal)),
  );
  return { proposal: proposalView(proposal, facts), fingerprint };
}

/** Asks all that is outside at the same time: whoever waits for a proposal waits for the slowest, and not for all of them. */
async function askAll(app: App, scope: CustomerScope, site: string): Promise<OutsideSays> {
  const [outside, signIn] = await Promise.all([
    askOutside(app, scope, site),
    app.providers.at(site).then((provider) => trySignIn(app, provider)),
  ]);
  // What did not work is asked again by whoever begins: it may work by then.
  const isWell = [signIn, outside.directory, outside.route, outside.nameServers].every(
    (one) => one?.worked !== false,
  );
  if (isWell) remember(app, outsideKey(scope, site), outside);
  return outside;
}

const outsideKey = ({ customer }: CustomerScope, site: string): string => `outside ${customer.id} ${site}`;

const placesKey = ({ customer }: CustomerScope, fingerprint: string): string =>
  `places ${customer.id} ${fingerprint}`;

/** What is for customers is not for the MSP's own, and the other way round. @throws Problem 404 */
function refuseOthers({ customer }: CustomerScope, { of }: Change): void {
  if (of !== undefined && of !== (customer.id === MSP.id ? 'the MSP' : 'customers')) throw notFound('path');
}

/** Where a change is made: the site of its environment, or the one that its input names. */
async function subjectOf(app: App, scope: CustomerScope, change: Change, asked: Asked): Promise<Subject> {
  if (asked.environment === undefined) {
    const { site, template } = asked.input as { site?: unknown; template?: unknown };
    return {
      site: String(site),
      ...(template === undefined ? {} : { template: String(template) }),
      hold: asked.hold,
    };
  }
  const row = await app.db.row<{ site_code: string }>(
    'SELECT site_code FROM environment WHERE customer_id = ? AND id = ?',
    [scope.customer.id, asked.environment],
  );
  if (!row) throw notFound('environment');
  return {
    site: row.site_code,
    environment: asked.environment,
    ...namedBy(change, asked.input),
    hold: asked.hold,
  };
}

/** What an input names that the facts then tell of. */
function namedBy(change: Change, input: unknown): Pick<Subject, 'lookBackTo' | 'concerns' | 'grantees'> {
  if (change.takes === 'facts of hosts') return {};
  const bound = change.bind(input);
  if (!bound.ok) return {};
  const { looksBackTo: lookBackTo, concerns, grantees } = bound.value;
  return { lookBackTo, concerns, grantees };
}

/**
 * Begins a change: the one way for all of them. It is proposed again under the locks, so that two at once cannot take the
 * same name, address or room; intent, allocations, run and trail are written together.
 * @throws Problem 422 with fields or with the checks that block, 409 where it takes another's word, with the new proposal when it is not what the
 *   fingerprint was for, or when the environment is on its way out
 */
export function beginChange(app: App, scope: CustomerScope, change: Change, agreed: Agreed): Promise<Begun> {
  const isTyped = agreed.code === scope.customer.code;
  const typeIt = (): Problem =>
    new Problem(422, 'code', "The customer's code was not typed.", {
      fields: { code: `type ${scope.customer.code}` },
    });
  if (change.confirm === 'type the code' && !isTyped) throw typeIt();
  refuseOthers(scope, change);
  const { hold, reason, environment } = agreed;
  const approvedBy = async (tx: Tx, proposal: Proposal): Promise<boolean> => {
    if (proposal.destroyed.length > 0 && !isTyped) throw typeIt();
    const waits = awaits(proposal.checks);
    if (waits !== undefined) throw conflict('approval', `Another has to say yes: ${waits}.`, { waits });
    if (hold === undefined) return false;
    const approved = await isToApprove(tx, scope, hold);
    await dropHold(tx, scope, hold, 'it was begun');
    return approved;
  };
  if (change.takes === 'facts of hosts')
    return hostChangeUnderLock(
      app,
      scope,
      change,
      { ...agreed, environment: environment ?? '' },
      async (tx, read, proposal) => {
        const approved = await approvedBy(tx, proposal);
        return carryOutForHosts(app, tx, scope, read, proposal, {
          reason,
          approved,
          isWhole: change.whole === true,
        });
      },
    );
  return proposeUnderLocks(app, scope, change, agreed, async (tx, facts, proposal) => {
    const approved = await approvedBy(tx, proposal);
    return carryOut(app, tx, scope, facts, proposal, { reason, approved });
  });
}

/** A proposal takes something of its site, which has to be locked first. */
class SiteNotLocked extends Error {}

/**
 * Proposes a change again under the locks, and goes on with it when nothing blocks it and it is what was agreed to. What was
 * asked outside for the proposal moments before is not asked again. The site is locked where something of it is taken: a
 * change that takes nothing waits for no other customer's.
 */
export async function proposeUnderLocks<Made>(
  app: App,
  scope: CustomerScope,
  change: Change,
  agreed: Asked & { readonly fingerprint: string },
  goOn: (tx: Tx, facts: Facts, proposal: Proposal) => Promise<Made>,
): Promise<Made> {
  const subject = await subjectOf(app, scope, change, agreed);
  const outside =
    recalled<OutsideSays>(app, outsideKey(scope, subject.site)) ?? (await askAll(app, scope, subject.site));
  const { id } = scope.customer;
  const underLocks = (withSite: boolean): Promise<Made> => {
    const locks: Lock[] = [
      { table: 'customer', key: { id } },
      ...(withSite ? [{ table: 'site' as const, key: { code: subject.site } }] : []),
      ...(subject.environment === undefined
        ? []
        : [{ table: 'environment' as const, key: { customer_id: id, id: subject.environment } }]),
    ];
    return write(app, scope, locks, async (tx) => {
      const facts = await readFacts(app, tx, scope, subject, factsFor(change), outside);
      refuseWhereGone(facts, change);
      const proposal = propose(app.catalogue.kinds, change, agreed.input, facts, agreed.policy ?? {});
      refuseUnlessAgreed(agreed.fingerprint, proposal, facts);
      if (!withSite && isTakenFromSite(takesOf(app.catalogue.kinds, facts, proposal)))
        throw new SiteNotLocked();
      return goOn(tx, facts, proposal);
    });
  };
  // What the MSP has at a site is what all its customers there are joined with.
  const withSite = id === MSP.id || (recalled<boolean>(app, placesKey(scope, agreed.fingerprint)) ?? true);
  try {
    return await underLocks(withSite);
  } catch (error) {
    if (!(error instanceof SiteNotLocked)) throw error;
    return underLocks(true);
  }
}

async function carryOut(
  app: App,
  tx: Tx,
  scope: CustomerScope,
  facts: Facts,
  proposal: Proposal,
  { reason, approved }: { readonly reason: string; readonly approved: boolean },
): Promise<Begun> {
  const now = app.clock.now();
  const environment = facts.environment?.id ?? newId();
  const version = (facts.environment?.version ?? 0) + 1;
  await keepEnvironment(tx, scope, environment, version, facts, proposal, now);
  const ids = await keepWanted(app, tx, scope, environment, facts, proposal, now);
  const made = { why: reason, by: scope.actor.name, since: now };
  await dropOverrides(tx, scope, environment, now);
  await keepOverrides(tx, scope, proposal.overrides, (key) => ids.get(key)?.id ?? '', made);
  const run = await createRun(
    tx,
    scope,
    {
      kind: proposal.kind,
      subject: { kind: subjectKind(facts, proposal), id: environment },
      environmentId: environment,
      title: proposal.title,
      steps: proposal.steps.map((step) => {
        const known = step.resource === null ? undefined : ids.get(step.resource);
        return { ...step, resourceId: known?.id ?? null, wantedVersion: known?.version ?? 0 };
      }),
      policy: proposal.policy,
      works: proposal.policy.window && windowAt(proposal.policy.window, now, facts.customer.zone),
      impact: proposal.impact,
      intent: { before: facts.environment?.version ?? null, after: version },
      reason,
      approved,
      ...stateOf(facts, proposal),
    },
    now,
  );
  await overtakeStopped(tx, scope, environment, { id: run, title: proposal.title }, now);
  return { run, environment };
}

const subjectKind = ({ environment }: Facts, { intent }: Proposal): 'image' | 'environment' => {
  const of = intent ?? environment?.intent;
  return of && isOfImage(of) ? 'image' : 'environment';
};

async function keepEnvironment(
  tx: Tx,
  scope: CustomerScope,
  environment: string,
  version: number,
  facts: Facts,
  { intent }: Proposal,
  now: number,
): Promise<void> {
  const { id } = scope.customer;
  if (intent && !facts.environment)
    await unlessTaken(
      intent.name,
      tx.write(
        `INSERT INTO environment (customer_id, id, name, site_code, template_code, revision, template_owner, wanted, holds,
         people, created_at)
       VALUES (?, ?, ?, ?, ?, ?, (SELECT t.customer_id FROM template t WHERE t.code = ?), 'serving', ?, ?, ?)`,
        [
          id,
          environment,
          intent.name,
          intent.site,
          intent.template?.code ?? null,
          intent.template?.revision ?? null,
          intent.template?.code ?? null,
          holdingOf(intent),
          intent.people,
          now,
        ],
      ),
    );
  else
    await tx.write(
      'UPDATE environment SET version = ?, wanted = ?, revision = IFNULL(?, revision) WHERE customer_id = ? AND id = ?',
      [version, intent ? 'serving' : 'retired', intent?.template?.revision ?? null, id, environment],
    );
  if (intent) await keepIntent(tx, scope, environment, version, intent, now);
}

/** An image's code is one of all tenants, whose locks another may hold: the database has the last word. @throws Problem 409 */
async function unlessTaken(name: string, writing: Promise<unknown>): Promise<void> {
  try {
    await writing;
  } catch (error) {
    if (error instanceof DatabaseError && error.isDuplicate) throw conflict('taken', `${name} is taken.`);
    throw error;
  }
}

/** Writes what is wanted now, and what was allocated. @returns each resource's id and the version of what is wanted */
async function keepWanted(
  app: App,
  tx: Tx,
  scope: CustomerScope,
  environment: string,
  facts: Facts,
  proposal: Proposal,
  now: number,
): Promise<Map<string, { id: string; version: number }>> {
  const { id: customerId } = scope.customer;
  const kindOf = app.catalogue.kind;
  const known = new Map<string, KnownResource>(facts.known.map((one) => [one.key, one]));
  const ids = new Map(facts.known.map((one) => [one.key, { id: one.id, version: one.version }]));
  const { block } = takesOf(app.catalogue.kinds, facts, proposal);
  if (block !== null && (await blockFor(tx, scope, facts.site.code)).isNew)
    await giveBlock(tx, scope, facts.site.code, block);
  for (const wanted of editedOf(facts, proposal.wanted)) {
    const before = known.get(wanted.key);
    const kind = kindOf(wanted.kind);
    const site = siteOf(wanted, facts);
    const at = claimedAt(facts);
    const claims = {
      site,
      before: before ? claimsOf(kind, before, at) : [],
      after: claimsOf(kind, wanted, at),
    };
    const room = roomIn(claims.after);
    const joins = kind.joins?.(wanted.attributes);
    const values = [
      wanted.name,
      JSON.stringify(wanted.attributes),
      JSON.stringify(wanted.needs),
      room?.node ?? null,
      room?.vcpu ?? 0,
      room?.memoryGiB ?? 0,
      room?.diskGiB ?? 0,
      joins === undefined ? null : MSP.id,
      joins ?? null,
    ];
    if (before) {
      await tx.write(
        `UPDATE resource SET name = ?, attributes = ?, needs = ?, node = ?, vcpu = ?, memory_gib = ?, disk_gib = ?,
           joins_customer_id = ?, joins_id = ?, wanted = TRUE, retained_until = NULL, version = version + 1 WHERE customer_id = ? AND id = ?`,
        [...values, customerId, before.id],
      );
      ids.set(wanted.key, { id: before.id, version: before.version + 1 });
      await claim(tx, scope, { ...claims, id: before.id });
      continue;
    }
    const id = newId();
    await tx.write(
      `INSERT INTO resource (name, attributes, needs, node, vcpu, memory_gib, disk_gib, joins_customer_id, joins_id,
         customer_id, id, environment_id, holder, site_code, kind, resource_key, wanted, created_at)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, TRUE, ?)`,
      [
        ...values,
        customerId,
        id,
        kind.shared === true ? null : environment,
        kind.shared === true ? '' : environment,
        site,
        wanted.kind,
        wanted.key,
        now,
      ],
    );
    ids.set(wanted.key, { id, version: 1 });
    await claim(tx, scope, { ...claims, id });
  }
  for (const task of proposal.tasks) {
    if (task.task.do !== 'remove' && task.task.do !== 'retain') continue;
    const before = known.get(task.key);
    if (before) {
      const until = task.task.do === 'retain' ? task.task.until : null;
      await tx.write(
        'UPDATE resource SET wanted = FALSE, retained_until = ?, version = version + 1 WHERE customer_id = ? AND id = ?',
        [until, customerId, before.id],
      );
      ids.set(task.key, { id: before.id, version: before.version + 1 });
    } else if (task.retained !== undefined) ids.set(task.key, task.retained);
    else if (task.ref !== undefined)
      ids.set(task.key, {
        id: await takeInToRemove(tx, scope, environment, facts, { ...task, ref: task.ref }, now),
        version: 1,
      });
  }
  return ids;
}

/** Where a resource is: an image is copied to other sites than it is built at. */
const siteOf = ({ attributes: { site } }: Wanted, facts: Facts): string =>
  typeof site === 'string' ? site : facts.site.code;

/** Takes in what matches nothing we know, only to take it away. */
async function takeInToRemove(
  tx: Tx,
  scope: CustomerScope,
  environment: string,
  facts: Facts,
  task: {
    readonly key: string;
    readonly name: string;
    readonly ref: string;
    readonly kind: { readonly key: string };
  },
  now: number,
): Promise<string> {
  const id = newId();
  await tx.write(
    `INSERT INTO resource (customer_id, id, environment_id, holder, site_code, kind, resource_key, name, attributes, needs,
       wanted, provider_code, ref, created_at)
     SELECT ?, ?, ?, ?, code, ?, ?, ?, '{}', '[]', FALSE, provider_code, ?, ? FROM site WHERE code = ?`,
    [
      scope.customer.id,
      id,
      environment,
      environment,
      task.kind.key,
      task.key.slice(0, 160),
      task.name.slice(0, 80),
      task.ref,
      now,
      facts.site.code,
    ],
  );
  return id;
}
