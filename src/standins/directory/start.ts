import type { Server } from 'node:http';
import { openStore, type DatabaseAddress, type Store } from '../kit/database';
import { NO_FAULTS, Refusal, serve, type Handler } from '../kit/server';
import { controlRoutes } from './control';
import { DIRECTORY_TABLES } from './schema';
import { scimRoutes } from './scim';

/**
 * A simulated directory service: each customer's realm knows its computers, whose names are unique whatever the case, and
 * tells its people and groups over SCIM.
 */
export async function startDirectory(
  address: DatabaseAddress,
  port: number,
  key: string,
  slowMs = 0,
): Promise<{ server: Server; store: Store }> {
  const store = await openStore(address, DIRECTORY_TABLES);
  const guarded =
    (handler: Handler): Handler =>
    async (call) => {
      if (call.header('authorization') !== `Bearer ${key}`) throw new Refusal(401, 'key', 'the key is wrong');
      return handler(call);
    };
  const server = await serve(
    {
      'GET /health': async () => ({ status: 200, body: { works: true } }),
      'GET /realms/:realm/computers': guarded(async ({ params }) => ({
        status: 200,
        body: {
          computers: (
            await store.rows<{ name: string }>('SELECT name FROM computer WHERE realm = ? ORDER BY name', [
              params.realm ?? '',
            ])
          ).map((row) => row.name),
        },
      })),
      'PUT /realms/:realm/computers/:name': guarded(async ({ params }) => {
        await store.write('INSERT IGNORE INTO computer (realm, name) VALUES (?, ?)', [
          params.realm ?? '',
          params.name ?? '',
        ]);
        return { status: 204 };
      }),
      'DELETE /realms/:realm/computers/:name': guarded(async ({ params }) => {
        await store.write('DELETE FROM computer WHERE realm = ? AND name = ?', [
          params.realm ?? '',
          params.name ?? '',
        ]);
        return { status: 204 };
      }),
      ...scimRoutes(store),
      ...controlRoutes(store),
    },
    port,
    () => ({ ...NO_FAULTS, slowMs }),
  );
  return { server, store };
}
