import { defineMiddleware } from 'astro:middleware';
import { id } from './contract';
import { openWeb, type WebProcess } from './main/web';
import { cookieOf, noteClient, safetyHeaders } from './server/http';
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
const OPEN = [
  '/sign-in',
  '/sign-out',
  '/invite/',
  // People's own pages: their desk's cookie lets them in, and no operator's.
  '/desk',
  '/healthz',
  // Each lets in whoever shows its own token.
  '/metrics',
  '/scim/',
  '/api/',
  '/_astro/',
  '/favicon',
  '/theme.js',
  '/mark/',
];

/** Styles stand in attributes too, where no hash reaches: hence their word. While one develops, scripts have no hashes. */
const policyFor = (scripts: string): string =>
  `default-src 'self'; script-src ${scripts}; style-src 'self' 'unsafe-inline'; img-src 'self' data:; ` +
  "worker-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'; object-src 'none'";

/** The sources of scripts that a page was made with. */
const scriptsOf = (policy: string | null): string =>
  /script-src ([^;]+)/.exec(policy ?? '')?.[1]?.trim() ??
  (import.meta.env.DEV ? "'self' 'unsafe-inline'" : "'self'");

export const onRequest = defineMiddleware(async (context, next) => {
  const path = context.url.pathname;
  const here = await theProcess().catch(() => undefined);
  if (!here) return new Response('Laager could not begin. Try again in a moment.', { status: 503 });
  const { app, api } = here;
  context.locals.laager = app;
  context.locals.api = api;
  noteClient(context.request, context.locals.peer ?? context.clientAddress, app.gates);
  if (!path.startsWith('/api/')) {
    const cookie = cookieOf(context.request, SESSION_COOKIE);
    const found =
      cookie === undefined
        ? undefined
        : await scopeOfSession(app.db, cookie, app.clock.wall()).catch(() => 'unknown' as const);
    // Who is signed in stays so while the database cannot tell.
    if (found === 'unknown' && !OPEN.some((open) => path.startsWith(open)))
      return new Response('The database does not answer. Try again in a moment.', {
        status: 503,
        headers: { 'content-type': 'text/plain; charset=utf-8', 'retry-after': '5' },
      });
    context.locals.scope = found === 'unknown' ? undefined : found;
    if (!context.locals.scope && !OPEN.some((open) => path.startsWith(open)))
      return context.redirect(`/sign-in?next=${encodeURIComponent(path + context.url.search)}`);
  }
  // Who has yet to set up the second factor that is required does that first.
  const isFree = OPEN.some((open) => path.startsWith(open)) || path === '/you';
  if (context.locals.scope?.needsFactor === true && !isFree) return context.redirect('/you');
  // An id that cannot be is of nothing that is there.
  const isNowhere = [context.params.id, context.params.run].some(
    (one) => one !== undefined && id.validate(one).error !== undefined,
  );
  const response = await next(isNowhere ? '/404' : undefined);
  const scripts = scriptsOf(response.headers.get('content-security-policy'));
  response.headers.set('content-security-policy', policyFor(scripts));
  for (const [name, value] of Object.entries(safetyHeaders(context.request)))
    response.headers.set(name, value);
  if (response.headers.get('content-type')?.startsWith('text/html'))
    response.headers.set('cache-control', 'no-store');
  return response;
});
