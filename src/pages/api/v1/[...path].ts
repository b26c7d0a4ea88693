import type { APIRoute } from 'astro';
import { notePeer } from '../../../server/http';

export const prerender = false;

export const ALL: APIRoute = ({ request, locals, clientAddress }) => {
  notePeer(request, clientAddress);
  return locals.api.answer(request);
};
