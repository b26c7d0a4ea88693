import { groundEndpoints } from '../../contract';
import { nothing, ok, reads, writes } from '../http';
import { takePrices } from '../providers';
import { groundChanges, groundPrices, noteChange } from '.';

export const groundRoutes = [
  reads(groundEndpoints.changes, async ({ app }, scope) =>
    ok({ changes: await groundChanges(app.db, scope) }),
  ),
  writes(
    groundEndpoints.note,
    ({ app, params }, scope) => noteChange(app, scope, params.change),
    () => nothing(),
  ),
  reads(groundEndpoints.prices, async ({ app }) => ok({ providers: await groundPrices(app) })),
  writes(
    groundEndpoints.takePrices,
    ({ app, params, body }, scope) => takePrices(app, scope, params.provider, body.from),
    ({ taken }) => ok({ taken }),
  ),
];
