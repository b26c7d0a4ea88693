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
  const headers = new Headers({ 'content-type': 'application/json' });
  for (const name of ['origin', 'host', 'sec-fetch-site', 'x-forwarded-proto', 'x-laager-peer', 'cookie']) {
    const value = request.headers.get(name);
    if (value !== null) headers.set(name, value);
  }
  const response = await api.answer(
    new Request(new URL('/api/v1/session', request.url), {
      method: 'POST',
      headers,
      body: JSON.stringify({ mail: field('mail'), password: field('password'), code: field('code') }),
    }),
  );
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
