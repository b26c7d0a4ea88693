import Joi from 'joi';
import { makeToken, SESSION_COOKIE, SESSION_MS, signIn, signOut } from '../../sign-in';
import { cookieOf, fromOf, isSecure } from '../request';
import { created, nothing, ok, publicRoute, operatorRoute, type Route } from '../route';
import { maybeText, oneOf, shape, text } from '../shapes';

const cookie = (value: string, seconds: number, secure: boolean): string =>
  `${SESSION_COOKIE}=${value}; Path=/; HttpOnly; SameSite=Lax; Max-Age=${seconds}${secure ? '; Secure' : ''}`;

export const sessionRoutes: readonly Route[] = [
  publicRoute({
    method: 'POST',
    path: '/session',
    area: 'Sign-in',
    summary: 'Sign in; the answer sets the session cookie',
    body: Joi.object<{ mail: string; password: string }>({
      mail: Joi.string().trim().max(254).required().messages({ 'string.empty': 'enter your mail address' }),
      password: Joi.string().max(200).required().messages({ 'string.empty': 'enter your password' }),
    }),
    status: 204,
    handle: async ({ app, body, request }) => {
      const token = await signIn(app.db, app.databaseName, { ...body, from: fromOf(request) }, app.clock);
      return nothing({ 'set-cookie': cookie(token, SESSION_MS / 1_000, isSecure(request)) });
    },
  }),
  operatorRoute({
    method: 'DELETE',
    path: '/session',
    area: 'Sign-in',
    summary: 'Sign out',
    status: 204,
    handle: async ({ app, request }, scope) => {
      const token = cookieOf(request, SESSION_COOKIE);
      if (token !== undefined) await signOut(app.db, token, scope.actor, app.clock);
      return nothing({ 'set-cookie': cookie('', 0, isSecure(request)) });
    },
  }),
  operatorRoute({
    method: 'GET',
    path: '/me',
    area: 'Sign-in',
    summary: 'Who you are and whom you reach',
    answer: shape({
      name: text,
      role: oneOf('engineer', 'lead', 'bookkeeper'),
      reach: oneOf('every', 'listed').description('Whether you reach every customer or those listed for you'),
    }),
    handle: async (_ask, scope) =>
      ok({ name: scope.actor.name, role: scope.actor.role, reach: scope.customers ? 'listed' : 'every' }),
  }),
  operatorRoute({
    method: 'POST',
    path: '/tokens',
    area: 'Sign-in',
    summary: 'Make an API token that reaches what you reach; it is shown this once',
    body: Joi.object<{ name: string; days: number }>({
      name: Joi.string().trim().min(1).max(80).required(),
      days: Joi.number().integer().min(1).max(365).default(90),
    }),
    status: 201,
    answer: shape({ token: text, name: maybeText }),
    work: ({ app, body }, scope) => makeToken(app, scope, body),
    reply: (made) => created(made, '/api/v1/me'),
  }),
];
