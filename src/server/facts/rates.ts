import type { Rate } from '../../core/rating';
import { MSP } from '../access';
import type { Connection } from '../db';
import { ratesOf } from '../pricing';
import { pricesInForce } from '../providers';
import type { FactReader } from './reader';

/** The prices of the customer's rate card. */
export const rates: FactReader<'rates'> = async ({ app, connection, scope, subject }) => {
  const { id } = scope.customer;
  if (id === MSP.id) return ownRates(connection, subject.site, app.clock.now());
  const row = await connection.row<{ card: string | null }>(
    'SELECT card_code AS card FROM customer WHERE id = ?',
    [id],
  );
  return row?.card === undefined || row.card === null
    ? ownRates(connection, subject.site, app.clock.now())
    : ratesOf(connection, row.card);
};

/** What is the MSP's own costs what its provider asks. */
async function ownRates(connection: Connection, site: string, now: number): Promise<readonly Rate[]> {
  const row = await connection.row<{ provider: string }>(
    'SELECT provider_code AS provider FROM site WHERE code = ?',
    [site],
  );
  return (await pricesInForce(connection, now)).get(row?.provider ?? '')?.rates ?? [];
}
