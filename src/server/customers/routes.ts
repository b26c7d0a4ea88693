import { customerEndpoints } from '../../contract';
import { changeableOf } from '../../contract/changeable';
import { created, nothing, ok, paged, reads, writes } from '../http';
import { aboutCustomer, changeCustomer } from './about';
import { dropDraft, keepDraft, keptDraft, listDrafts } from './drafts';
import { customersYaml, importCustomers } from './file';
import { customersJsonSchema } from './thread';
import { previewCustomer } from './preview';
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
  reads(customerEndpoints.preview, async ({ app, body }, scope) =>
    ok(await previewCustomer(app.db, scope, body, app.clock.now())),
  ),
  writes(
    customerEndpoints.importFile,
    ({ app, query, body }, scope) => importCustomers(app, scope, body, query?.keep === 'all'),
    (outcome) => ok(outcome),
  ),
  reads(customerEndpoints.schema, () =>
    Response.json(customersJsonSchema(), { headers: { 'content-type': 'application/schema+json' } }),
  ),
  reads(customerEndpoints.read, async ({ app }, scope) =>
    ok(await getCustomer(app.db, scope, app.clock.now())),
  ),
  reads(customerEndpoints.about, async ({ app }, scope) =>
    ok(await aboutCustomer(app.db, scope, app.clock.now())),
  ),
  reads(
    customerEndpoints.file,
    async ({ app }, scope) =>
      new Response(customersYaml([await aboutCustomer(app.db, scope, app.clock.now())]), {
        headers: {
          'content-type': 'application/yaml; charset=utf-8',
          'content-disposition': `attachment; filename="${scope.customer.code}.yaml"`,
        },
      }),
  ),
  writes(
    customerEndpoints.change,
    ({ app, body }, scope) => changeCustomer(app, scope, body),
    (made) => ok(made),
    async ({ app }, db, scope) => changeableOf(await aboutCustomer(db, scope, app.clock.now())),
  ),
  reads(customerEndpoints.drafts, async ({ app }, scope) => ok({ drafts: await listDrafts(app.db, scope) })),
  writes(
    customerEndpoints.keepDraft,
    ({ app, params, body }, scope) => keepDraft(app, scope, params.draft, body.fields),
    () => nothing(),
    ({ params }, db, scope) => keptDraft(db, scope, params.draft),
  ),
  writes(
    customerEndpoints.dropDraft,
    ({ app, params }, scope) => dropDraft(app, scope, params.draft),
    () => nothing(),
  ),
];
