import { approvalEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { approvalRule, approvalState, keepApprovalRule } from '.';

export const approvalRoutes = [
  reads(approvalEndpoints.rule, async ({ app }, scope) => ok(await approvalState(app.db, scope))),
  writes(
    approvalEndpoints.keep,
    ({ app, body }, scope) =>
      keepApprovalRule(
        app,
        scope,
        body,
        app.catalogue.changes.map(({ kind }) => kind),
      ),
    async (_made, { app }, scope) => ok(await approvalState(app.db, scope)),
    (_ask, db) => approvalRule(db),
  ),
];
