import { templateEndpoints } from '../../contract';
import { created, nothing, ok, paged, reads, writes } from '../http';
import { listTemplates, readRevision, readTemplate, usesOfTemplate } from './read';
import { templatesJsonSchema } from './schema';
import { addRevision, dropDraft, faultsOf, keepDraft } from './write';

export const templateRoutes = [
  reads(templateEndpoints.list, async ({ app }, scope) =>
    ok({ templates: await listTemplates(app.db, scope) }),
  ),
  reads(templateEndpoints.read, async ({ app, params }, scope) =>
    ok(await readTemplate(app.db, scope, params.template)),
  ),
  reads(templateEndpoints.revision, async ({ app, params }, scope) =>
    ok(await readRevision(app.db, scope, params.template, params.revision)),
  ),
  writes(
    templateEndpoints.keepDraft,
    ({ app, params, body }, scope) => keepDraft(app, scope, { code: params.template, ...body }),
    (version, { body }) => ok({ version, faults: faultsOf(body.text) }),
  ),
  writes(
    templateEndpoints.dropDraft,
    ({ app, params }, scope) => dropDraft(app, scope, params.template),
    () => nothing(),
  ),
  writes(
    templateEndpoints.addRevision,
    ({ app, params, body }, scope) => addRevision(app, scope, { code: params.template, ...body }),
    (revision) => created({ revision }, '/api/v1/templates'),
  ),
  reads(templateEndpoints.schema, () =>
    Response.json(templatesJsonSchema(), { headers: { 'content-type': 'application/schema+json' } }),
  ),
  reads(templateEndpoints.uses, async ({ app, params, query }, scope) => {
    await readTemplate(app.db, scope, params.template);
    return ok(
      await paged(
        query.limit,
        (limit) => usesOfTemplate(app.db, scope, params.template, { ...query, limit }),
        (one) => one.id,
      ),
    );
  }),
];
