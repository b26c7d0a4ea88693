import { serialize } from 'hono/utils/cookie';
import { signInEndpoints } from '../../contract';
import { cookieOf, created, fromOf, isSecure, nothing, ok, reads, readsForAnyone, writes } from '../http';
import { BROWSER_COOKIE, BROWSER_SECONDS } from './browser';
import { endToken, listTokens } from './manage';
import { changePassword } from './password';
import { makeToken, SESSION_COOKIE, SESSION_MS, signIn, signOut } from './sign-in';

const cookie = (request: Request, name: string, value: string, seconds: number): string =>
  serialize(name, value, {
    path: '/',
    httpOnly: true,
    sameSite: 'Lax',
    maxAge: seconds,
    secure: isSecure(request),
  });

export const signInRoutes = [
  readsForAnyone(signInEndpoints.signIn, async ({ app, body, request }) => {
    const browser = cookieOf(request, BROWSER_COOKIE);
    const signedIn = await signIn(app, { ...body, from: fromOf(request), browser });
    return new Response(null, {
      status: 204,
      headers: [
        ['cache-control', 'no-store'],
        ['set-cookie', cookie(request, SESSION_COOKIE, signedIn.token, SESSION_MS / 1_000)],
        ['set-cookie', cookie(request, BROWSER_COOKIE, signedIn.browser, BROWSER_SECONDS)],
      ],
    });
  }),
  reads(signInEndpoints.signOut, async ({ app, request }, scope) => {
    const token = cookieOf(request, SESSION_COOKIE);
    if (token !== undefined) await signOut(app.db, token, scope.actor, app.clock);
    return nothing({ 'set-cookie': cookie(request, SESSION_COOKIE, '', 0) });
  }),
  reads(signInEndpoints.me, (_ask, scope) =>
    ok({ name: scope.actor.name, role: scope.actor.role, reach: scope.customers ? 'listed' : 'every' }),
  ),
  writes(
    signInEndpoints.changePassword,
    ({ app, body, request }, scope) =>
      changePassword(app, scope, body, fromOf(request), cookieOf(request, SESSION_COOKIE)),
    () => nothing(),
  ),
  writes(
    signInEndpoints.makeToken,
    ({ app, body }, scope) => makeToken(app, scope, body),
    (made) => created(made, '/api/v1/tokens'),
  ),
  reads(signInEndpoints.tokens, async ({ app }, scope) =>
    ok({ tokens: await listTokens(app.db, scope, app.clock.wall()) }),
  ),
  writes(
    signInEndpoints.endToken,
    ({ app, params }, scope) => endToken(app, scope, params.token),
    () => nothing(),
  ),
];
