import type { APIRoute } from 'astro';
import { answer, notePeer } from '../../../server/http';

export const prerender = false;

export const ALL: APIRoute = ({ request, locals, clientAddress }) => {
  notePeer(request, clientAddress);
  return answer(locals.laager, request);
};
