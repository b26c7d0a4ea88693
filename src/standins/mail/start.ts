import type { Server } from 'node:http';
import { openStore, type DatabaseAddress, type Store } from '../kit/database';
import { text, texts } from '../kit/read';
import { NO_FAULTS, serve } from '../kit/server';

const TABLES = [
  `CREATE TABLE IF NOT EXISTS message (
    id VARCHAR(80) PRIMARY KEY, seq BIGINT AUTO_INCREMENT UNIQUE, recipients JSON NOT NULL, subject VARCHAR(200) NOT NULL, body TEXT NOT NULL)`,
];

interface Message {
  readonly recipients: string;
  readonly subject: string;
  readonly body: string;
}

const escaped = (text: string): string =>
  text.replaceAll(/[&<>"']/g, (letter) => `&#${letter.codePointAt(0) ?? 0};`);

/** What everybody has been sent, the newest first, with what can be followed in it. */
const mailbox = (messages: readonly Message[]): string =>
  `<!doctype html><html lang="en"><meta charset="utf-8"><title>Mail of the simulation</title>
<style>body{font:16px/1.5 system-ui,sans-serif;max-width:760px;margin:24px auto;padding:0 16px}li{margin:0 0 20px}</style>
<h1>Mail of the simulation</h1><ol reversed>${messages
    .map(
      ({ recipients, subject, body }) =>
        `<li><b>${escaped(subject)}</b> to ${escaped((JSON.parse(recipients) as string[]).join(', '))}<br>${escaped(
          body,
        ).replaceAll(/https?:\/\/[^\s&]+/g, (address) => `<a href="${address}">${address}</a>`)}</li>`,
    )
    .join('')}</ol></html>`;

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
      'GET /': async () => ({
        status: 200,
        text: mailbox(
          await store.rows<Message>(
            'SELECT recipients, subject, body FROM message ORDER BY seq DESC LIMIT 100',
          ),
        ),
        headers: { 'content-type': 'text/html; charset=utf-8' },
      }),
      'GET /messages': async () => ({
        status: 200,
        body: {
          messages: await store.rows('SELECT id, recipients, subject, body FROM message ORDER BY seq'),
        },
      }),
    },
    port,
    () => ({ ...NO_FAULTS, slowMs }),
  );
  return { server, store };
}
