import { refusedScim, ScimRefusal, type ScimAnswer } from '../../core/scim';
import type { App } from '../app';
import { DatabaseError } from '../db';
import { takePush, whoPushes } from '../directory-link';
import { readText } from '../http';
import { Problem } from '../problem';

const MOST_BYTES = 4_000_000;

/** What a customer's directory pushes to `/scim/v2/<code>`, with the token of its link (RFC 6750). */
export async function answerPush(app: App, request: Request): Promise<Response> {
  const { pathname, searchParams } = new URL(request.url);
  const [, code = '', path = '', id = ''] =
    /^\/scim\/v2\/([^/]+)\/([^/]+)(?:\/([^/]+))?$/.exec(pathname) ?? [];
  const token = /^Bearer (.+)$/.exec(request.headers.get('authorization') ?? '')?.[1] ?? '';
  const scope = await whoPushes(app, code, token);
  if (!scope) return responseOf(refusedScim(new ScimRefusal(401, 'The token is wrong.')));
  const body = await bodyOf(request);
  if (body instanceof ScimRefusal) return responseOf(refusedScim(body));
  try {
    return responseOf(
      await takePush(app, scope, {
        method: request.method,
        path,
        id: decoded(id),
        query: searchParams,
        header: (name: string) => request.headers.get(name) ?? undefined,
        body,
      }),
    );
  } catch (error) {
    app.log.error({ path: pathname, error: error instanceof Error ? error.stack : String(error) }, 'broke');
    return responseOf(
      refusedScim(
        error instanceof DatabaseError && !error.isOurFault
          ? new ScimRefusal(503, 'The database does not answer. Send it again.')
          : new ScimRefusal(500, 'Something broke here. Nothing was changed.'),
      ),
    );
  }
}

async function bodyOf(request: Request): Promise<Readonly<Record<string, unknown>> | ScimRefusal> {
  if (request.method === 'GET' || request.method === 'DELETE') return {};
  const noObject = new ScimRefusal(400, 'That is no JSON object.', 'invalidSyntax');
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
