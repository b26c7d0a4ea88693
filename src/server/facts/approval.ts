import { can } from '../../core/access';
import { asksAnother, type ApprovalRule } from '../../core/approval';
import type { Facts } from '../../core/facts';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { approvalRule } from '../approval';
import type { Connection } from '../db';
import { heldBy } from '../holds';
import { invitedLately } from '../operators';
import { begunWithoutApproval } from '../runs';
import type { FactReader } from './reader';

/** What needs another's word, where whoever asks needs one. */
export const approval: FactReader<'approval'> = async ({ app, connection, scope, subject }) =>
  (await approvalOf(app, connection, scope, await approvalRule(connection), subject.hold)).approval;

/** The same, where the rule has been read. */
export async function approvalOf(
  { clock }: Pick<App, 'clock'>,
  connection: Connection,
  scope: CustomerScope,
  rule: ApprovalRule,
  hold: string | undefined,
): Promise<Pick<Facts, 'approval'>> {
  if (rule.kinds.length + rule.above.length === 0) return {};
  const [held, invitedBy] = await Promise.all([
    hold === undefined ? undefined : heldBy(connection, scope, hold),
    invitedLately(connection, scope.actor.id, clock.wall()),
  ]);
  const { id, role, rights } = scope.actor;
  const asking = { id, decides: can(rights, 'decide'), byItself: role === 'system' };
  if (!asksAnother(rule, { ...asking, heldBy: held, invitedBy })) return {};
  return { approval: { ...rule, begun: await begunWithoutApproval(connection, scope, clock.now()) } };
}
