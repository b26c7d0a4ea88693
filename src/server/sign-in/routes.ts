import { operatorEndpoints, signInEndpoints } from '../../contract';
import { networkOf } from '../client-address';
import {
  cookie,
  cookieOf,
  created,
  fromOf,
  hereOf,
  nothing,
  ok,
  reads,
  publicRoute,
  sent,
  writes,
} from '../http';
import { BROWSER_COOKIE, BROWSER_SECONDS } from './browser';
import { acceptInvite, listOperators } from '../operators';
import {
  dropFactorOf,
  dropOwnFactor,
  factorOf,
  factorShown,
  isFactorRequired,
  newFactor,
  requireFactor,
  setFactor,
  showFactor,
} from './factor';
import { endToken, endWaysInOf, listTokens } from './manage';
import { changePassword } from './password';
import { WAY_SECONDS } from '../identity';
import { beginOutside, endOutside, nextOf, type OutsideRefusal } from './outside';
import { ownPath } from './own-path';
import { makeToken, SESSION_COOKIE, SESSION_MS, signIn, signOut } from './sign-in';
import { countFrom } from './tries';

const WAY_COOKIE = 'laager_outside';
const BACK = '/api/v1/session/outside/back';

/** To where one signs in, with the reason. */
const sentBack = (why: OutsideRefusal, next: string, cookies: readonly string[] = []): Response =>
  sent(`/sign-in?${new URLSearchParams({ next, outside: why }).toString()}`, cookies);

export const signInRoutes = [
  publicRoute(signInEndpoints.signIn, async ({ app, body, request }) => {
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
  publicRoute(signInEndpoints.beginOutside, async ({ app, query, request }) => {
    const here = hereOf(request);
    const { next } = query as { next: string };
    const to = ownPath(next, new URL(here));
    const begun = await beginOutside(app, `${here}${BACK}`, to);
    return typeof begun === 'string'
      ? sentBack(begun, to)
      : sent(begun.to, [cookie(request, WAY_COOKIE, begun.kept, WAY_SECONDS)]);
  }),
  publicRoute(signInEndpoints.endOutside, async ({ app, request }) => {
    const { search } = new URL(request.url);
    const came = new URL(`${hereOf(request)}${BACK}${search}`);
    const kept = cookieOf(request, WAY_COOKIE);
    const ended = await endOutside(app, came, kept, fromOf(request));
    const over = cookie(request, WAY_COOKIE, '', 0);
    if (typeof ended === 'string') return sentBack(ended, nextOf(app, kept), [over]);
    return sent(ended.next, [
      over,
      cookie(request, SESSION_COOKIE, ended.token, SESSION_MS / 1_000),
      cookie(request, BROWSER_COOKIE, ended.browser, BROWSER_SECONDS),
    ]);
  }),
  // Signing out works without a session too: it may have ended already.
  publicRoute(signInEndpoints.signOut, async ({ app, request }) => {
    const token = cookieOf(request, SESSION_COOKIE);
    if (token !== undefined) await signOut(app, token);
    return nothing({ 'set-cookie': cookie(request, SESSION_COOKIE, '', 0) });
  }),
  reads(signInEndpoints.me, (_ask, scope) =>
    ok({
      name: scope.actor.name,
      role: scope.actor.role,
      rights: scope.actor.rights,
      reach: scope.customers ? 'listed' : 'every',
    }),
  ),
  reads(signInEndpoints.factor, async ({ app }, scope) => ok(await factorOf(app.db, scope))),
  writes(
    signInEndpoints.newFactor,
    ({ app }, scope) => newFactor(app, scope),
    ({ secret, mail }, _ask, { actor }) =>
      created(factorShown(secret, mail, actor.name), '/api/v1/second-factor'),
  ),
  writes(
    signInEndpoints.setFactor,
    ({ app, body, request }, scope) =>
      setFactor(app, scope, body, fromOf(request), cookieOf(request, SESSION_COOKIE)),
    (made) => ok(made),
  ),
  writes(
    signInEndpoints.showFactor,
    ({ app, body, request }, scope) =>
      showFactor(app, scope, body.code, fromOf(request), cookieOf(request, SESSION_COOKIE)),
    () => nothing(),
  ),
  writes(
    signInEndpoints.dropFactor,
    ({ app, query, request }, scope) => dropOwnFactor(app, scope, query.code, fromOf(request)),
    () => nothing(),
  ),
  publicRoute(signInEndpoints.accept, async ({ app, params, body, request }) => {
    // Nobody guesses an invitation; who tries is slowed down, and nobody else.
    await countFrom(app.db, app.databaseName, networkOf(fromOf(request)));
    return ok(await acceptInvite(app, (params as { invite: string }).invite, body.password));
  }),
  reads(operatorEndpoints.list, async ({ app }, scope) => {
    const operators = await listOperators(app.db, scope, app.clock.wall());
    return ok({ operators, factorRequired: await isFactorRequired(app.db) });
  }),
  writes(
    operatorEndpoints.endWaysIn,
    ({ app, params }, scope) => endWaysInOf(app, scope, params.operator),
    (ended) => ok({ ended }),
  ),
  writes(
    operatorEndpoints.dropFactor,
    ({ app, params }, scope) => dropFactorOf(app, scope, params.operator),
    () => nothing(),
  ),
  writes(
    operatorEndpoints.settings,
    ({ app, body }, scope) => requireFactor(app, scope, body.factorRequired),
    () => nothing(),
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
