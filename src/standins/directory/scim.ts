import { randomUUID } from 'node:crypto';
import { answerScim, refusedScim, ScimRefusal } from '../../core/scim';
import type { Store } from '../kit/database';
import type { Handler, Routes } from '../kit/server';
import { Entries } from './entries';

const BASE = '/realms/:realm/scim/v2';

/** SCIM 2.0 (RFC 7644) over the entries of each realm, for whoever has its token. */
export function scimRoutes(store: Store): Routes {
  const serve =
    (method: string): Handler =>
    async (call) => {
      const { realm = '', path = '', id = '' } = call.params;
      const reader = await store.row<{ token: string }>('SELECT token FROM reader WHERE realm = ?', [realm]);
      if (!reader || call.header('authorization') !== `Bearer ${reader.token}`)
        return refusedScim(new ScimRefusal(401, 'The token is wrong.'));
      return answerScim(
        new Entries(store, realm, `/realms/${realm}/scim/v2`),
        { method, path, id, query: call.query, header: call.header, body: call.body },
        randomUUID,
      );
    };
  return Object.fromEntries(
    ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'].flatMap((method): [string, Handler][] => [
      [`${method} ${BASE}/:path`, serve(method)],
      [`${method} ${BASE}/:path/:id`, serve(method)],
    ]),
  );
}
