import { createHmac, randomBytes, timingSafeEqual } from 'node:crypto';

/* A browser in which someone has signed in is known to their account from then on: a cookie says so, and nobody else can make one. */

export const BROWSER_COOKIE = 'laager_browser';
export const BROWSER_SECONDS = 180 * 86_400;

const proofOf = (secretKey: string, operatorId: string, name: string): Buffer =>
  createHmac('sha256', secretKey).update(`browser ${operatorId} ${name}`).digest();

/** A cookie's value that makes a browser known to an operator's account. */
export function makeBrowser(secretKey: string, operatorId: string): string {
  const name = randomBytes(12).toString('base64url');
  return `${name}.${proofOf(secretKey, operatorId, name).toString('base64url')}`;
}

/** The name of a browser that the operator's account knows; undefined when it knows none such. */
export function knownBrowser(
  secretKey: string,
  operatorId: string,
  cookie: string | undefined,
): string | undefined {
  const [name = '', proof = ''] = (cookie ?? '').split('.');
  const [given, right] = [Buffer.from(proof, 'base64url'), proofOf(secretKey, operatorId, name)];
  return given.length === right.length && timingSafeEqual(given, right) ? name : undefined;
}
