import { Problem } from '../problem';
import type { Laager } from '../api';
import { readText } from '../http';

const MOST_BYTES = 4_000;

/** How a sign-in by a plain form ended: with cookies to set, or with what is wrong. */
export type FormSignIn =
  | { readonly ok: true; readonly cookies: readonly string[] }
  | {
      readonly ok: false;
      readonly status: number;
      readonly mail: string;
      readonly says: string;
      readonly asksCode?: boolean;
    };

/** Signs in from a form that was sent before its page came to life, through the same route as ever. */
export async function signInByForm(api: Laager, request: Request): Promise<FormSignIn> {
  const form = await readText(request, MOST_BYTES).catch((error: unknown) => {
    if (error instanceof Problem) return error;
    throw error;
  });
  if (form instanceof Problem) return { ok: false, status: form.status, mail: '', says: form.detail };
  const fields = new URLSearchParams(form);
  const field = (name: string): string => fields.get(name) ?? '';
  const said = { mail: field('mail'), password: field('password'), code: field('code') };
  const response = await askForSession(api, request, 'POST', JSON.stringify(said));
  if (response.ok) return { ok: true, cookies: response.headers.getSetCookie() };
  const problem = (await response.json()) as { detail?: unknown; type?: unknown };
  return {
    ok: false,
    status: response.status,
    mail: field('mail'),
    says: String(problem.detail ?? 'That did not work.'),
    asksCode: String(problem.type).endsWith('second-factor'),
  };
}

/**
 * Signs out from a plain form, so that it works while its page has not come to life.
 * @returns what takes the sign-in's cookie away; nothing when there was none any more
 */
export const signOutByForm = async (api: Laager, request: Request): Promise<readonly string[]> =>
  (await askForSession(api, request, 'DELETE')).headers.getSetCookie();

const KEPT = ['origin', 'host', 'sec-fetch-site', 'x-forwarded-proto', 'x-laager-peer', 'cookie'];

/** What a form asks, asked of the API as the same browser. */
function askForSession(api: Laager, request: Request, method: string, body?: string): Promise<Response> {
  const headers = new Headers({ 'content-type': 'application/json' });
  for (const name of KEPT) {
    const value = request.headers.get(name);
    if (value !== null) headers.set(name, value);
  }
  return api.answer(new Request(new URL('/api/v1/session', request.url), { method, headers, body }));
}
