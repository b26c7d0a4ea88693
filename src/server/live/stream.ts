import { createResponse } from 'better-sse';
import type { Scope } from '../access';
import type { App } from '../app';
import { Problem } from '../problem';
import { whoAsks } from '../sign-in';

/** How often it is asked whether who listens still may. Wall time. */
const STILL_MS = 2_000;

/**
 * A stream of hints that something changed: its topic and the id of what changed. It keeps to the scope, and ends when
 * who listens has signed out, or reaches other customers than before: who may still listen comes again by itself.
 */
export function eventStream(
  app: App,
  request: Request,
  scope: Scope,
  customer: { readonly id: string } | undefined,
): Response {
  const ending = new AbortController();
  // The library begins to write in the next turn, and breaks the process when its stream has ended by then.
  const left = (): void => void setImmediate(() => ending.abort());
  request.signal.addEventListener('abort', left, { once: true });
  const own = new Request(request.url, { headers: request.headers, signal: ending.signal });
  const response = createResponse(own, { keepAlive: 15_000 }, (session) => {
    const listening = app.live.listen(scope, customer?.id, (event) => {
      if (session.isConnected) session.push({ topic: event.topic, id: event.subject_id }, 'change');
    });
    const asking = setInterval(() => {
      mayStill(app, request, scope).then(
        (may) => {
          if (may === 'as before') return;
          // Who reaches others now has on the page what may be theirs no more: it is loaded anew.
          if (may === 'otherwise' && session.isConnected) session.push({ topic: 'over' }, 'over');
          ending.abort();
        },
        (error: unknown) => app.log.warn({ error: String(error) }, 'who listens could not be asked'),
      );
    }, STILL_MS);
    session.once('disconnected', () => {
      clearInterval(asking);
      void listening.then((end) => end()).catch(() => undefined);
    });
    listening.then(
      () => session.isConnected && session.push({ topic: 'ready' }, 'ready'),
      (error: unknown) => {
        app.log.warn({ error: String(error) }, 'live events could not begin');
        // Nothing would ever be heard: who listens comes again.
        ending.abort();
      },
    );
  });
  return toldWhenLeft(response, left);
}

/**
 * The same response, which tells when nobody reads it any more: the library hears that from the request's signal only, and
 * would write on to a stream that is no more, where it cannot. What it has still to write then is read and dropped.
 */
function toldWhenLeft(response: Response, left: () => void): Response {
  const reader = response.body?.getReader();
  if (!reader) return response;
  const drop = async (): Promise<void> => {
    while (!(await reader.read()).done);
  };
  const body = new ReadableStream<Uint8Array>({
    pull: async (controller) => {
      const { done, value } = await reader.read();
      if (done) controller.close();
      else controller.enqueue(value);
    },
    cancel: () => {
      left();
      void drop();
    },
  });
  return new Response(body, response);
}

type May = 'as before' | 'otherwise' | 'no more';

async function mayStill(app: App, request: Request, began: Scope): Promise<May> {
  try {
    const now = await whoAsks(app, request);
    return sameReach(now, began) && now.actor.role === began.actor.role ? 'as before' : 'otherwise';
  } catch (error) {
    if (error instanceof Problem) return 'no more';
    throw error;
  }
}

function sameReach(a: Scope, b: Scope): boolean {
  if (!a.customers || !b.customers) return a.customers === b.customers;
  return a.customers.size === b.customers.size && [...a.customers].every((id) => b.customers?.has(id));
}
