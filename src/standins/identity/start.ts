import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import Provider, { type Configuration } from 'oidc-provider';

/** Someone whom the identity service knows. */
export interface Identity {
  readonly id: string;
  readonly name: string;
  readonly mail: string;
  readonly verified: boolean;
  readonly groups: readonly string[];
  /** How they showed who they are (RFC 8176). */
  readonly amr: readonly string[];
}

export interface Client {
  readonly id: string;
  readonly secret: string;
  readonly redirects: readonly string[];
}

/**
 * A simulated identity service: OpenID Connect with the code flow and PKCE. Whoever is at its page chooses who they are;
 * the list can be replaced while it runs.
 */
export async function startIdentity(
  port: number,
  client: Client,
  people: readonly Identity[],
): Promise<{ readonly server: Server; setPeople(now: readonly Identity[]): void }> {
  let known = people;
  const find = (id: string): Identity | undefined => known.find((one) => one.id === id);
  const configuration: Configuration = {
    clients: [
      {
        client_id: client.id,
        client_secret: client.secret,
        redirect_uris: [...client.redirects],
        response_types: ['code'],
        grant_types: ['authorization_code'],
      },
    ],
    claims: {
      openid: ['sub', 'amr'],
      profile: ['name'],
      email: ['email', 'email_verified'],
      groups: ['groups'],
    },
    scopes: ['openid', 'profile', 'email', 'groups'],
    conformIdTokenClaims: false,
    pkce: { required: () => true, methods: ['S256'] },
    features: { devInteractions: { enabled: false } },
    interactions: { url: (_ctx, { uid }) => `/interaction/${uid}` },
    cookies: { keys: ['a simulation has no secrets'] },
    ttl: { AccessToken: 600, IdToken: 600, Interaction: 600, Session: 600, Grant: 600 },
    findAccount: (_ctx, id) => {
      const one = find(id);
      return (
        one && {
          accountId: id,
          claims: () => ({
            sub: id,
            name: one.name,
            email: one.mail,
            email_verified: one.verified,
            groups: [...one.groups],
          }),
        }
      );
    },
  };
  const provider = new Provider(`http://127.0.0.1:${port}`, configuration);
  const callback = provider.callback();

  const choose = async (request: IncomingMessage, response: ServerResponse, url: URL): Promise<void> => {
    const chosen = url.searchParams.get('who');
    const { prompt, session, params, grantId } = await provider.interactionDetails(request, response);
    if (prompt.name === 'login' && chosen === null) {
      response.setHeader('content-type', 'text/html; charset=utf-8');
      response.end(page(known, url.pathname));
      return;
    }
    if (prompt.name === 'login') {
      const one = find(chosen ?? '');
      const result = one
        ? { login: { accountId: one.id, amr: [...one.amr] } }
        : { error: 'access_denied', error_description: 'nobody was chosen' };
      await provider.interactionFinished(request, response, result, { mergeWithLastSubmission: false });
      return;
    }
    // Whoever chose to sign in has agreed to what is told.
    const grant =
      (grantId === undefined ? undefined : await provider.Grant.find(grantId)) ??
      new provider.Grant({ accountId: session?.accountId ?? '', clientId: String(params.client_id) });
    grant.addOIDCScope(String(params.scope));
    await provider.interactionFinished(
      request,
      response,
      { consent: { grantId: await grant.save() } },
      { mergeWithLastSubmission: true },
    );
  };

  const server = createServer((request, response) => {
    const url = new URL(request.url ?? '/', `http://127.0.0.1:${port}`);
    if (url.pathname === '/health') {
      response.end('{"works":true}');
      return;
    }
    if (!url.pathname.startsWith('/interaction/')) {
      void callback(request, response);
      return;
    }
    choose(request, response, url).catch(() => {
      response.statusCode = 400;
      response.end('This has ended. Begin again.');
    });
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  return {
    server,
    setPeople: (now) => {
      known = now;
    },
  };
}

const ESCAPED: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const escaped = (text: string): string => text.replace(/[&<>"]/g, (sign) => ESCAPED[sign] ?? '');

const page = (people: readonly Identity[], path: string): string => `<!doctype html>
<html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Who are you?</title>
<style>body{font:16px/1.5 system-ui,sans-serif;max-width:32rem;margin:4rem auto;padding:0 1rem}a{display:block;padding:.6rem 0}</style>
<h1>Who are you?</h1><p>A simulated identity service: choose one.</p>
${people.map((one) => `<a href="${escaped(path)}?who=${encodeURIComponent(one.id)}">${escaped(one.name)}, ${escaped(one.groups.join(', '))}</a>`).join('\n')}
<a href="${escaped(path)}?who=">Nobody</a></html>`;
