import { NO_AMOUNTS, NO_LIMITS } from '../../core/plans';
import { MSP } from '../access';
import { gatewayFacts } from '../certificates';
import { takenBy } from '../claims';
import { quantitiesOf } from '../metering';
import { planFactsOf } from '../plans';
import { notFound } from '../problem';
import { readNeeds } from '../sizing';
import { blockFor } from '../sites';
import type { FactReader } from './reader';

/** The MSP sells itself nothing: its own have no limits. */
const OWN_PLAN: Awaited<ReturnType<typeof planFactsOf>> = {
  plan: {
    name: 'our own',
    most: NO_LIMITS,
    sizes: [],
    sites: [],
    fees: [],
    retentionDays: 0,
    localAdministrator: false,
    included: [],
    readyHosts: 0,
    allowances: [],
  },
  takes: NO_AMOUNTS,
};

/** The customer, its plan and what it has. @throws Problem 404 */
export const customer: FactReader<'customer'> = async ({ app, connection, scope, subject }) => {
  const { id, code } = scope.customer;
  const row = await connection.row<{
    currency: string;
    zone: string;
    state: string;
    realm: string;
    naming: string | null;
    name_servers: string | null;
  }>(
    `SELECT currency, zone, state, realm, JSON_VALUE(details, '$.naming') AS naming,
       JSON_QUERY(details, '$.nameServers') AS name_servers FROM customer WHERE id = ?`,
    [id],
  );
  if (!row) throw notFound('customer');
  const { plan, takes } = id === MSP.id ? OWN_PLAN : await planFactsOf(connection, scope, app.clock.now());
  const environments = await connection.rows<{ name: string }>(
    'SELECT name FROM environment WHERE customer_id = ? AND retired_at IS NULL',
    [id],
  );
  const { block } = await blockFor(connection, scope, subject.site);
  const gateway = await gatewayFacts(connection, scope);
  return {
    code,
    currency: row.currency,
    zone: row.zone,
    state: row.state,
    realm: row.realm,
    naming: row.naming ?? '',
    plan,
    takes,
    stands: (await quantitiesOf(app, connection, scope)).get(id) ?? {},
    needs: await readNeeds(connection, scope),
    people: takes.people,
    block,
    taken: await takenBy(connection, scope),
    environments: environments.map((one) => one.name),
    ...(gateway ? { gateway } : {}),
    nameServers: JSON.parse(row.name_servers ?? '[]') as string[],
  };
};
