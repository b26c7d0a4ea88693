import { templateEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { takeTemplates, templateFile } from '.';

export const templateFileRoutes = [
  reads(
    templateEndpoints.file,
    async ({ app, params }, scope) =>
      new Response(await templateFile(app, scope, params.template), {
        headers: {
          'content-type': 'application/yaml; charset=utf-8',
          'content-disposition': `attachment; filename="${params.template}.yaml"`,
        },
      }),
  ),
  reads(templateEndpoints.importFile, async ({ app, query, body }, scope) =>
    ok(await takeTemplates(app, scope, body, { keep: query?.keep === 'all', site: query?.site ?? '' })),
  ),
];
