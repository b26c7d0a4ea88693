import { planEndpoints } from '../../contract';
import { created, nothing, ok, reads, writes } from '../http';
import { allowMore, endAllowance } from './allowances';
import { customerPlan } from './held';
import { moveToPlan, proposeMove } from './move';
import { moveMany, proposeMoves } from './moves';
import { listPlans, planVersionsOf } from './read';
import { keepPlan } from './write';

export const planRoutes = [
  reads(planEndpoints.list, async ({ app }, scope) =>
    ok({ plans: await listPlans(app.db, scope, app.clock.now()) }),
  ),
  writes(
    planEndpoints.keep,
    ({ app, params, body }, scope) => keepPlan(app, scope, params.plan, body),
    ({ version }, { params }) => ok({ plan: params.plan, version }),
    async ({ params }, db) => ({ version: (await planVersionsOf(db, params.plan))[0]?.version ?? 0 }),
  ),
  reads(planEndpoints.proposeMoves, async ({ app, params, query }, scope) =>
    ok(await proposeMoves(app, scope, params.plan, query ?? {}, app.clock.now())),
  ),
  writes(
    planEndpoints.moveMany,
    ({ app, params, body }, scope) => moveMany(app, scope, params.plan, body),
    (made) => created(made, `/api/v1/parent-runs/${made.run}`),
  ),
  reads(planEndpoints.ofCustomer, async ({ app }, scope) =>
    ok(await customerPlan(app.db, scope, app.clock.now())),
  ),
  reads(planEndpoints.proposeMove, async ({ app, body }, scope) =>
    ok(await proposeMove(app, scope, body, app.clock.now())),
  ),
  writes(
    planEndpoints.move,
    ({ app, body }, scope) => moveToPlan(app, scope, body),
    (made, { params }) => created(made, `/api/v1/customers/${params.customer}/plan`),
  ),
  writes(
    planEndpoints.allow,
    ({ app, body }, scope) => allowMore(app, scope, body),
    (made, { params }) => created(made, `/api/v1/customers/${params.customer}/plan`),
  ),
  writes(
    planEndpoints.endAllowance,
    ({ app, params }, scope) => endAllowance(app, scope, params.allowance),
    () => nothing(),
  ),
];
