import { stringify } from 'csv-stringify/sync';
import { CHARGE_COLUMNS } from '../../contract';
import { plain } from '../../core/money';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { monthCosts } from './month';

/** A month's charge lines as CSV (RFC 4180); amounts are exact decimals. @throws Problem 422 for no month */
export async function chargesFile(
  app: App,
  scope: CustomerScope,
  month: string | undefined,
): Promise<{ month: string; text: string }> {
  const costs = await monthCosts(app, app.db, scope, month);
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
  return {
    month: costs.month,
    text: stringify(rows, { header: true, columns: [...CHARGE_COLUMNS], record_delimiter: '\r\n' }),
  };
}
