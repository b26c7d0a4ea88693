import type { CustomerState, Pausing } from '../../contract';
import { awaits, type Check, type PolicyWish } from '../../core/planning';
import { withoutRequest, type CustomerScope } from '../access';
import type { App } from '../app';
import { beginChange, proposeChange } from '../changes';
import { keepState } from '../customers';
import type { Connection } from '../db';
import { conflict, notFound, Problem } from '../problem';
import { write, type Tx } from '../write';

/** What is begun in one environment, as far as it may be. */
export interface Turning {
  readonly environment: string;
  readonly name: string;
  readonly input: object;
  /** The hosts that are switched; none where all is retired. */
  readonly hosts: readonly string[];
  /** What is in the way, in plain words. */
  readonly blocks: readonly string[];
}

type Kind = 'power-off' | 'power-on' | 'retire';

/** What a turn of a customer would begin in each of their environments; where there is nothing to do, none. */
export async function turnings(
  app: App,
  scope: CustomerScope,
  kind: Kind,
  policy: PolicyWish = {},
): Promise<Turning[]> {
  const change = app.catalogue.changes.find((one) => one.kind === kind);
  if (!change) throw new Error(`there is no change ${kind}`);
  const found: Turning[] = [];
  for (const { id, name } of await livingOf(app, scope)) {
    const hosts = kind === 'retire' ? [] : await hostsFor(app, scope, id, kind);
    if (kind !== 'retire' && hosts.length === 0) continue;
    const input = kind === 'retire' ? {} : { hosts };
    const { proposal } = await proposeChange(app, scope, change, {
      input,
      environment: id,
      policy: kind === 'power-off' ? policy : {},
    });
    found.push({
      environment: id,
      name,
      input,
      hosts,
      blocks: [
        ...Object.values(proposal.refused ?? {}),
        ...proposal.checks
          .filter((check) => check.state === 'blocks')
          .map((check) => `${check.title}: ${check.says}`),
        ...awaited(proposal.checks),
      ],
    });
  }
  return found;
}

/** What takes another's word is begun in each environment by itself: a customer is not turned without it. */
function awaited(checks: readonly Check[]): string[] {
  const waits = awaits(checks);
  return waits === undefined ? [] : [`${waits}: ask for it in the environment`];
}

const livingOf = (app: App, { customer }: CustomerScope): Promise<{ id: string; name: string }[]> =>
  app.db.rows<{ id: string; name: string }>(
    "SELECT id, name FROM environment WHERE customer_id = ? AND wanted = 'serving' ORDER BY id",
    [customer.id],
  );

/** The hosts that a pause switches off: those that are wanted on. Those that a start switches on: whom the pause switched off. */
async function hostsFor(
  app: App,
  { customer }: CustomerScope,
  environment: string,
  kind: Kind,
): Promise<string[]> {
  const own =
    kind === 'power-on'
      ? 'AND EXISTS (SELECT 1 FROM paused_host p WHERE p.customer_id = r.customer_id AND p.resource_id = r.id)'
      : '';
  const rows = await app.db.rows<{ id: string }>(
    `SELECT r.id FROM resource r WHERE r.customer_id = ? AND r.environment_id = ? AND r.kind = 'host' AND r.wanted
       AND r.returned_at IS NULL AND JSON_VALUE(r.attributes, '$.power') = ? ${own} ORDER BY r.id`,
    [customer.id, environment, kind === 'power-on' ? 'off' : 'on'],
  );
  return rows.map((row) => row.id);
}

interface Turned {
  readonly state: CustomerState;
  readonly runs: string[];
}

/**
 * Pauses a customer: every host goes off, people warned. Nothing is begun where something is in the way in any environment.
 * @throws Problem 409 in another state, 422 when the code is not theirs, or with what is in the way
 */
export async function pauseCustomer(app: App, asked: CustomerScope, pausing: Pausing): Promise<Turned> {
  const scope = withoutRequest(asked);
  refuseCode(scope, pausing.code);
  await refuseUnless(app.db, scope, PAUSE);
  const policy = { drainMinutes: pausing.minutes, message: pausing.message };
  const turns = await turnings(app, scope, 'power-off', policy);
  refuseBlocked(turns);
  const { id } = scope.customer;
  // Written before anything goes off: a pause that was cut off can be gone on with, and started again from.
  const state = await turn(app, scope, PAUSE, pausing.reason, async (tx, before) => {
    if (before.state !== 'paused')
      await tx.write('UPDATE customer SET paused_from = ? WHERE id = ?', [before.state, id]);
    for (const host of turns.flatMap(({ hosts }) => hosts))
      await tx.write(
        'INSERT INTO paused_host (customer_id, resource_id) VALUES (?, ?) ON DUPLICATE KEY UPDATE resource_id = VALUES(resource_id)',
        [id, host],
      );
    return 'paused';
  });
  return { state, runs: await beginAll(app, scope, 'power-off', turns, pausing.reason, policy) };
}

/**
 * Starts a paused customer again: they are what they were, and so are the hosts that the pause switched off.
 * @throws Problem 409 when they are not paused, 422 with what is in the way
 */
export async function startCustomer(app: App, asked: CustomerScope, reason: string): Promise<Turned> {
  const scope = withoutRequest(asked);
  await refuseUnless(app.db, scope, START);
  const turns = await turnings(app, scope, 'power-on');
  refuseBlocked(turns);
  const runs = await beginAll(app, scope, 'power-on', turns, reason, {});
  const state = await turn(app, scope, START, reason, async (tx, before) => {
    await tx.write('DELETE FROM paused_host WHERE customer_id = ?', [scope.customer.id]);
    return before.paused_from ?? 'active';
  });
  return { state, runs };
}

/**
 * Lets a customer leave: each environment is retired. When the last is gone, all that they held is given back and they are
 * retired themselves, see `finishLeaving`.
 * @throws Problem 409 in another state, 422 when the code is not theirs, or with what is in the way
 */
export async function leaveCustomer(
  app: App,
  asked: CustomerScope,
  { code, reason }: { readonly code: string; readonly reason: string },
): Promise<Turned> {
  const scope = withoutRequest(asked);
  refuseCode(scope, code);
  await refuseUnless(app.db, scope, LEAVE);
  const turns = await turnings(app, scope, 'retire');
  refuseBlocked(turns);
  const state = await turn(app, scope, LEAVE, reason, async () => 'leaving');
  return { state, runs: await beginAll(app, scope, 'retire', turns, reason, {}) };
}

async function beginAll(
  app: App,
  scope: CustomerScope,
  kind: Kind,
  turns: readonly Turning[],
  reason: string,
  policy: PolicyWish,
): Promise<string[]> {
  const change = app.catalogue.changes.find((one) => one.kind === kind);
  if (!change) throw new Error(`there is no change ${kind}`);
  const runs: string[] = [];
  for (const { environment, input } of turns) {
    const asked = { input, environment, policy: kind === 'power-off' ? policy : {} };
    // The one before changed what this one would do: with the last environment at a site goes its network.
    const { fingerprint } = await proposeChange(app, scope, change, asked);
    const { run } = await beginChange(app, scope, change, {
      ...asked,
      fingerprint,
      reason,
      code: scope.customer.code,
    });
    runs.push(run);
  }
  return runs;
}

function refuseCode({ customer }: CustomerScope, code: string): void {
  if (code !== customer.code)
    throw new Problem(422, 'code', "The customer's code was not typed.", {
      fields: { code: `type ${customer.code}` },
    });
}

function refuseBlocked(turns: readonly Turning[]): void {
  const blocked = turns.filter(({ blocks }) => blocks.length > 0);
  if (blocked.length > 0)
    throw new Problem(
      422,
      'preflight',
      blocked.map(({ name, blocks }) => `${name}: ${blocks.join('; ')}`).join('. '),
    );
}

interface Standing {
  readonly state: CustomerState;
  readonly paused_from: CustomerState | null;
}

async function standingOf(db: Connection, { customer }: CustomerScope): Promise<Standing> {
  const row = await db.row<Standing>('SELECT state, paused_from FROM customer WHERE id = ?', [customer.id]);
  if (!row) throw notFound('customer');
  return row;
}

/** @throws Problem 409 in another state than those from which the turn is made */
async function refuseUnless(db: Connection, scope: CustomerScope, { from, verb }: Turn): Promise<Standing> {
  const standing = await standingOf(db, scope);
  if (!from.includes(standing.state))
    throw conflict('state', `${scope.customer.code} is ${standing.state}, and is not ${verb}.`);
  return standing;
}

interface Turn {
  readonly from: readonly CustomerState[];
  readonly verb: string;
  readonly action: string;
}

// One who is paused or leaves already may be asked to again: what was cut off goes on.
const PAUSE: Turn = { from: ['active', 'trial', 'paused'], verb: 'paused', action: 'pause customer' };
const START: Turn = { from: ['paused'], verb: 'started', action: 'start customer' };
const LEAVE: Turn = {
  from: ['active', 'trial', 'paused', 'leaving'],
  verb: 'let go',
  action: 'let customer go',
};

/**
 * Writes where a customer stands now. It is looked at under the lock: of two who turn them differently at once, one finds
 * them turned.
 * @param work what is written with it
 */
const turn = (
  app: App,
  scope: CustomerScope,
  made: Turn,
  reason: string,
  work: (tx: Tx, before: Standing) => Promise<CustomerState>,
): Promise<CustomerState> =>
  write(app, scope, [{ table: 'customer', key: { id: scope.customer.id } }], async (tx) => {
    const state = await work(tx, await refuseUnless(tx, scope, made));
    await keepState(tx, scope, state, { action: made.action, reason });
    return state;
  });
