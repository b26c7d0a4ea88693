import { defineMiddleware } from 'astro:middleware';
import { openWeb, type WebProcess } from './main/web';
import { cookieOf } from './server/http';
import { makeLog } from './server/log';
import { scopeOfSession, SESSION_COOKIE } from './server/sign-in';

let opened: Promise<WebProcess> | undefined;

/** The server is put together once, on the first request; what failed is tried again on the next. */
function theProcess(): Promise<WebProcess> {
  opened ??= openWeb();
  opened.catch((error: unknown) => {
    opened = undefined;
    makeLog('web', 'error').error({ error: String(error) }, 'could not begin');
  });
  return opened;
}

// While one develops, a changed source is loaded anew: what the old one had open is closed.
import.meta.hot?.dispose(() => void opened?.then((here) => here.close()));

/** Pages that need no sign-in, and the API, which answers for itself. */
const OPEN = ['/sign-in', '/healthz', '/api/', '/_astro/', '/favicon', '/mark/'];

const HEADERS: Readonly<Record<string, string>> = {
  'content-security-policy':
    "default-src 'self'; script-src 'self' 'unsafe-inline'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; " +
    "base-uri 'none'; form-action 'self'; frame-ancestors 'none'; object-src 'none'",
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'same-origin',
  'cross-origin-opener-policy': 'same-origin',
};

export const onRequest = defineMiddleware(async (context, next) => {
  const path = context.url.pathname;
  const here = await theProcess().catch(() => undefined);
  if (!here) return new Response('Laager could not begin. Try again in a moment.', { status: 503 });
  const { app, api } = here;
  context.locals.laager = app;
  context.locals.api = api;
  if (!path.startsWith('/api/')) {
    const cookie = cookieOf(context.request, SESSION_COOKIE);
    context.locals.scope =
      cookie === undefined
        ? undefined
        : await scopeOfSession(app.db, cookie, app.clock.wall()).catch(() => undefined);
    if (!context.locals.scope && !OPEN.some((open) => path.startsWith(open)))
      return context.redirect(`/sign-in?next=${encodeURIComponent(path + context.url.search)}`);
  }
  const response = await next();
  for (const [name, value] of Object.entries(HEADERS)) response.headers.set(name, value);
  if (response.headers.get('content-type')?.startsWith('text/html'))
    response.headers.set('cache-control', 'no-store');
  return response;
});
