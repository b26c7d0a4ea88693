import { createHash } from 'node:crypto';
import { identity } from '../../core/text';
import * as oidc from 'openid-client';
import type { SealPlace } from '../access';
import type { App } from '../app';
import { boundedText } from '../outside';

/** An identity service (OpenID Connect), and what we are called there. */
export interface IdentityService {
  readonly issuer: string;
  readonly client: string;
  readonly secret: string;
}

/** So long may someone take at an identity service. */
const WAY_MS = 10 * 60_000;
export const WAY_SECONDS = WAY_MS / 1_000;

/** What is kept in the browser while somebody is there: sealed, so that nobody can write one. */
interface Way {
  /** What it is a way to, and whose: one is never taken for another. */
  readonly to: string;
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
  readonly next: string;
  readonly until: number;
}

type House = Pick<App, 'clock' | 'sealing' | 'log'>;

/** What an identity service says of itself, its keys and of somebody is short. */
const MOST_BYTES = 500_000;

/** Answers no longer than they may be; a redirect is another service, and is not followed. */
const boundedFetch: oidc.CustomFetch = async (url, options) => {
  const response = await fetch(url, { ...options, redirect: 'manual' } as RequestInit);
  const text = await boundedText('identity service', response, MOST_BYTES);
  const { status, statusText, headers } = response;
  return new Response([101, 204, 205, 304].includes(status) ? null : text, { status, statusText, headers });
};

const known = new Map<string, Promise<oidc.Configuration>>();

function discover(
  issuer: string,
  client: string,
  authentication: oidc.ClientAuth,
): Promise<oidc.Configuration> {
  const url = new URL(issuer);
  // A simulation on this machine speaks plain HTTP; nothing else may.
  const isHere = ['127.0.0.1', 'localhost', '[::1]'].includes(url.hostname) && url.protocol === 'http:';
  return oidc.discovery(url, client, undefined, authentication, {
    timeout: 10,
    [oidc.customFetch]: boundedFetch,
    ...(isHere ? { execute: [oidc.allowInsecureRequests] } : {}),
  });
}

/** What a service says of itself (OpenID Connect Discovery), asked once; asked again when that failed. */
function configurationOf({ issuer, client, secret }: IdentityService): Promise<oidc.Configuration> {
  const key = createHash('sha256')
    .update(JSON.stringify([issuer, client, secret]))
    .digest('hex');
  const before = known.get(key);
  if (before) return before;
  const asked = discover(issuer, client, oidc.ClientSecretBasic(secret));
  known.set(key, asked);
  asked.catch(() => known.delete(key));
  return asked;
}

/** Whether an issuer answers as one, and as the one that it is said to be. */
export async function tryIssuer(
  issuer: string,
): Promise<{ readonly worked: boolean; readonly says: string }> {
  try {
    const found = await discover(issuer, 'laager', oidc.None());
    return { worked: true, says: `${found.serverMetadata().issuer} answers` };
  } catch {
    return { worked: false, says: 'does not answer as an OpenID Connect issuer' };
  }
}

/**
 * Where a browser is sent to, and what it keeps until it comes back. PKCE with S256 (RFC 7636).
 * @returns undefined when the service is not reached
 */
export async function beginWay(
  { clock, sealing, log }: House,
  service: IdentityService,
  way: { readonly to: string; readonly next: string; readonly redirect: string; readonly scope: string },
): Promise<{ readonly to: string; readonly kept: string } | undefined> {
  const verifier = oidc.randomPKCECodeVerifier();
  const kept: Way = {
    to: way.to,
    state: oidc.randomState(),
    nonce: oidc.randomNonce(),
    verifier,
    next: way.next,
    until: clock.wall() + WAY_MS,
  };
  try {
    const to = oidc.buildAuthorizationUrl(await configurationOf(service), {
      redirect_uri: way.redirect,
      scope: way.scope,
      state: kept.state,
      nonce: kept.nonce,
      code_challenge: await oidc.calculatePKCECodeChallenge(verifier),
      code_challenge_method: 'S256',
    });
    return { to: to.href, kept: sealing.seal(JSON.stringify(kept), WAY).toString('base64url') };
  } catch (error) {
    log.warn({ error: String(error) }, 'an identity service was not reached');
    return undefined;
  }
}

/** It is kept by the browser, and not in the database. */
const WAY: SealPlace = ['way of a sign-in'];

/** The way that a browser kept; undefined: it is none of ours, or over. */
export function keptWay({ sealing, clock }: House, kept: string | undefined): Way | undefined {
  if (kept === undefined || kept === '') return undefined;
  try {
    const way = JSON.parse(sealing.unseal(Buffer.from(kept, 'base64url'), WAY)) as Way;
    return way.until > clock.wall() ? way : undefined;
  } catch {
    return undefined;
  }
}

/** What a service says of somebody. */
export interface Told {
  readonly subject: string;
  readonly name: string;
  readonly mail: string;
  readonly verified: boolean;
  /** Their account, where it tells one. */
  readonly account: string;
  readonly groups: readonly string[];
  /** Whether they showed more than one thing (RFC 8176, `mfa`). */
  readonly withFactor: boolean;
}

/**
 * Who has come back.
 * @param came the address that the browser came back to, with what the service added to it
 * @throws Error when what it brings does not fit, or the service does not confirm it
 */
export async function toldBy(
  service: IdentityService,
  came: URL,
  way: Pick<Way, 'state' | 'nonce' | 'verifier'>,
): Promise<Told> {
  const configuration = await configurationOf(service);
  const tokens = await oidc.authorizationCodeGrant(configuration, came, {
    pkceCodeVerifier: way.verifier,
    expectedState: way.state,
    expectedNonce: way.nonce,
    idTokenExpected: true,
  });
  const claims = tokens.claims();
  if (!claims) throw new Error('no ID token came');
  const about = await oidc.fetchUserInfo(configuration, tokens.access_token, claims.sub);
  const groups: unknown = about.groups ?? claims.groups;
  const amr: unknown = claims.amr;
  return {
    subject: claims.sub,
    name: String(about.name ?? claims.sub).slice(0, 80),
    mail: identity(String(about.email ?? '').slice(0, 254)),
    verified: about.email_verified === true,
    account: identity(String(about.preferred_username ?? '').slice(0, 80)),
    groups: Array.isArray(groups) ? groups.map(String) : [],
    withFactor: Array.isArray(amr) && amr.includes('mfa'),
  };
}
