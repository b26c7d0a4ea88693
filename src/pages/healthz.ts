import type { APIRoute } from 'astro';
import { health } from '../server/pages';

export const GET: APIRoute = async ({ locals }) => {
  const found = await health(locals.laager);
  return Response.json(found, { status: found.works ? 200 : 503 });
};
