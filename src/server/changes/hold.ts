import type { Awaited, Held, Hold } from '../../contract';
import { awaits, takesOf, type Change } from '../../core/planning';
import { requireRight, type CustomerScope, type Scope } from '../access';
import type { App } from '../app';
import { newId } from '../db';
import { awaitedHolds, dropHold, getHold, holdsOf, holdView, keepHold, type StoredHold } from '../holds';
import { notFound } from '../problem';
import { write } from '../write';
import type { Agreed, Begun } from './agreement';
import { beginChange, proposeChange, proposeUnderLocks } from './begin';

export interface ToHold extends Omit<Agreed, 'code'> {
  readonly minutes: number;
}

/**
 * Holds a proposal as it was looked at: its names, addresses, room and what it takes of the plan are nobody else's until its
 * time is over. @throws Problem as beginning does
 */
export function holdChange(
  app: App,
  scope: CustomerScope,
  change: Change,
  { minutes, reason, ...asked }: ToHold,
): Promise<{ readonly hold: string }> {
  return proposeUnderLocks(app, scope, change, asked, async (tx, facts, proposal) => {
    const now = app.clock.now();
    const hold: StoredHold = {
      id: newId(),
      kind: change.kind,
      environment: asked.environment ?? null,
      title: proposal.title,
      asked: { input: asked.input, ...(asked.policy ? { policy: asked.policy } : {}) },
      fingerprint: asked.fingerprint,
      actor: scope.actor.name,
      actorId: scope.actor.id,
      waits: awaits(proposal.checks) ?? null,
      reason,
      madeAt: now,
      until: now + minutes * 60_000,
    };
    await keepHold(tx, scope, hold, facts.site.code, takesOf(app.catalogue.kinds, facts, proposal));
    return { hold: hold.id };
  });
}

/** What is held for a customer. */
export async function listHolds(app: App, scope: CustomerScope): Promise<Hold[]> {
  const holds = await holdsOf(app.db, scope, app.clock.now());
  return holds.map((one) => holdView(one, changeOf(app, one).verb));
}

/** What waits for a lead's word, of the customers in reach. */
export async function listAwaited(app: App, scope: Scope): Promise<Awaited[]> {
  const holds = await awaitedHolds(app.db, scope, app.clock.now());
  return holds.map((one) => ({ customer: one.customer, hold: holdView(one, changeOf(app, one).verb) }));
}

/** A held proposal as it would be now. @throws Problem 404 */
export async function readHold(app: App, scope: CustomerScope, id: string): Promise<Held> {
  const hold = await getHold(app.db, scope, id, app.clock.now());
  const change = changeOf(app, hold);
  const now = await proposeChange(app, scope, change, askedOf(hold));
  return {
    hold: holdView(hold, change.verb),
    typesCode: change.confirm === 'type the code' || now.proposal.destroyed.length > 0,
    now,
    same: now.fingerprint === hold.fingerprint,
  };
}

/** Begins a held proposal; what was kept is then taken by what it makes. @throws Problem 403, 404, and as beginning does */
export async function beginHeld(
  app: App,
  scope: CustomerScope,
  id: string,
  agreed: Pick<Agreed, 'fingerprint' | 'reason' | 'code'>,
): Promise<Begun> {
  const hold = await getHold(app.db, scope, id, app.clock.now());
  const change = changeOf(app, hold);
  requireRight(scope.actor, change.right);
  return beginChange(app, scope, change, {
    ...askedOf(hold),
    ...agreed,
    reason: reasonOf(hold, agreed.reason),
  });
}

/** Gives back what is kept for a proposal. @throws Problem 404 */
export const giveBackHold = (app: App, scope: CustomerScope, id: string): Promise<void> =>
  write(app, scope, [], async (tx) => {
    if (!(await dropHold(tx, scope, id, 'given back'))) throw notFound('hold');
  });

/** Whoever says yes to what another asked for says so: the trail names both. */
function reasonOf({ waits, actor, reason: asked }: StoredHold, reason: string): string {
  if (waits === null) return reason;
  const why = reason === '' ? asked : reason;
  return `asked for by ${actor}${why === '' ? '' : `: ${why}`}`.slice(0, 250);
}

const askedOf = ({ id, environment, asked }: StoredHold) => ({
  ...asked,
  ...(environment === null ? {} : { environment }),
  hold: id,
});

function changeOf(app: App, { kind }: Pick<StoredHold, 'kind'>): Change {
  const change = app.catalogue.changes.find((one) => one.kind === kind);
  if (!change) throw notFound('hold');
  return change;
}
