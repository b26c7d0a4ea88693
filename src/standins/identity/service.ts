import type { IncomingMessage, ServerResponse } from 'node:http';
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
  /** Their account, where it tells one. */
  readonly account?: string;
}

export interface Client {
  readonly id: string;
  readonly secret: string;
  readonly redirects: readonly string[];
}

/** Whom a service knows. */
export interface Folk {
  /** The first of them, to choose from. */
  some(): Promise<readonly Identity[]>;
  find(id: string): Promise<Identity | undefined>;
}

export interface Service {
  handle(request: IncomingMessage & { originalUrl?: string }, response: ServerResponse): Promise<void>;
}

/**
 * A simulated identity service: OpenID Connect with the code flow and PKCE. Whoever is at its page chooses who they are.
 * @param origin where it is reached; `mount` the path below which all of it is, empty or like `/realms/svg.example`
 */
export function identityService(origin: string, mount: string, client: Client, folk: Folk): Service {
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
      profile: ['name', 'preferred_username'],
      email: ['email', 'email_verified'],
      groups: ['groups'],
    },
    scopes: ['openid', 'profile', 'email', 'groups'],
    conformIdTokenClaims: false,
    pkce: { required: () => true, methods: ['S256'] },
    features: { devInteractions: { enabled: false } },
    interactions: { url: (_ctx, { uid }) => `${mount}/interaction/${uid}` },
    cookies: { keys: ['a simulation has no secrets'] },
    ttl: { AccessToken: 600, IdToken: 600, Interaction: 600, Session: 600, Grant: 600 },
    findAccount: async (_ctx, id) => {
      const one = await folk.find(id);
      return (
        one && {
          accountId: id,
          claims: () => ({
            sub: id,
            name: one.name,
            email: one.mail,
            email_verified: one.verified,
            groups: [...one.groups],
            ...(one.account === undefined ? {} : { preferred_username: one.account }),
          }),
        }
      );
    },
  };
  const provider = new Provider(`${origin}${mount}`, configuration);
  const callback = provider.callback();

  const choose = async (request: IncomingMessage, response: ServerResponse, url: URL): Promise<void> => {
    const chosen = url.searchParams.get('who');
    const { prompt, session, params, grantId } = await provider.interactionDetails(request, response);
    if (prompt.name === 'login' && chosen === null) {
      response.setHeader('content-type', 'text/html; charset=utf-8');
      response.end(page(await folk.some(), url.pathname));
      return;
    }
    if (prompt.name === 'login') {
      const one = await folk.find(chosen ?? '');
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

  return {
    handle: async (request, response) => {
      const url = new URL(request.url ?? '/', origin);
      if (url.pathname.startsWith(`${mount}/interaction/`)) return choose(request, response, url);
      // Below its mount it is as it would be at the top; how it was asked for says where that is.
      request.originalUrl = request.url ?? '/';
      request.url = (request.url ?? '/').slice(mount.length) || '/';
      await callback(request, response);
    },
  };
}

const ESCAPED: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const escaped = (text: string): string => text.replace(/[&<>"]/g, (sign) => ESCAPED[sign] ?? '');

const page = (people: readonly Identity[], path: string): string => `<!doctype html>
<html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Who are you?</title>
<style>body{font:16px/1.5 system-ui,sans-serif;max-width:32rem;margin:4rem auto;padding:0 1rem}a{display:block;padding:.6rem 0}</style>
<h1>Who are you?</h1><p>A simulated identity service: choose one.</p>
${people.map((one) => `<a href="${escaped(path)}?who=${encodeURIComponent(one.id)}">${escaped(one.name)}, ${escaped(one.account ?? one.groups.join(', '))}</a>`).join('\n')}
<a href="${escaped(path)}?who=">Nobody</a></html>`;
