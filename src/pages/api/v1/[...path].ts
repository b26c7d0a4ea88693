import type { APIRoute } from 'astro';
import { answer } from '../../../server/http';

export const prerender = false;

export const ALL: APIRoute = ({ request, locals, clientAddress }) => {
  // Whom a sign-in is counted against; a header of that name from outside is overwritten. A gate on this machine speaks
  // for others: it says for whom.
  const forwarded = request.headers.get('x-forwarded-for')?.split(',').at(-1)?.trim();
  const isGate = clientAddress === '127.0.0.1' || clientAddress === '::1';
  request.headers.set('x-laager-peer', isGate && forwarded ? forwarded : clientAddress);
  return answer(locals.laager, request);
};
