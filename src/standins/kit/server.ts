import { createServer, type Server } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';
import { getRequestListener, type HttpBindings } from '@hono/node-server';
import { Hono } from 'hono';
import { bodyLimit } from 'hono/body-limit';
import pLimit from 'p-limit';

export interface Call {
  readonly params: Readonly<Record<string, string>>;
  readonly query: URLSearchParams;
  readonly body: Readonly<Record<string, unknown>>;
  readonly header: (name: string) => string | undefined;
}

export interface Answer {
  readonly status: number;
  readonly body?: unknown;
  /** Sent as it is, in place of a body. */
  readonly text?: string;
  readonly headers?: Readonly<Record<string, string>>;
}

export type Handler = (call: Call) => Promise<Answer>;
export type Routes = Readonly<Record<string, Handler>>;

/** What happens to an answer on its way out: faults are switched on here. */
export interface ActiveFaults {
  /** Before the work: an answer instead of it, or undefined. */
  before(path: string, method: string): Answer | undefined;
  /** How long each answer takes; several take it at the same time. */
  readonly slowMs: number;
  /** After the work: whether its answer is lost on the way. */
  loses(method: string): boolean;
  /** Whether answers begin and never end. */
  readonly stalls: boolean;
  /** How far its own clock is ahead of what time it is. */
  readonly aheadMs: number;
}

export const NO_FAULTS: ActiveFaults = {
  before: () => undefined,
  slowMs: 0,
  loses: () => false,
  stalls: false,
  aheadMs: 0,
};

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

const MOST_BYTES = 1_000_000;

/** Serves `routes`, written like `POST /v1/hosts/:id/power`, on loopback. The work is done one call at a time. */
export async function serve(
  routes: Routes,
  port: number,
  activeFaults: () => ActiveFaults = () => NO_FAULTS,
): Promise<Server> {
  const hono = new Hono<{ Bindings: HttpBindings }>();
  const inTurn = pLimit(1);
  for (const [route, handler] of Object.entries(routes)) {
    const [method = '', path = ''] = route.split(' ');
    const isControl = path.startsWith('/control/') || path === '/health';
    hono.on(method, path, bodyLimit({ maxSize: MOST_BYTES }), async ({ req, env }) => {
      const faults = isControl ? NO_FAULTS : activeFaults();
      const answer = await inTurn(async () => {
        const stopped = faults.before(req.path, method);
        if (stopped) return stopped;
        const { searchParams } = new URL(req.url);
        const body = await readBody(req.raw);
        return handler({
          params: req.param(),
          query: searchParams,
          body,
          header: (name) => req.header(name),
        });
      });
      if (faults.slowMs > 0) await pause(faults.slowMs);
      if (faults.loses(method)) env.incoming.socket.destroy();
      return faults.stalls ? stalled(answer) : written(dated(answer, activeFaults().aheadMs));
    });
  }
  hono.notFound(({ req }) =>
    written(problem(404, 'no-such-path', `${req.method} ${req.path} is not served here`)),
  );
  hono.onError((error) =>
    written(
      error instanceof Refusal
        ? problem(error.status, error.code, error.message)
        : problem(500, 'broken', error.message),
    ),
  );
  const server = createServer(getRequestListener(hono.fetch));
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', resolve);
  });
  return server;
}

const problem = (status: number, code: string, message: string): Answer => ({
  status,
  body: { code, message },
});

/** With the time that its clock shows (RFC 9110, section 6.6.1), where that is another than ours. */
const dated = (answer: Answer, aheadMs: number): Answer =>
  aheadMs === 0
    ? answer
    : { ...answer, headers: { ...answer.headers, date: new Date(Date.now() + aheadMs).toUTCString() } };

const written = ({ status, body, text, headers }: Answer): Response =>
  new Response(text ?? (body === undefined ? null : JSON.stringify(body)), {
    status,
    headers: { 'content-type': 'application/json', ...headers },
  });

/** An answer of which the first bytes come, and then nothing more. */
const stalled = ({ status, headers }: Answer): Response =>
  new Response(
    new ReadableStream<Uint8Array>({
      start: (controller) => controller.enqueue(new TextEncoder().encode('{"')),
    }),
    { status, headers: { 'content-type': 'application/json', ...headers } },
  );

async function readBody(request: Request): Promise<Record<string, unknown>> {
  const text = await request.text();
  if (text === '') return {};
  const parsed = parse(text);
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
