import { createCipheriv, createDecipheriv, createHash, createHmac, randomBytes } from 'node:crypto';

/** What is kept secret in the database, and what nobody else may be able to make. */
export interface Sealing {
  /** Encrypts a secret for the database: AES-256-GCM (NIST SP 800-38D), nonce first, tag last. */
  seal(secret: string): Buffer;
  /** @throws Error when it was sealed with neither key, or its bytes were changed */
  unseal(sealed: Buffer): string;
  /** Whether it is sealed with the key that seals now, not with one that is only read. */
  isSealedNow(sealed: Buffer): boolean;
  /** HMAC-SHA-256 (RFC 2104) by the key that seals now. */
  sign(text: string): Buffer;
  /** As it may have been signed: by the key that seals now, then by the one that is read too. */
  signatures(text: string): readonly Buffer[];
}

const NONCE = 12;
const TAG = 16;

const keyOf = (secretKey: string): Buffer => createHash('sha256').update(secretKey).digest();

function unsealedBy(secretKey: string, sealed: Buffer): string {
  const decipher = createDecipheriv('aes-256-gcm', keyOf(secretKey), sealed.subarray(0, NONCE));
  decipher.setAuthTag(sealed.subarray(-TAG));
  return Buffer.concat([decipher.update(sealed.subarray(NONCE, -TAG)), decipher.final()]).toString('utf8');
}

/** The tag tells: bytes that another key sealed are not taken for ours. */
function isSealedBy(secretKey: string, sealed: Buffer): boolean {
  try {
    unsealedBy(secretKey, sealed);
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
    seal: (secret) => {
      const nonce = randomBytes(NONCE);
      const cipher = createCipheriv('aes-256-gcm', keyOf(secretKey), nonce);
      return Buffer.concat([nonce, cipher.update(secret, 'utf8'), cipher.final(), cipher.getAuthTag()]);
    },
    unseal: (sealed) => {
      const key = keys.find((one) => isSealedBy(one, sealed));
      if (key === undefined)
        throw new Error('A secret was sealed with another key than those that are set, or has been changed.');
      return unsealedBy(key, sealed);
    },
    isSealedNow: (sealed) => isSealedBy(secretKey, sealed),
    sign: (text) => signed(secretKey, text),
    signatures: (text) => keys.map((key) => signed(key, text)),
  };
}
