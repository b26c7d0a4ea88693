import { identity as known } from '../../core/text';
import { randomBytes } from 'node:crypto';
import { MSP, SYSTEM } from '../access';
import type { App } from '../app';
import { transaction } from '../db';
import { beginWay, keptWay, toldBy, type Told } from '../identity';
import { hashOf, operatorByGroups } from '../operators';
import { Problem } from '../problem';
import { writeTrail } from '../trail';
import { makeBrowser } from './browser';
import { SESSION_MS, type SignedIn } from './sign-in';

/** Why somebody was not let in from there; a sentence each, on the page where one signs in. */
export type OutsideRefusal =
  'not reached' | 'over' | 'refused' | 'no groups' | 'ended' | 'mail' | 'last lead';

type House = Pick<App, 'db' | 'clock' | 'sealing' | 'log' | 'identity'>;

/** What the way of an operator leads to. */
const OPERATOR = 'operator';

/** Where a browser is sent to, and what it keeps until it comes back. */
export async function beginOutside(
  house: House,
  redirect: string,
  next: string,
): Promise<{ readonly to: string; readonly kept: string } | OutsideRefusal> {
  const { identity } = house;
  if (!identity) return 'not reached';
  const scope = 'openid profile email groups';
  return (await beginWay(house, identity, { to: OPERATOR, next, redirect, scope })) ?? 'not reached';
}

/** Where somebody wanted to go who is at the identity service. */
export const nextOf = (house: House, kept: string | undefined): string => keptWay(house, kept)?.next ?? '/';

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
  const way = keptWay(house, kept);
  if (!identity || way?.to !== OPERATOR) return 'over';
  let told: Told;
  try {
    const found = await toldBy(identity, came, way);
    told = { ...found, mail: known(found.mail) };
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
