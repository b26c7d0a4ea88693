import { createHash } from 'node:crypto';
import type { FingerprintedProposal } from '../../contract';
import { writeBlock } from '../../core/addressing';
import { windowAt } from '../../core/calendar';
import { editLines, holdingOf } from '../../core/intent';
import type { Facts, KnownResource } from '../../core/facts';
import {
  awaits,
  editedOf,
  mayBegin,
  propose,
  type Change,
  type PolicyWish,
  type Proposal,
} from '../../core/planning';
import type { Wanted } from '../../core/resources';
import { MSP, type CustomerScope } from '../access';
import type { App } from '../app';
import { DatabaseError, newId, type Lock } from '../db';
import { isToApprove, dropHold } from '../holds';
import { conflict, notFound, Problem } from '../problem';
import { trySignIn } from '../providers';
import { createRun, overtakeStopped } from '../runs';
import { blockFor, giveBlock, type OutsideSays } from '../sites';
import { write, type Tx } from '../write';
import { askOutside, readFacts, type Subject } from './facts';
import { proposalView } from './view';
import { keepIntent } from '../intents';

/** What someone asks for. */
export interface Asked {
  readonly input: unknown;
  readonly policy?: PolicyWish | undefined;
  /** The environment that it changes; undefined for what makes one. */
  readonly environment?: string | undefined;
  /** The hold that it is, whose own is not counted against it. */
  readonly hold?: string | undefined;
}

/** What a change would do, from the facts of this moment; the provider's credentials are tried for real. */
export async function proposeChange(
  app: App,
  scope: CustomerScope,
  change: Change,
  asked: Asked,
): Promise<FingerprintedProposal> {
  const subject = await subjectOf(app, scope, change, asked);
  const facts = await readFacts(app, app.db, scope, subject, await askAll(app, scope, subject.site));
  const proposal = propose(app.catalogue.kinds, change, asked.input, facts, asked.policy ?? {});
  return { proposal: proposalView(proposal, facts), fingerprint: fingerprintOf(proposal, facts) };
}

/** Asks all that is outside at the same time: whoever waits for a proposal waits for the slowest, and not for all of them. */
async function askAll(app: App, scope: CustomerScope, site: string): Promise<OutsideSays> {
  const [outside] = await Promise.all([
    askOutside(app, scope, site),
    app.providers.at(site).then((provider) => trySignIn(app, provider)),
  ]);
  return outside;
}

/** 128 bits: nobody makes another proposal that has the same. */
const FINGERPRINT_LETTERS = 32;

/** The parts of a proposal that people agree to: what is done to what, under which names, at which places, for how much. */
export function fingerprintOf(proposal: Proposal, facts: Facts): string {
  const versions = new Map(facts.known.map((one) => [one.key, one.version]));
  const agreed = {
    kind: proposal.kind,
    steps: proposal.steps.map((step) => step.key),
    wanted: editedOf(facts, proposal.wanted).map(({ key, name, attributes }) => ({ key, name, attributes })),
    touched: proposal.tasks.map((task) => [task.key, versions.get(task.key) ?? 0]),
    // What stands in the document alone has no version of its own: what it was before is agreed to, too.
    edits: editLines(facts.environment?.intent ?? null, proposal.intent),
    monthly: proposal.monthly,
    policy: proposal.policy,
  };
  return createHash('sha256').update(JSON.stringify(agreed)).digest('hex').slice(0, FINGERPRINT_LETTERS);
}

/** Where a change is made: the site of its environment, or the one that its input names. */
async function subjectOf(app: App, scope: CustomerScope, change: Change, asked: Asked): Promise<Subject> {
  const of = scope.customer.id === MSP.id ? 'the MSP' : 'customers';
  if (change.of !== undefined && change.of !== of) throw notFound('path');
  if (asked.environment === undefined) {
    const { site, template } = asked.input as { site?: unknown; template?: unknown };
    return {
      site: String(site),
      ...(template === undefined ? {} : { template: String(template) }),
      hold: asked.hold,
    };
  }
  const bound = change.bind(asked.input);
  const row = await app.db.row<{ site_code: string }>(
    'SELECT site_code FROM environment WHERE customer_id = ? AND id = ?',
    [scope.customer.id, asked.environment],
  );
  if (!row) throw notFound('environment');
  return {
    site: row.site_code,
    environment: asked.environment,
    lookBackTo: bound.ok ? bound.value.looksBackTo : undefined,
    concerns: bound.ok ? bound.value.concerns : undefined,
    grantees: bound.ok ? bound.value.grantees : undefined,
    hold: asked.hold,
  };
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
  return proposeUnderLocks(app, scope, change, agreed, async (tx, facts, proposal) => {
    if (proposal.destroyed.length > 0 && !isTyped) throw typeIt();
    const waits = awaits(proposal.checks);
    if (waits !== undefined) throw conflict('approval', `Another has to say yes: ${waits}.`, { waits });
    const approved = agreed.hold !== undefined && (await isToApprove(tx, scope, agreed.hold));
    if (agreed.hold !== undefined) await dropHold(tx, scope, agreed.hold, 'it was begun');
    return carryOut(app, tx, scope, facts, proposal, { reason: agreed.reason, approved });
  });
}

/** Proposes a change again under the locks, and goes on with it when nothing blocks it and it is what was agreed to. */
export async function proposeUnderLocks<Made>(
  app: App,
  scope: CustomerScope,
  change: Change,
  agreed: Asked & { readonly fingerprint: string },
  goOn: (tx: Tx, facts: Facts, proposal: Proposal) => Promise<Made>,
): Promise<Made> {
  const subject = await subjectOf(app, scope, change, agreed);
  const outside = await askAll(app, scope, subject.site);
  const { id } = scope.customer;
  const locks: Lock[] = [
    { table: 'customer', key: { id } },
    { table: 'site', key: { code: subject.site } },
    ...(subject.environment === undefined
      ? []
      : [{ table: 'environment' as const, key: { customer_id: id, id: subject.environment } }]),
  ];
  return write(app, scope, locks, async (tx) => {
    const facts = await readFacts(app, tx, scope, subject, outside);
    refuseWhereGone(facts);
    const proposal = propose(app.catalogue.kinds, change, agreed.input, facts, agreed.policy ?? {});
    const fingerprint = fingerprintOf(proposal, facts);
    refuseWhereBlocked(proposal);
    if (fingerprint !== agreed.fingerprint)
      throw conflict('changed', 'What would be done has changed since you looked.', {
        proposal: proposalView(proposal, facts),
        fingerprint,
      });
    return goOn(tx, facts, proposal);
  });
}

function refuseWhereGone({ environment }: Facts): void {
  if (environment?.wanted === 'retired')
    throw conflict('retired', `${environment.intent.name} is being retired or gone already.`);
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
  return of && holdingOf(of) === 'image' ? 'image' : 'environment';
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
  const { block, isNew } = await blockFor(tx, scope, facts.site.code);
  // What is in no network, like what an image is built on, needs none.
  if (isNew && block && proposal.wanted.some(({ kind }) => kind === 'network'))
    await giveBlock(tx, scope, facts.site.code, writeBlock(block));
  for (const wanted of editedOf(facts, proposal.wanted)) {
    const before = known.get(wanted.key);
    const kind = kindOf(wanted.kind);
    const room = kind.room?.(wanted.attributes, facts.site.sizes);
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
           joins_customer_id = ?, joins_id = ?, wanted = TRUE, version = version + 1 WHERE customer_id = ? AND id = ?`,
        [...values, customerId, before.id],
      );
      ids.set(wanted.key, { id: before.id, version: before.version + 1 });
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
        siteOf(wanted, facts),
        wanted.kind,
        wanted.key,
        now,
      ],
    );
    ids.set(wanted.key, { id, version: 1 });
    await allocate(tx, scope, facts, wanted, id, kind.carriesSessions === true);
  }
  for (const task of proposal.tasks) {
    if (task.task.do !== 'remove') continue;
    const before = known.get(task.key);
    if (before) {
      await tx.write(
        'UPDATE resource SET wanted = FALSE, version = version + 1 WHERE customer_id = ? AND id = ?',
        [customerId, before.id],
      );
      ids.set(task.key, { id: before.id, version: before.version + 1 });
    } else if (task.ref !== undefined)
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

/** Notes what was allocated, so that nobody else gets it. A name is taken in the directory, an address everywhere. */
async function allocate(
  tx: Tx,
  scope: CustomerScope,
  facts: Facts,
  wanted: Wanted,
  id: string,
  isComputer: boolean,
): Promise<void> {
  const { address, cidr, from } = wanted.attributes;
  const taken: [space: string, value: string][] = [
    ...(isComputer ? [[`name ${facts.customer.realm}`, wanted.name.toUpperCase()] as [string, string]] : []),
    ...(typeof address === 'string' && address !== '' ? [['address', address] as [string, string]] : []),
    ...(isComputer && typeof from === 'string'
      ? [[`ready ${facts.site.code}`, from] as [string, string]]
      : []),
    ...(wanted.kind === 'subnet' && typeof cidr === 'string' ? [['subnet', cidr] as [string, string]] : []),
  ];
  for (const [space, value] of taken)
    await tx.write('INSERT INTO allocation (space, value, customer_id, resource_id) VALUES (?, ?, ?, ?)', [
      space,
      value,
      scope.customer.id,
      id,
    ]);
}

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

/** How what a change touches stood and shall stand, for the trail. */
function stateOf(facts: Facts, proposal: Proposal): { before: unknown; after: unknown } {
  const known = new Map(facts.known.map((one) => [one.key, one]));
  const before: Record<string, unknown> = {};
  const after: Record<string, unknown> = {};
  for (const { key, name, task } of proposal.tasks) {
    const was = known.get(key);
    const label = name === '' ? key : name;
    before[label] = was?.wanted === true ? was.attributes : null;
    after[label] = task.do === 'remove' ? null : task.wanted.attributes;
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
