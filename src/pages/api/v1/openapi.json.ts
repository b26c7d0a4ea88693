import type { APIRoute } from 'astro';
import { openApi } from '../../../server/http';

export const GET: APIRoute = ({ locals }) => Response.json(openApi(locals.laager.catalogue));
