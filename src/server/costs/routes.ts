import { stringify } from 'csv-stringify/sync';
import { CHARGE_COLUMNS, costEndpoints } from '../../contract';
import { plain } from '../../core/money';
import { csvResponse, ok, reads } from '../http';
import { monthCosts } from '.';

export const costRoutes = [
  reads(costEndpoints.month, async ({ app, query }, scope) =>
    ok(await monthCosts(app, app.db, scope, query.month)),
  ),
  reads(costEndpoints.csv, async ({ app, query }, scope) => {
    const costs = await monthCosts(app, app.db, scope, query.month);
    const rows = costs.lines.map(({ charge, ...line }) => ({
      ...line,
      customer: scope.customer.code,
      month: costs.month,
      size: line.size ?? '',
      from: new Date(line.from).toISOString(),
      to: new Date(line.to).toISOString(),
      charge: plain(charge),
      currency: charge.currency,
    }));
    return csvResponse(
      `${scope.customer.code}-charges-${costs.month}.csv`,
      stringify(rows, { header: true, columns: [...CHARGE_COLUMNS], record_delimiter: '\r\n' }),
    );
  }),
];
