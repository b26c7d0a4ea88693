import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import { fileURLToPath } from 'node:url';
import sirv from 'sirv';
import { readConfig } from '../server/config';
import type { Problem } from '../server/problem';
import { problemResponse } from '../server/http';
import { faultOf } from './request-fault';

/*
 * The web server's front: files as they were built, and everything else through the pages. What no page could answer is
 * answered here, as problem details.
 */

type Pages = (
  request: IncomingMessage,
  response: ServerResponse,
  next: undefined,
  locals: { readonly peer: string },
) => Promise<void>;

const isPages = (module: unknown): module is { readonly handler: Pages } =>
  typeof module === 'object' &&
  module !== null &&
  'handler' in module &&
  typeof module.handler === 'function';

async function refuse(response: ServerResponse, problem: Problem): Promise<void> {
  const said = problemResponse(problem);
  response.writeHead(said.status, Object.fromEntries(said.headers)).end(await said.text());
}

/** Ends with one clear line; nothing of an error but its message is shown. */
function refuseToStart(error: unknown): never {
  process.stderr.write(`${error instanceof Error ? error.message : 'the web server cannot start'}\n`);
  process.exit(1);
}

// A setting that cannot be used is told at once, not on the first request.
try {
  readConfig(process.env);
} catch (error) {
  refuseToStart(error);
}

const built = new URL('../', import.meta.url);
const module: unknown = await import(new URL('server/entry.mjs', built).href);
if (!isPages(module)) throw new Error('the pages were not built');
const { handler } = module;

const files = sirv(fileURLToPath(new URL('client/', built)), {
  setHeaders: (response, path) => {
    response.setHeader('x-content-type-options', 'nosniff');
    // What stands there has its own name for each content.
    if (path.startsWith('/_astro/'))
      response.setHeader('cache-control', 'public, max-age=31536000, immutable');
  },
});

const server = createServer((request, response) => {
  const fault = faultOf(request);
  if (fault) {
    void refuse(response, fault);
    return;
  }
  files(request, response, () => {
    void handler(request, response, undefined, { peer: request.socket.remoteAddress ?? '' });
  });
});

const [host, port] = [process.env.HOST ?? '127.0.0.1', Number(process.env.PORT ?? 4700)];
if (!Number.isInteger(port) || port < 0 || port > 65_535)
  refuseToStart(new Error('PORT must be a whole number up to 65535'));
server.once('error', refuseToStart);
server.listen(port, host, () => process.stdout.write(`web server at http://${host}:${port}\n`));
for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.once(signal, () => {
    server.close(() => process.exit(0));
    // Streams of live events have no end of their own: who listens comes again, to another process.
    server.closeAllConnections();
  });
