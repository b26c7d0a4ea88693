import type { CustomerScope } from '../server/access';
import type { App } from '../server/app';
import { beginChange, proposeChange, type Begun } from '../server/changes';

/** Proposes a change and begins it as proposed, as whoever's scope it is. @throws Problem when it is refused */
export async function beginAsProposed(
  app: App,
  scope: CustomerScope,
  kind: string,
  input: unknown,
  reason: string,
  environment?: string,
): Promise<Begun> {
  const change = app.catalogue.changes.find((one) => one.kind === kind);
  if (!change) throw new Error(`${kind} is no change`);
  const asked = { input, environment };
  const { fingerprint } = await proposeChange(app, scope, change, asked);
  return beginChange(app, scope, change, { ...asked, fingerprint, reason, code: scope.customer.code });
}
