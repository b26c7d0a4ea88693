import type { APIRoute } from 'astro';
import { answerPush } from '../../../server/pages';

export const prerender = false;

export const ALL: APIRoute = ({ request, locals }) => answerPush(locals.laager, request);
