import { costEndpoints } from '../../contract';
import { csvResponse, ok, reads } from '../http';
import { monthCosts } from './month';
import { chargesFile } from './file';

export const costRoutes = [
  reads(costEndpoints.month, async ({ app, query }, scope) =>
    ok(await monthCosts(app, app.db, scope, query.month)),
  ),
  reads(costEndpoints.csv, async ({ app, query }, scope) => {
    const { month, text } = await chargesFile(app, scope, query.month);
    return csvResponse(`${scope.customer.code}-charges-${month}.csv`, text);
  }),
];
