import type { APIRoute } from 'astro';
import { openApi } from '../../../server/http';

export const GET: APIRoute = () => Response.json(openApi());
