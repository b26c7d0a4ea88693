import type { APIRoute } from 'astro';
import { answerPush } from '../../../server/directory-link';

export const prerender = false;

export const ALL: APIRoute = ({ request, locals }) => answerPush(locals.laager, request);
