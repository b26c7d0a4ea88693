import type { CustomerScope } from '../access';
import type { App } from '../app';
import { Problem } from '../problem';
import type { Asked, Begun } from './agreement';
import { beginChange, proposeChange } from './begin';

/**
 * Begins a change that nobody has asked for now, because a rule says so. What is in the way, like a site that is full, is
 * told in the log: the rule is looked at again next time.
 * @returns what was begun; undefined: nothing
 */
export async function beginByItself(
  app: App,
  scope: CustomerScope,
  kind: string,
  asked: Asked,
  reason: string,
): Promise<Begun | undefined> {
  const change = app.catalogue.changes.find((one) => one.kind === kind);
  if (!change) throw new RangeError(`${kind} is no change`);
  try {
    const { fingerprint } = await proposeChange(app, scope, change, asked);
    return await beginChange(app, scope, change, {
      ...asked,
      fingerprint,
      reason,
      code: scope.customer.code,
    });
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    app.log.info({ change: kind, environment: asked.environment, says: error.detail }, 'not begun by itself');
    return undefined;
  }
}
