import { serialize } from 'hono/utils/cookie';
import { signInEndpoints } from '../../contract';
import { cookieOf, created, fromOf, isSecure, nothing, ok, reads, readsForAnyone, writes } from '../http';
import { makeToken, SESSION_COOKIE, SESSION_MS, signIn, signOut } from './sign-in';

const cookie = (request: Request, value: string, seconds: number): string =>
  serialize(SESSION_COOKIE, value, {
    path: '/',
    httpOnly: true,
    sameSite: 'Lax',
    maxAge: seconds,
    secure: isSecure(request),
  });

export const signInRoutes = [
  readsForAnyone(signInEndpoints.signIn, async ({ app, body, request }) => {
    const token = await signIn(app.db, app.databaseName, { ...body, from: fromOf(request) }, app.clock);
    return nothing({ 'set-cookie': cookie(request, token, SESSION_MS / 1_000) });
  }),
  reads(signInEndpoints.signOut, async ({ app, request }, scope) => {
    const token = cookieOf(request, SESSION_COOKIE);
    if (token !== undefined) await signOut(app.db, token, scope.actor, app.clock);
    return nothing({ 'set-cookie': cookie(request, '', 0) });
  }),
  reads(signInEndpoints.me, (_ask, scope) =>
    ok({ name: scope.actor.name, role: scope.actor.role, reach: scope.customers ? 'listed' : 'every' }),
  ),
  writes(
    signInEndpoints.makeToken,
    ({ app, body }, scope) => makeToken(app, scope, body),
    (made) => created(made, '/api/v1/me'),
  ),
];
