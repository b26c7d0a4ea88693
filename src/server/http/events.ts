import { createResponse } from 'better-sse';
import type { Scope } from '../access';
import type { App } from '../app';

/** A stream of hints that something changed: its topic and the id of what changed. It keeps to the scope. */
export function eventStream(
  app: App,
  request: Request,
  scope: Scope,
  customer: { readonly id: string } | undefined,
): Response {
  return createResponse(request, { keepAlive: 15_000 }, (session) => {
    const listening = app.live.listen(scope, customer?.id, (event) => {
      if (session.isConnected) session.push({ topic: event.topic, id: event.subject_id }, 'change');
    });
    session.once('disconnected', () => void listening.then((end) => end()).catch(() => undefined));
    listening.then(
      () => session.push({ topic: 'ready' }, 'ready'),
      (error: unknown) => app.log.warn({ error: String(error) }, 'live events could not begin'),
    );
  });
}
