import { templateEndpoints } from '../../contract';
import { ok, reads, writes } from '../http';
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
  writes(
    templateEndpoints.importFile,
    ({ app, query, body }, scope) =>
      takeTemplates(app, scope, body, { keep: query?.keep === 'all', site: query?.site ?? '' }),
    (taken) => ok(taken),
  ),
];
