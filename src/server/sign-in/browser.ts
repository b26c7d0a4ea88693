import { randomBytes, timingSafeEqual } from 'node:crypto';
import type { Sealing } from '../access';

/* A browser in which someone has signed in is known to their account from then on: a cookie says so, and nobody else can make one. */

export const BROWSER_COOKIE = 'laager_browser';
export const BROWSER_SECONDS = 180 * 86_400;

const said = (operatorId: string, name: string): string => `browser ${operatorId} ${name}`;

/** A cookie's value that makes a browser known to an operator's account. */
export function makeBrowser(sealing: Sealing, operatorId: string): string {
  const name = randomBytes(12).toString('base64url');
  return `${name}.${sealing.sign(said(operatorId, name)).toString('base64url')}`;
}

/** The name of a browser that the operator's account knows; undefined when it knows none such. */
export function knownBrowser(
  sealing: Sealing,
  operatorId: string,
  cookie: string | undefined,
): string | undefined {
  const [name = '', proof = ''] = (cookie ?? '').split('.');
  const given = Buffer.from(proof, 'base64url');
  const isKnown = sealing
    .signatures(said(operatorId, name))
    .some((right) => given.length === right.length && timingSafeEqual(given, right));
  return isKnown ? name : undefined;
}
