import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';

export interface Call {
  readonly params: Readonly<Record<string, string>>;
  readonly query: URLSearchParams;
  readonly body: Readonly<Record<string, unknown>>;
  readonly header: (name: string) => string | undefined;
}

export interface Answer {
  readonly status: number;
  readonly body?: unknown;
  readonly headers?: Readonly<Record<string, string>>;
}

export type Handler = (call: Call) => Promise<Answer>;
export type Routes = Readonly<Record<string, Handler>>;

/** What happens to an answer on its way out: faults are switched on here. */
export interface ActiveFaults {
  /** Before the work: an answer instead of it, or undefined. */
  before(path: string): Answer | undefined;
  readonly slowMs: number;
  /** After the work: whether its answer is lost on the way. */
  loses(method: string): boolean;
}

export const NO_FAULTS: ActiveFaults = { before: () => undefined, slowMs: 0, loses: () => false };

/** An outcome that a handler ends with by throwing it. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

/** Serves `routes`, written like `POST /v1/hosts/:id/power`, one call at a time, on loopback. */
export async function serve(
  routes: Routes,
  port: number,
  activeFaults: () => ActiveFaults = () => NO_FAULTS,
): Promise<Server> {
  const table = Object.entries(routes).map(([route, handler]) => compile(route, handler));
  let last: Promise<unknown> = Promise.resolve();
  const server = createServer((request, response) => {
    const turn = last.then(() => handle(table, request, response, activeFaults()));
    last = turn.catch(() => undefined);
  });
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', resolve);
  });
  return server;
}

interface Compiled {
  readonly method: string;
  readonly pattern: RegExp;
  readonly names: readonly string[];
  readonly handler: Handler;
}

function compile(route: string, handler: Handler): Compiled {
  const [method = '', path = ''] = route.split(' ');
  const names = [...path.matchAll(/:(\w+)/g)].map((match) => match[1] ?? '');
  return { method, names, handler, pattern: new RegExp(`^${path.replace(/:\w+/g, '([^/]+)')}$`) };
}

async function handle(
  table: readonly Compiled[],
  request: IncomingMessage,
  response: ServerResponse,
  activeFaults: ActiveFaults,
): Promise<void> {
  const url = new URL(request.url ?? '/', 'http://standin');
  const control = url.pathname.startsWith('/control/') || url.pathname === '/health';
  const answer = await answerTo(table, request, url, control ? NO_FAULTS : activeFaults);
  if (!control && activeFaults.slowMs > 0) await pause(activeFaults.slowMs);
  if (!control && activeFaults.loses(request.method ?? 'GET')) {
    request.socket.destroy();
    return;
  }
  response.writeHead(answer.status, { 'content-type': 'application/json', ...answer.headers });
  response.end(answer.body === undefined ? '' : JSON.stringify(answer.body));
}

async function answerTo(
  table: readonly Compiled[],
  request: IncomingMessage,
  url: URL,
  activeFaults: ActiveFaults,
): Promise<Answer> {
  try {
    const stopped = activeFaults.before(url.pathname);
    if (stopped) return stopped;
    for (const route of table) {
      const match = route.method === request.method ? route.pattern.exec(url.pathname) : null;
      if (!match) continue;
      const params = Object.fromEntries(
        route.names.map((name, index) => [name, decodeURIComponent(match[index + 1] ?? '')]),
      );
      return await route.handler({
        params,
        query: url.searchParams,
        body: await readBody(request),
        header: (name) => {
          const value = request.headers[name];
          return Array.isArray(value) ? value[0] : value;
        },
      });
    }
    return problem(404, 'no-such-path', `${request.method} ${url.pathname} is not served here`);
  } catch (error) {
    if (error instanceof Refusal) return problem(error.status, error.code, error.message);
    return problem(500, 'broken', error instanceof Error ? error.message : String(error));
  }
}

const problem = (status: number, code: string, message: string): Answer => ({
  status,
  body: { code, message },
});

async function readBody(request: IncomingMessage): Promise<Record<string, unknown>> {
  const chunks: Buffer[] = [];
  for await (const chunk of request) chunks.push(chunk as Buffer);
  if (chunks.length === 0) return {};
  const parsed = parse(Buffer.concat(chunks).toString('utf8'));
  if (typeof parsed !== 'object' || parsed === null)
    throw new Refusal(400, 'bad-body', 'the body is not an object');
  return parsed as Record<string, unknown>;
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new Refusal(400, 'bad-body', 'the body is not JSON');
  }
}

/** Ends a stand-in on SIGTERM and SIGINT: no new calls, then its database, then the process. */
export function endWith(server: Server, close: () => Promise<void>): void {
  const end = (): void => {
    server.closeAllConnections();
    server.close(() => void close().then(() => process.exit(0)));
  };
  process.once('SIGTERM', end);
  process.once('SIGINT', end);
}
