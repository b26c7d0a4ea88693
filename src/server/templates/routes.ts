import { templateEndpoints } from '../../contract';
import { created, ok, paged, reads, writes } from '../http';
import { listTemplates, newestRevision, usesOfTemplate } from './read';
import { addRevision } from './write';

export const templateRoutes = [
  reads(templateEndpoints.list, async ({ app }) => ok({ templates: await listTemplates(app.db) })),
  writes(
    templateEndpoints.addRevision,
    ({ app, params, body }, scope) => addRevision(app, scope, { code: params.template, ...body }),
    (revision) => created({ revision }, '/api/v1/templates'),
  ),
  reads(templateEndpoints.uses, async ({ app, params, query }, scope) => {
    await newestRevision(app.db, params.template);
    return ok(
      await paged(
        query.limit,
        (limit) => usesOfTemplate(app.db, scope, params.template, { ...query, limit }),
        (one) => one.id,
      ),
    );
  }),
];
