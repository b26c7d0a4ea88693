import { savedStepsEndpoints } from '../../contract';
import { nothing, ok, reads, writes } from '../http';
import { dropSteps, keepSteps, listSaved, ownSteps } from '.';

export const savedStepsRoutes = [
  reads(savedStepsEndpoints.list, async ({ app }, scope) => ok({ saved: await listSaved(app.db, scope) })),
  writes(
    savedStepsEndpoints.keep,
    ({ app, params, body }, scope) => keepSteps(app, scope, { name: params.name, text: body.text }),
    () => nothing(),
    ({ params }, db, scope) => ownSteps(db, scope, params.name),
  ),
  writes(
    savedStepsEndpoints.drop,
    ({ app, params }, scope) => dropSteps(app, scope, params.name),
    () => nothing(),
  ),
];
