import type { APIRoute } from 'astro';

export const GET: APIRoute = ({ locals }) => Response.json(locals.api.openApi());
