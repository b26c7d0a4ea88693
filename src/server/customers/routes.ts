import { customerEndpoints } from '../../contract';
import { created, ok, paged, reads, writes } from '../http';
import { getCustomer, listCustomers } from './read';
import { createCustomer } from './write';

export const customerRoutes = [
  reads(customerEndpoints.list, async ({ app, query }, scope) =>
    ok(
      await paged(
        query.limit,
        (limit) => listCustomers(app.db, scope, { ...query, limit }, app.clock.now()),
        (one) => one.code,
      ),
    ),
  ),
  writes(
    customerEndpoints.create,
    ({ app, body }, scope) => createCustomer(app, scope, body),
    (made, { body }) => created(made, `/api/v1/customers/${body.code}`),
  ),
  reads(customerEndpoints.read, async ({ app }, scope) =>
    ok(await getCustomer(app.db, scope, app.clock.now())),
  ),
];
