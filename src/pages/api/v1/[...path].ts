import type { APIRoute } from 'astro';
import { answer } from '../../../server/http';

export const prerender = false;

export const ALL: APIRoute = ({ request, locals, clientAddress }) => {
  // Whom a sign-in is counted against; a header of that name from outside is overwritten.
  request.headers.set('x-laager-peer', clientAddress);
  return answer(locals.laager, request);
};
