import { createHash, timingSafeEqual } from 'node:crypto';
import { answerScim, refusedScim, ScimRefusal, type ScimAnswer } from '../../core/scim';
import { systemScope, type CustomerScope } from '../access';
import type { App } from '../app';
import { newId, sql, transaction } from '../db';
import { readText } from '../http';
import { Problem } from '../problem';
import { PushedEntries } from './pushed';

const MOST_BYTES = 4_000_000;
/** What is pushed is taken in so soon after the last of it: a directory sends one after the other. */
const REST_MS = 3_000;

const same = (one: string, other: string): boolean => {
  const hash = (text: string): Buffer => createHash('sha256').update(text).digest();
  return timingSafeEqual(hash(one), hash(other));
};

/**
 * A customer's directory tells us of its users and groups (SCIM 2.0, RFC 7644) at `/scim/v2/<code>`, with the token of its
 * link. What it tells is kept as it comes, and taken in as everything that is read of a directory.
 */
export async function answerPush(app: App, request: Request): Promise<Response> {
  const { pathname, searchParams } = new URL(request.url);
  const [, code = '', path = '', id = ''] =
    /^\/scim\/v2\/([^/]+)\/([^/]+)(?:\/([^/]+))?$/.exec(pathname) ?? [];
  const scope = await pushing(app, code, request.headers.get('authorization') ?? '');
  if (!scope) return responseOf(refusedScim(new ScimRefusal(401, 'The token is wrong.')));
  const body = await bodyOf(request);
  if (body instanceof ScimRefusal) return responseOf(refusedScim(body));
  const asked = {
    method: request.method,
    path,
    id: decoded(id),
    query: searchParams,
    header: (name: string) => request.headers.get(name) ?? undefined,
    body,
  };
  if (request.method === 'GET')
    return responseOf(await answerScim(new PushedEntries(app, scope), asked, newId));
  const answer = await transaction(app.db, async (tx) => {
    // One after the other: what comes at once is not decided by half of it.
    await tx.row(
      sql`SELECT customer_id FROM directory_link WHERE customer_id = ${scope.customer.id} FOR UPDATE`,
    );
    const given = await answerScim(new PushedEntries(app, scope, tx), asked, newId);
    if (given.status < 400)
      await tx.write(
        sql`UPDATE directory_link SET due_wall = ${app.clock.wall() + REST_MS} WHERE customer_id = ${scope.customer.id}`,
      );
    return given;
  });
  return responseOf(answer);
}

/** Whose directory pushes; undefined: nobody's, or not with this token. */
async function pushing(app: App, code: string, shown: string): Promise<CustomerScope | undefined> {
  const row = await app.db.row<{ id: string; code: string; secret_sealed: Buffer }>(
    sql`SELECT c.id, c.code, d.secret_sealed FROM directory_link d JOIN customer c ON c.id = d.customer_id
        WHERE c.code = ${code} AND c.kind = 'customer' AND c.state <> 'retired' AND d.via = 'push'`,
  );
  return row && same(shown, `Bearer ${app.sealing.unseal(row.secret_sealed)}`)
    ? systemScope({ id: row.id, code: row.code }, 'their directory')
    : undefined;
}

async function bodyOf(request: Request): Promise<Readonly<Record<string, unknown>> | ScimRefusal> {
  const noObject = new ScimRefusal(400, 'That is no JSON object.', 'invalidSyntax');
  if (request.method === 'GET' || request.method === 'DELETE') return {};
  try {
    const read: unknown = JSON.parse(await readText(request, MOST_BYTES));
    return typeof read === 'object' && read !== null && !Array.isArray(read)
      ? (read as Record<string, unknown>)
      : noObject;
  } catch (error) {
    return error instanceof Problem ? new ScimRefusal(error.status, error.detail) : noObject;
  }
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

const responseOf = ({ status, body, headers }: ScimAnswer): Response =>
  new Response(body === undefined ? null : JSON.stringify(body), {
    status,
    headers: { ...headers, 'cache-control': 'no-store' },
  });
