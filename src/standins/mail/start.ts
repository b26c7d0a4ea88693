import type { Server } from 'node:http';
import { openStore, type DatabaseAddress, type Store } from '../kit/database';
import { text, texts } from '../kit/read';
import { NO_FAULTS, serve } from '../kit/server';

const TABLES = [
  `CREATE TABLE IF NOT EXISTS message (
    id VARCHAR(80) PRIMARY KEY, recipients JSON NOT NULL, subject VARCHAR(200) NOT NULL, body TEXT NOT NULL)`,
];

/** A simulated mail service: it keeps what it is given, once for each message id. */
export async function startMail(
  address: DatabaseAddress,
  port: number,
  slowMs = 0,
): Promise<{ server: Server; store: Store }> {
  const store = await openStore(address, TABLES);
  const server = await serve(
    {
      'GET /health': async () => ({ status: 200, body: { works: true } }),
      'PUT /messages/:id': async (call) => {
        await store.write('INSERT IGNORE INTO message (id, recipients, subject, body) VALUES (?, ?, ?, ?)', [
          call.params.id ?? '',
          JSON.stringify(texts(call, 'to')),
          text(call, 'subject'),
          text(call, 'body'),
        ]);
        return { status: 204 };
      },
      'GET /messages': async () => ({
        status: 200,
        body: { messages: await store.rows('SELECT id, recipients, subject, body FROM message ORDER BY id') },
      }),
    },
    port,
    () => ({ ...NO_FAULTS, slowMs }),
  );
  return { server, store };
}
