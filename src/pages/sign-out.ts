import type { APIRoute } from 'astro';
import { signOutByForm } from '../server/pages';

export const POST: APIRoute = async ({ locals, request }) => {
  const headers = new Headers({ location: '/sign-in' });
  for (const cookie of await signOutByForm(locals.api, request)) headers.append('set-cookie', cookie);
  return new Response(null, { status: 303, headers });
};
