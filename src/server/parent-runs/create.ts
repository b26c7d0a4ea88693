import type { ParentPolicy } from '../../core/parent-runs';
import { isInside, MSP, type CustomerScope, type Scope } from '../access';
import { insertMany, newId } from '../db';
import type { Tx } from '../write';
import { policyForm } from './form';
import type { ParentKind } from './kind';

export interface NewParent<Input extends object> {
  readonly kind: ParentKind<Input>;
  readonly title: string;
  readonly reason: string;
  readonly policy: ParentPolicy;
  /** In the order in which they are done. */
  readonly parts: readonly NewPart<Input>[];
}

export interface NewPart<Input extends object> {
  readonly scope: CustomerScope;
  /** What it is about, for people: the environment’s name. */
  readonly about: string;
  readonly input: Input;
}

const COLUMNS = ['owner_id', 'parent_id', 'place', 'customer_id', 'about', 'input', 'state'] as const;

/** Begins a parent run: from the end of this transaction on a worker carries out its parts. @returns its id */
export async function createParent<Input extends object>(
  tx: Tx,
  scope: Scope | CustomerScope,
  { kind: { kind, form }, title, reason, policy, parts }: NewParent<Input>,
  now: number,
): Promise<string> {
  const owner = isInside(scope) ? scope.customer.id : MSP.id;
  const id = newId();
  await tx.write(
    `INSERT INTO parent_run (customer_id, id, kind, title, state, policy, actor, actor_id, reason, begun_at)
     VALUES (?, ?, ?, ?, 'running', ?, ?, ?, ?, ?)`,
    [
      owner,
      id,
      kind,
      title.slice(0, 160),
      policyForm.write(policy),
      scope.actor.name,
      scope.actor.id,
      reason,
      now,
    ],
  );
  await insertMany(
    tx,
    'parent_part',
    COLUMNS,
    parts.map((part, place) => [
      owner,
      id,
      place,
      part.scope.customer.id,
      part.about.slice(0, 160),
      form.write(part.input),
      'waiting',
    ]),
  );
  await tx.record({
    action: 'begin parent run',
    subject: title.slice(0, 160),
    after: { parts: parts.length, ...policy },
    reason,
    topic: 'run',
    id,
  });
  return id;
}
