import { planEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
import { keepPlan, listPlans } from '.';

export const planRoutes = [
  reads(planEndpoints.list, async ({ app }) => ok({ plans: await listPlans(app.db) })),
  writes(
    planEndpoints.keep,
    ({ app, params, body }, scope) => keepPlan(app, scope, { code: params.plan, ...body }),
    (_made, { params, body }) => ok({ code: params.plan, ...body }),
  ),
];
