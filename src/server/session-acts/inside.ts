import { enter, type CustomerScope, type Scope } from '../access';
import type { App } from '../app';

/** Goes inside each customer that something was found of, with what is theirs. */
export async function enterEach<One extends { readonly code: string }>(
  app: App,
  scope: Scope,
  found: readonly One[],
): Promise<[CustomerScope, One[]][]> {
  const byCode = new Map<string, One[]>();
  for (const one of found) {
    const own = byCode.get(one.code);
    if (own) own.push(one);
    else byCode.set(one.code, [one]);
  }
  return Promise.all(
    [...byCode].map(async ([code, own]): Promise<[CustomerScope, One[]]> => [
      await enter(app.db, scope, code),
      own,
    ]),
  );
}
