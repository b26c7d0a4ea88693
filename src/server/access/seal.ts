import { createCipheriv, createDecipheriv, createHash, createHmac, randomBytes } from 'node:crypto';

/** What is kept secret in the database, and what nobody else may be able to make. */
export interface Sealing {
  /** Encrypts a secret for its place: AES-256-GCM (NIST SP 800-38D), nonce first, tag last, the place authenticated with it. */
  seal(secret: string, place: SealPlace): Buffer;
  /**
   * What was sealed before places were bound is read at any place, until it is sealed anew.
   * @throws Error when it was sealed with neither key or for another place, or its bytes were changed
   */
  unseal(sealed: Buffer, place: SealPlace): string;
  /** Whether it is sealed for its place with the key that seals now, not with one that is only read. */
  isSealedNow(sealed: Buffer, place: SealPlace): boolean;
  /** HMAC-SHA-256 (RFC 2104) by the key that seals now. */
  sign(text: string): Buffer;
  /** As it may have been signed: by the key that seals now, then by the one that is read too. */
  signatures(text: string): readonly Buffer[];
}

/** The row that a secret belongs to: what it is, then the row's key. A secret that was moved to another row is not read there. */
export type SealPlace = readonly [what: string, ...key: string[]];

const NONCE = 12;
const TAG = 16;

const keyOf = (secretKey: string): Buffer => createHash('sha256').update(secretKey).digest();

const bound = (place: SealPlace): Buffer => Buffer.from(JSON.stringify(place), 'utf8');

/** @param place undefined: as it was sealed before places were bound */
function unsealedBy(secretKey: string, sealed: Buffer, place: SealPlace | undefined): string {
  const decipher = createDecipheriv('aes-256-gcm', keyOf(secretKey), sealed.subarray(0, NONCE));
  if (place) decipher.setAAD(bound(place));
  decipher.setAuthTag(sealed.subarray(-TAG));
  return Buffer.concat([decipher.update(sealed.subarray(NONCE, -TAG)), decipher.final()]).toString('utf8');
}

/** The tag tells: bytes that another key sealed are not taken for ours. */
function isSealedBy(secretKey: string, sealed: Buffer, place: SealPlace | undefined): boolean {
  try {
    unsealedBy(secretKey, sealed, place);
    return true;
  } catch {
    return false;
  }
}

/** @param also a key by which nothing is sealed any more, or not yet: what is sealed with it is read */
export function openSealing(secretKey: string, also?: string): Sealing {
  const keys = [secretKey, ...(also === undefined ? [] : [also])];
  const signed = (key: string, text: string): Buffer => createHmac('sha256', key).update(text).digest();
  return {
    seal: (secret, place) => {
      const nonce = randomBytes(NONCE);
      const cipher = createCipheriv('aes-256-gcm', keyOf(secretKey), nonce);
      cipher.setAAD(bound(place));
      return Buffer.concat([nonce, cipher.update(secret, 'utf8'), cipher.final(), cipher.getAuthTag()]);
    },
    unseal: (sealed, place) => {
      for (const at of [place, undefined])
        for (const key of keys) if (isSealedBy(key, sealed, at)) return unsealedBy(key, sealed, at);
      throw new Error(
        'A secret was sealed with another key than those that are set, or for another place, or has been changed.',
      );
    },
    isSealedNow: (sealed, place) => isSealedBy(secretKey, sealed, place),
    sign: (text) => signed(secretKey, text),
    signatures: (text) => keys.map((key) => signed(key, text)),
  };
}
