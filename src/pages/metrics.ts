import type { APIRoute } from 'astro';
import { figures, mayReadFigures } from '../server/metrics';

export const GET: APIRoute = async ({ locals, request }) => {
  const app = locals.laager;
  // Where nobody may read them, nothing says that there are any.
  if (app.metricsToken === undefined) return new Response(null, { status: 404 });
  if (!mayReadFigures(app, request))
    return new Response(null, { status: 401, headers: { 'www-authenticate': 'Bearer realm="figures"' } });
  const { type, text } = await figures(app);
  return new Response(text, { headers: { 'content-type': type, 'cache-control': 'no-store' } });
};
