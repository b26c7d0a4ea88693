import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';

const NONCE = 12;
const TAG = 16;

const keyOf = (secretKey: string): Buffer => createHash('sha256').update(secretKey).digest();

/** Encrypts a secret for the database: AES-256-GCM (NIST SP 800-38D), nonce first, tag last. */
export function seal(secretKey: string, secret: string): Buffer {
  const nonce = randomBytes(NONCE);
  const cipher = createCipheriv('aes-256-gcm', keyOf(secretKey), nonce);
  return Buffer.concat([nonce, cipher.update(secret, 'utf8'), cipher.final(), cipher.getAuthTag()]);
}

/** @throws Error when the key is another or the bytes were changed */
export function unseal(secretKey: string, sealed: Buffer): string {
  const decipher = createDecipheriv('aes-256-gcm', keyOf(secretKey), sealed.subarray(0, NONCE));
  decipher.setAuthTag(sealed.subarray(-TAG));
  return Buffer.concat([decipher.update(sealed.subarray(NONCE, -TAG)), decipher.final()]).toString('utf8');
}
