import { DAY, type Instant } from '../calendar';

/** What a certificate says of itself (RFC 5280). */
export interface Certificate {
  readonly subject: string;
  readonly issuer: string;
  /** The DNS names that it is for (its subjectAltName), in small letters. */
  readonly names: readonly string[];
  readonly from: Instant;
  readonly until: Instant;
  /** Whether it may sign others (basicConstraints). */
  readonly isAuthority: boolean;
  /** SHA-256 over its bytes, in hexadecimal. */
  readonly fingerprint: string;
}

/** A certificate with what else came with it. */
export interface CertificateChain {
  readonly leaf: Certificate;
  /** Whether the private key is the leaf's. */
  readonly keyFits: boolean;
  /** Those that signed it, each signed by the next: as far as they are there. */
  readonly issuers: readonly Certificate[];
  /** How it ends: in one that signed itself and is here, in one that is trusted by this machine, or nowhere. */
  readonly ends: 'here' | 'trusted' | 'nowhere';
  /** How many others came along that sign nothing here. */
  readonly strangers: number;
}

/** So many days before its end a certificate is told of. Common practice, no source. */
export const CERTIFICATE_DAYS = 45;

/**
 * Whether a name of a certificate covers a DNS name: a whole first label may be a star, and stands for one label alone
 * (RFC 9525, section 6.3).
 * @example
 * coversName('*.svg.example', 'desks.svg.example') // true
 * coversName('*.svg.example', 'svg.example') // false
 */
export function coversName(own: string, name: string): boolean {
  const [pattern, asked] = [own.toLowerCase(), name.toLowerCase()];
  if (!pattern.startsWith('*.')) return pattern === asked;
  const rest = asked.indexOf('.');
  return rest > 0 && asked.slice(rest) === pattern.slice(1);
}

/** Days until it ends, whole ones; negative when it has ended. */
export const daysLeft = (until: Instant, now: Instant): number => Math.floor((until - now) / DAY);

export interface CertificateFault {
  /** Where it was made: in the certificates, in the key, or in the name that it is for. */
  readonly field: 'certificate' | 'key' | 'name';
  readonly says: string;
}

/** When a chain ends to hold: with the first of its certificates that ends (RFC 5280, section 6.1.3). */
export const endOf = ({ leaf, issuers }: Pick<CertificateChain, 'leaf' | 'issuers'>): Instant =>
  Math.min(leaf.until, ...issuers.map((one) => one.until));

/** Why a certificate cannot be served for a name: the gravest first, none when it can. */
export function certificateFaults(chain: CertificateChain, name: string, now: Instant): CertificateFault[] {
  const { leaf, issuers, ends, keyFits } = chain;
  const last = issuers.at(-1) ?? leaf;
  const bad = issuers.find((one) => !one.isAuthority);
  const over = [leaf, ...issuers].find((one) => one.until <= now);
  const early = [leaf, ...issuers].find((one) => one.from > now);
  const faults: (CertificateFault | false | undefined)[] = [
    !keyFits && { field: 'key', says: `is not the key of ${leaf.subject}` },
    name !== '' &&
      !leaf.names.some((own) => coversName(own, name)) && {
        field: 'name',
        says: `${name} is not among its names: ${leaf.names.join(', ') || 'it has none'}`,
      },
    over && { field: 'certificate', says: `${over.subject} ended on ${dayOf(over.until)}` },
    early && {
      field: 'certificate',
      says: `${early === leaf ? '' : `${early.subject} `}holds only from ${dayOf(early.from)} on`,
    },
    bad && { field: 'certificate', says: `${bad.subject} may not sign others` },
    ends === 'nowhere' && {
      field: 'certificate',
      says: `the chain is not whole: ${last.issuer}, who signed ${last.subject}, is not in it`,
    },
  ];
  return faults.filter((one) => one !== false && one !== undefined);
}

const dayOf = (at: Instant): string => new Date(at).toISOString().slice(0, 10);

/** What someone should know of a certificate that is served; undefined: nothing yet. */
export function certificateReminder(name: string, until: Instant, now: Instant): string | undefined {
  const left = daysLeft(until, now);
  if (left >= CERTIFICATE_DAYS) return undefined;
  if (until <= now) return `the certificate of ${name} ended on ${dayOf(until)}`;
  return `the certificate of ${name} ends on ${dayOf(until)}, in ${left === 1 ? '1 day' : `${left} days`}`;
}
