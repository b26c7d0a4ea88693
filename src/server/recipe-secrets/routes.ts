import { recipeSecretEndpoints } from '../../contract';
import { nothing, ok, reads, writes } from '../http';
import { dropSecret, keepSecret, listSecrets } from '.';

export const recipeSecretRoutes = [
  reads(recipeSecretEndpoints.list, async ({ app }, scope) =>
    ok({ secrets: await listSecrets(app.db, scope) }),
  ),
  writes(
    recipeSecretEndpoints.keep,
    ({ app, params, body }, scope) => keepSecret(app, scope, { name: params.secret, value: body.secret }),
    () => nothing(),
  ),
  writes(
    recipeSecretEndpoints.drop,
    ({ app, params }, scope) => dropSecret(app, scope, params.secret),
    () => nothing(),
  ),
];
