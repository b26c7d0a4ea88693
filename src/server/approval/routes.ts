import { approvalEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { approvalRule, keepApprovalRule } from '.';

export const approvalRoutes = [
  reads(approvalEndpoints.rule, async ({ app }) => ok(await approvalRule(app.db))),
  writes(
    approvalEndpoints.keep,
    ({ app, body }, scope) =>
      keepApprovalRule(
        app,
        scope,
        body,
        app.catalogue.changes.map(({ kind }) => kind),
      ),
    async (_made, { app }) => ok(await approvalRule(app.db)),
  ),
];
