import type { APIRoute } from 'astro';
import { visitCustomer } from '../../server/pages';
import { markSvg } from '../../ui/mark-shapes';

/** The icon of a tab inside a customer. */
export const GET: APIRoute = async ({ locals, params }) => {
  const visitor = locals.scope ? await visitCustomer(locals, params.code, true) : undefined;
  if (!visitor) return new Response(null, { status: 404 });
  return new Response(markSvg(visitor.customer.mark), {
    headers: { 'content-type': 'image/svg+xml', 'cache-control': 'private, max-age=3600' },
  });
};
