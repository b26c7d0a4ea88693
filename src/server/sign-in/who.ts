import type { Scope } from '../access';
import type { App } from '../app';
import { Problem } from '../problem';
import { bearerOf, cookieOf, refuseForeign } from '../http';
import { scopeOfSession, scopeOfToken } from './scopes';
import { SESSION_COOKIE } from './sign-in';

/** Who asks: by API token, or by the session cookie of our own pages. @throws Problem 401, 403 */
export async function whoAsks(app: App, request: Request): Promise<Scope> {
  const token = bearerOf(request);
  if (token !== undefined) {
    const scope = await scopeOfToken(app.db, token, app.clock.wall());
    if (scope) return scope;
    throw unknown('token', 'The token is not known or has expired.');
  }
  const cookie = cookieOf(request, SESSION_COOKIE);
  const scope = cookie === undefined ? undefined : await scopeOfSession(app.db, cookie, app.clock.wall());
  if (!scope) throw unknown('sign-in', 'Sign in first.');
  refuseForeign(request);
  return scope;
}

const unknown = (code: string, detail: string): Problem =>
  new Problem(401, code, detail, { headers: { 'www-authenticate': 'Bearer' } });
