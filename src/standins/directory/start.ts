import type { Server } from 'node:http';
import { openStore, type DatabaseAddress, type Store } from '../kit/database';
import { NO_FAULTS, Refusal, serve, type Handler } from '../kit/server';

const TABLES = [
  `CREATE TABLE IF NOT EXISTS computer (
    realm VARCHAR(80) NOT NULL, name VARCHAR(15) NOT NULL COLLATE utf8mb4_general_ci, PRIMARY KEY (realm, name))`,
  `CREATE TABLE IF NOT EXISTS reader (realm VARCHAR(80) PRIMARY KEY, account VARCHAR(120) NOT NULL, secret VARCHAR(200) NOT NULL)`,
  `CREATE TABLE IF NOT EXISTS person (
    realm VARCHAR(80) NOT NULL, account VARCHAR(120) NOT NULL, entry JSON NOT NULL, PRIMARY KEY (realm, account))`,
];

/** A simulated directory service: each customer's realm knows its computers, whose names are unique whatever the case. */
export async function startDirectory(
  address: DatabaseAddress,
  port: number,
  key: string,
  slowMs = 0,
): Promise<{ server: Server; store: Store }> {
  const store = await openStore(address, TABLES);
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
      // Whoever may read it signs in with an account of its own.
      'POST /realms/:realm/people': guarded(async ({ params, body }) => {
        const realm = params.realm ?? '';
        const reader = await store.row<{ account: string; secret: string }>(
          'SELECT account, secret FROM reader WHERE realm = ?',
          [realm],
        );
        if (!reader || reader.account !== body.account || reader.secret !== body.secret)
          throw new Refusal(401, 'reader', 'account or secret is wrong');
        const rows = await store.rows<{ entry: string }>(
          'SELECT entry FROM person WHERE realm = ? ORDER BY account',
          [realm],
        );
        return { status: 200, body: { people: rows.map((row) => JSON.parse(row.entry) as unknown) } };
      }),
      // What stands in it, and who may read it: set by whoever steers the simulation.
      'PUT /control/realms/:realm': async ({ params, body }) => {
        const realm = params.realm ?? '';
        const people = Array.isArray(body.people) ? (body.people as Record<string, unknown>[]) : [];
        await store.write('REPLACE INTO reader (realm, account, secret) VALUES (?, ?, ?)', [
          realm,
          String(body.account),
          String(body.secret),
        ]);
        await store.write('DELETE FROM person WHERE realm = ?', [realm]);
        for (const one of people)
          await store.write('INSERT INTO person (realm, account, entry) VALUES (?, ?, ?)', [
            realm,
            String(one.account),
            JSON.stringify(one),
          ]);
        return { status: 200, body: { people: people.length } };
      },
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
    },
    port,
    () => ({ ...NO_FAULTS, slowMs }),
  );
  return { server, store };
}
