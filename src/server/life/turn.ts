import type { CustomerState, Pausing } from '../../contract';
import { retire } from '../../core/changes';
import type { Override } from '../../core/overrides';
import { awaits, type Check } from '../../core/planning';
import type { ParentPolicy } from '../../core/parent-runs';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { proposeChange, proposeOverrides } from '../changes';
import { keepState, notePausedFrom } from '../customers';
import type { Connection } from '../db';
import { createParent } from '../parent-runs';
import { retireEach } from './retire-each';
import { haveLookedAt, pauseHosts, unpauseHosts } from '../overrides';
import { conflict, notFound, Problem } from '../problem';
import { write, type Tx } from '../write';

/** What is begun in one environment, as far as it may be. */
export interface Turning {
  readonly environment: string;
  readonly name: string;
  /** What is in the way, in plain words. */
  readonly blocks: readonly string[];
}

/** What retiring each of a customer's environments would do. */
export async function retirings(app: App, scope: CustomerScope): Promise<Turning[]> {
  const found: Turning[] = [];
  for (const { id, name } of await livingOf(app.db, scope)) {
    const { proposal } = await proposeChange(app, scope, retire, { input: {}, environment: id });
    found.push({
      environment: id,
      name,
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

export const livingOf = (
  db: Connection,
  { customer }: CustomerScope,
): Promise<{ id: string; name: string }[]> =>
  db.rows<{ id: string; name: string }>(
    "SELECT id, name FROM environment WHERE customer_id = ? AND wanted = 'serving' ORDER BY id",
    [customer.id],
  );

/** @throws Problem 422 where switching the hosts of some environment so needs another's approval */
async function refuseUnapproved(
  app: App,
  scope: CustomerScope,
  as: 'power-on' | 'power-off',
  overrides: (now: readonly Override[]) => readonly Override[],
): Promise<void> {
  const found: Turning[] = [];
  for (const { id, name } of await livingOf(app.db, scope)) {
    const { checks } = await proposeOverrides(app, scope, id, as, overrides);
    found.push({ environment: id, name, blocks: awaited(checks) });
  }
  refuseBlocked(found);
}

interface Turned {
  readonly state: CustomerState;
}

/**
 * Pauses a customer: every host goes off, people warned, but for what is set by hand. Who was off before stays off when the
 * customer is started again. The hosts are switched by runs that begin by themselves.
 * @throws Problem 409 in another state, 422 when the code is not theirs, or where it needs another's approval
 */
export async function pauseCustomer(app: App, scope: CustomerScope, pausing: Pausing): Promise<Turned> {
  refuseCode(scope, pausing.code);
  await refuseUnless(app.db, scope, PAUSE);
  const since = app.clock.now();
  const made = { why: pausing.reason, by: scope.actor.name, since };
  await refuseUnapproved(app, scope, 'power-off', (now) => [...now, pausedFrom(made)]);
  return turn(app, scope, PAUSE, pausing.reason, async (tx, before) => {
    if (before.state !== 'paused') await notePausedFrom(tx, scope, before.state);
    await pauseHosts(tx, scope, made);
    await haveLookedAt(tx, scope, since, { drainMinutes: pausing.minutes, message: pausing.message });
    return { state: 'paused' };
  });
}

/** Overrides as they are when the customer is paused no longer. */
export const unpaused = (now: readonly Override[]): readonly Override[] =>
  now.filter(({ cause }) => cause !== 'customer paused');

const pausedFrom = (made: Pick<Override, 'why' | 'by' | 'since'>): Override => ({
  ...made,
  cause: 'customer paused',
  host: null,
  attribute: 'power',
  value: 'off',
  until: null,
});

/**
 * Starts a paused customer again: they are what they were, and so are their hosts.
 * @throws Problem 409 when they are not paused, 422 where it needs another's approval
 */
export async function startCustomer(app: App, scope: CustomerScope, reason: string): Promise<Turned> {
  await refuseUnless(app.db, scope, START);
  await refuseUnapproved(app, scope, 'power-on', unpaused);
  return turn(app, scope, START, reason, async (tx, before) => {
    await unpauseHosts(tx, scope);
    await haveLookedAt(tx, scope, app.clock.now(), null);
    return { state: before.paused_from ?? 'active' };
  });
}

/**
 * Lets a customer leave: each environment is retired, in a run over all of them. When the last is gone, all that they held is
 * given back and they are retired themselves, see `finishLeaving`.
 * @throws Problem 409 in another state, 422 when the code is not theirs, or with what is in the way
 */
export async function leaveCustomer(
  app: App,
  scope: CustomerScope,
  { code, reason }: { readonly code: string; readonly reason: string },
): Promise<Turned & { readonly run: string | null }> {
  refuseCode(scope, code);
  await refuseUnless(app.db, scope, LEAVE);
  refuseBlocked(await retirings(app, scope));
  return turn(app, scope, LEAVE, reason, async (tx) => {
    const environments = await livingOf(tx, scope);
    const parts = environments.map(({ id, name }) => ({ scope, about: name, input: { environment: id } }));
    const over = { kind: retireEach, title: `Offboard ${code}`, reason, policy: LEAVING, parts };
    const run = parts.length === 0 ? null : await createParent(tx, scope, over, app.clock.now());
    return { state: 'leaving', run };
  });
}

/** One after the other: with the last environment at a site goes its network. */
const LEAVING: ParentPolicy = { atATime: 1, failureLimit: 1, pilots: 0, pauseMinutes: 0 };

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
const turn = <Made extends Turned>(
  app: App,
  scope: CustomerScope,
  made: Turn,
  reason: string,
  work: (tx: Tx, before: Standing) => Promise<Made>,
): Promise<Made> =>
  write(app, scope, [{ table: 'customer', key: { id: scope.customer.id } }], async (tx) => {
    const turned = await work(tx, await refuseUnless(tx, scope, made));
    await keepState(tx, scope, turned.state, { action: made.action, reason });
    return turned;
  });
