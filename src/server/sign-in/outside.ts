import { randomBytes } from 'node:crypto';
import * as oidc from 'openid-client';
import type { Identity } from '../config';
import { MSP, SYSTEM } from '../access';
import type { App } from '../app';
import { transaction } from '../db';
import { hashOf, normalMail, operatorByGroups } from '../operators';
import { Problem } from '../problem';
import { writeTrail } from '../trail';
import { makeBrowser } from './browser';
import { SESSION_MS, type SignedIn } from './sign-in';

/** So long may someone take at the identity service. */
const WAY_MS = 10 * 60_000;
export const WAY_SECONDS = WAY_MS / 1_000;

/** Why somebody was not let in from there; a sentence each, on the page where one signs in. */
export type OutsideRefusal =
  'not reached' | 'over' | 'refused' | 'no groups' | 'ended' | 'mail' | 'last lead';

/** What is kept in the browser while somebody is at the identity service: sealed, so that nobody can write one. */
interface Way {
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
  readonly next: string;
  readonly until: number;
}

type House = Pick<App, 'db' | 'clock' | 'sealing' | 'log' | 'identity'>;

const known = new Map<string, Promise<oidc.Configuration>>();

/** What the service says of itself (OpenID Connect Discovery), asked once; asked again when that failed. */
function configurationOf({ issuer, client, secret }: Identity): Promise<oidc.Configuration> {
  const key = `${issuer} ${client}`;
  const before = known.get(key);
  if (before) return before;
  const url = new URL(issuer);
  // A simulation on this machine speaks plain HTTP; nothing else may.
  const isHere = ['127.0.0.1', 'localhost', '[::1]'].includes(url.hostname) && url.protocol === 'http:';
  const asked = oidc.discovery(url, client, undefined, oidc.ClientSecretBasic(secret), {
    timeout: 10,
    ...(isHere ? { execute: [oidc.allowInsecureRequests] } : {}),
  });
  known.set(key, asked);
  asked.catch(() => known.delete(key));
  return asked;
}

/** Where a browser is sent to, and what it keeps until it comes back. PKCE with S256 (RFC 7636). */
export async function beginOutside(
  { clock, sealing, identity, log }: House,
  redirect: string,
  next: string,
): Promise<{ readonly to: string; readonly kept: string } | OutsideRefusal> {
  if (!identity) return 'not reached';
  const verifier = oidc.randomPKCECodeVerifier();
  const way: Way = {
    state: oidc.randomState(),
    nonce: oidc.randomNonce(),
    verifier,
    next,
    until: clock.wall() + WAY_MS,
  };
  try {
    const to = oidc.buildAuthorizationUrl(await configurationOf(identity), {
      redirect_uri: redirect,
      scope: 'openid profile email groups',
      state: way.state,
      nonce: way.nonce,
      code_challenge: await oidc.calculatePKCECodeChallenge(verifier),
      code_challenge_method: 'S256',
    });
    return { to: to.href, kept: sealing.seal(JSON.stringify(way)).toString('base64url') };
  } catch (error) {
    log.warn({ error: String(error) }, 'the identity service was not reached');
    return 'not reached';
  }
}

function wayOf({ sealing, clock }: House, kept: string | undefined): Way | undefined {
  if (kept === undefined || kept === '') return undefined;
  try {
    const way = JSON.parse(sealing.unseal(Buffer.from(kept, 'base64url'))) as Way;
    return way.until > clock.wall() ? way : undefined;
  } catch {
    return undefined;
  }
}

/** Where somebody wanted to go who is at the identity service. */
export const nextOf = (house: House, kept: string | undefined): string => wayOf(house, kept)?.next ?? '/';

/** What the service says of somebody. */
interface Told {
  readonly subject: string;
  readonly name: string;
  readonly mail: string;
  readonly verified: boolean;
  readonly groups: readonly string[];
  /** Whether they showed more than one thing (RFC 8176, `mfa`). */
  readonly withFactor: boolean;
}

async function toldBy(identity: Identity, came: URL, way: Way): Promise<Told> {
  const configuration = await configurationOf(identity);
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
    mail: normalMail(String(about.email ?? '')),
    verified: about.email_verified === true,
    groups: Array.isArray(groups) ? groups.map(String) : [],
    withFactor: Array.isArray(amr) && amr.includes('mfa'),
  };
}

/**
 * Lets somebody in who comes back from the identity service: their groups there say what they are here, anew each time.
 * @param came the address that the browser came back to, with what the service added to it
 */
export async function endOutside(
  house: House,
  came: URL,
  kept: string | undefined,
  from: string,
): Promise<(SignedIn & { readonly next: string }) | OutsideRefusal> {
  const { db, clock, sealing, identity, log } = house;
  const way = wayOf(house, kept);
  if (!identity || !way) return 'over';
  let told: Told;
  try {
    told = await toldBy(identity, came, way);
  } catch (error) {
    log.warn({ error: String(error), from }, 'a sign-in from the identity service was refused');
    return 'refused';
  }
  if (!told.verified || !told.mail.includes('@')) return 'mail';
  const operator = await operatorByGroups(house, SYSTEM, identity.issuer, told).catch((error: unknown) => {
    if (error instanceof Problem && error.code === 'last-lead') return 'last lead' as const;
    if (error instanceof Problem && error.code === 'linked') return 'mail' as const;
    throw error;
  });
  if (operator === undefined) return 'no groups';
  if (typeof operator === 'string') return operator;
  const wall = clock.wall();
  if (operator.endsAt !== null && operator.endsAt <= wall) return 'ended';
  const token = randomBytes(32).toString('base64url');
  await transaction(db, async (connection) => {
    await connection.write('DELETE FROM web_session WHERE expires_at < ?', [wall]);
    await connection.write(
      'INSERT INTO web_session (token_hash, operator_id, created_at, expires_at, with_factor) VALUES (?, ?, ?, ?, ?)',
      [hashOf(token), operator.id, wall, wall + SESSION_MS, told.withFactor],
    );
    await writeTrail(connection, {
      customerId: MSP.id,
      at: clock.now(),
      actor: operator,
      action: 'sign in',
      subject: told.mail,
      after: { from, by: identity.issuer, groups: told.groups },
    });
  });
  return { token, browser: makeBrowser(sealing, operator.id), next: way.next };
}
