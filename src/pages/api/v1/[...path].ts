import type { APIRoute } from 'astro';

export const prerender = false;

export const ALL: APIRoute = ({ request, locals }) => locals.api.answer(request);
