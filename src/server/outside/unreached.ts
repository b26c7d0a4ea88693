import { Unreachable, type Unreached } from './error';

/** What Node calls it (`cause.code` of a failed fetch), what it is, and how it is said. */
const KNOWN: Readonly<Record<string, readonly [Unreached, string]>> = {
  ENOTFOUND: ['name', 'has a name that nobody knows'],
  EAI_AGAIN: ['name', 'has a name that could not be looked up'],
  ECONNREFUSED: ['nobody', 'is not there: nothing listens at that address'],
  EHOSTUNREACH: ['nobody', 'cannot be reached: no way leads to that address'],
  ENETUNREACH: ['nobody', 'cannot be reached: no way leads to that network'],
  CERT_HAS_EXPIRED: ['certificate', 'shows a certificate that has expired'],
  CERT_NOT_YET_VALID: ['certificate', 'shows a certificate that is not valid yet'],
  ERR_TLS_CERT_ALTNAME_INVALID: ['certificate', 'shows a certificate for another name'],
  DEPTH_ZERO_SELF_SIGNED_CERT: ['certificate', 'shows a certificate that nobody but itself has signed'],
  SELF_SIGNED_CERT_IN_CHAIN: ['certificate', 'shows a certificate of an authority that we do not trust'],
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: ['certificate', 'shows a certificate without what leads to its authority'],
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: [
    'certificate',
    'shows a certificate of an authority that we do not trust',
  ],
  ERR_SSL_WRONG_VERSION_NUMBER: ['other', 'speaks no TLS at that port'],
  EPROTO: ['other', 'speaks no TLS at that port'],
};

/** What kept an answer from coming. What Node has no word for that we know is said as what it is: no answer. */
export function unreachedBy(system: string, error: unknown): Unreachable {
  for (const code of codesOf(error)) {
    const known = KNOWN[code];
    if (known) return new Unreachable(system, known[1], known[0]);
  }
  return new Unreachable(system, 'does not answer', 'silence');
}

/** The codes of an error and of what caused it; where several addresses were tried, of each. */
function codesOf(error: unknown): string[] {
  if (!(error instanceof Error)) return [];
  const own = 'code' in error && typeof error.code === 'string' ? [error.code] : [];
  const each: readonly unknown[] = error instanceof AggregateError ? error.errors : [];
  return [...own, ...[error.cause, ...each].flatMap(codesOf)];
}
