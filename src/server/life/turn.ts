import type { CustomerState, Pausing } from '../../contract';
import type { PolicyWish } from '../../core/planning';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { beginChange, proposeChange } from '../changes';
import { conflict, notFound, Problem } from '../problem';
import { write } from '../write';

/** What is begun in one environment, as far as it may be. */
export interface Turning {
  readonly environment: string;
  readonly name: string;
  readonly input: object;
  readonly fingerprint: string;
  /** What is in the way, in plain words. */
  readonly blocks: readonly string[];
}

type Kind = 'power-off' | 'power-on' | 'retire';

/** One key would stand for all that is begun. */
const withoutRequest = ({ request: _request, ...scope }: CustomerScope): CustomerScope => scope;

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
    const { proposal, fingerprint } = await proposeChange(app, scope, change, {
      input,
      environment: id,
      policy: kind === 'power-off' ? policy : {},
    });
    found.push({
      environment: id,
      name,
      input,
      fingerprint,
      blocks: [
        ...Object.values(proposal.refused ?? {}),
        ...proposal.checks
          .filter((check) => check.state === 'blocks')
          .map((check) => `${check.title}: ${check.says}`),
      ],
    });
  }
  return found;
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
  // One who is paused already may be paused again: what was cut off goes on.
  await refuseUnless(app, scope, ['active', 'trial', 'paused'], 'paused');
  const policy = { drainMinutes: pausing.minutes, message: pausing.message };
  const turns = await turnings(app, scope, 'power-off', policy);
  refuseBlocked(turns);
  const ids = turns.flatMap(({ input }) => ('hosts' in input ? (input.hosts as string[]) : []));
  // Written before anything goes off: a pause that was cut off can be gone on with, and started again from.
  await turn(app, scope, 'paused', pausing.reason, ids);
  return { state: 'paused', runs: await beginAll(app, scope, 'power-off', turns, pausing.reason, policy) };
}

/** Starts a paused customer again. @throws Problem 409 when they are not paused, 422 with what is in the way */
export async function startCustomer(app: App, asked: CustomerScope, reason: string): Promise<Turned> {
  const scope = withoutRequest(asked);
  await refuseUnless(app, scope, ['paused'], 'started');
  const turns = await turnings(app, scope, 'power-on');
  refuseBlocked(turns);
  const runs = await beginAll(app, scope, 'power-on', turns, reason, {});
  await turn(app, scope, 'active', reason, []);
  return { state: 'active', runs };
}

/**
 * Lets a customer leave: each environment is retired. When the last is gone, all that they held is given back and they are
 * retired themselves, see `finishLeaving`.
 */
export async function leaveCustomer(
  app: App,
  asked: CustomerScope,
  { code, reason }: { readonly code: string; readonly reason: string },
): Promise<Turned> {
  const scope = withoutRequest(asked);
  refuseCode(scope, code);
  // One who leaves already may be asked to again: what was cut off goes on.
  await refuseUnless(app, scope, ['active', 'trial', 'paused', 'leaving'], 'let go');
  const turns = await turnings(app, scope, 'retire');
  refuseBlocked(turns);
  await turn(app, scope, 'leaving', reason, []);
  return { state: 'leaving', runs: await beginAll(app, scope, 'retire', turns, reason, {}) };
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
  for (const { environment, input, fingerprint } of turns) {
    const { run } = await beginChange(app, scope, change, {
      input,
      environment,
      fingerprint,
      reason,
      code: scope.customer.code,
      policy: kind === 'power-off' ? policy : {},
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

async function refuseUnless(
  app: App,
  { customer }: CustomerScope,
  states: readonly CustomerState[],
  verb: string,
): Promise<void> {
  const row = await app.db.row<{ state: CustomerState }>('SELECT state FROM customer WHERE id = ?', [
    customer.id,
  ]);
  if (!row) throw notFound('customer');
  if (!states.includes(row.state))
    throw conflict('state', `${customer.code} is ${row.state}, and is not ${verb}.`);
}

/** Writes where a customer stands now, and which hosts a pause switches off. */
const turn = (
  app: App,
  scope: CustomerScope,
  state: CustomerState,
  reason: string,
  paused: readonly string[],
): Promise<void> => {
  const { id, code } = scope.customer;
  return write(app, scope, [{ table: 'customer', key: { id } }], async (tx) => {
    const before = await tx.row<{ state: CustomerState }>('SELECT state FROM customer WHERE id = ?', [id]);
    await tx.write('UPDATE customer SET state = ? WHERE id = ?', [state, id]);
    if (state === 'active') await tx.write('DELETE FROM paused_host WHERE customer_id = ?', [id]);
    for (const host of paused)
      await tx.write(
        'INSERT INTO paused_host (customer_id, resource_id) VALUES (?, ?) ON DUPLICATE KEY UPDATE resource_id = VALUES(resource_id)',
        [id, host],
      );
    if (before?.state === state) return;
    await tx.record({
      action:
        state === 'paused' ? 'pause customer' : state === 'leaving' ? 'let customer go' : 'start customer',
      subject: code,
      before: { state: before?.state },
      after: { state },
      reason,
      topic: 'summary',
      id: code,
    });
  });
};
