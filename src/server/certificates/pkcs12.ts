import forge from 'node-forge';
import { unusable } from '../problem';

/** What the rounds of a whole file may add up to, however many bags it has; and how many bags. */
const MOST_ROUNDS = 2_000_000;
const MOST_BAGS = 12;

class TooManyRounds extends Error {}

/** How many rounds are left to the file that is being opened. One file is opened at a time: a thread does nothing else. */
let left = 0;

/** A file says itself how many rounds its password goes through: one made by an attacker would hold us for hours. */
const limited =
  <Given extends readonly unknown[], Made>(
    derive: (...given: Given) => Made,
    at: number,
  ): ((...given: Given) => Made) =>
  (...given) => {
    left -= Math.max(1, Number(given[at]));
    if (!(left >= 0)) throw new TooManyRounds();
    return derive(...given);
  };

interface Derivations {
  pkcs5: { pbkdf2: (...given: unknown[]) => unknown };
  pbe: { generatePkcs12Key: (...given: unknown[]) => unknown };
  pkcs12: { generateKey: (...given: unknown[]) => unknown };
}

const derivations = forge as unknown as Derivations;
derivations.pkcs5.pbkdf2 = limited(derivations.pkcs5.pbkdf2, 2);
derivations.pbe.generatePkcs12Key = limited(derivations.pbe.generatePkcs12Key, 3);
derivations.pkcs12.generateKey = limited(derivations.pkcs12.generateKey, 3);

/** Opens a PKCS #12 file (RFC 7292): its certificates and PKCS #8 keys, as DER. @throws Problem 422 beside `pkcs12` or `password` */
export function openPkcs12(
  base64: string,
  password: string,
): { readonly certificates: readonly Buffer[]; readonly keys: readonly Buffer[] } {
  left = MOST_ROUNDS;
  const asn1 = ((): forge.asn1.Asn1 => {
    try {
      return forge.asn1.fromDer(forge.util.decode64(base64));
    } catch {
      throw unusable('pkcs12', 'is no PKCS #12 file');
    }
  })();
  const file = ((): forge.pkcs12.Pkcs12Pfx => {
    try {
      return forge.pkcs12.pkcs12FromAsn1(asn1, password);
    } catch (error) {
      if (error instanceof TooManyRounds)
        throw unusable('pkcs12', 'is encrypted with so many rounds that opening it takes too long');
      if (error instanceof Error && /password|MAC/i.test(error.message))
        throw unusable('password', 'does not open the file');
      throw unusable('pkcs12', 'cannot be read: export it anew, with AES and SHA-256');
    }
  })();
  const bags = file.safeContents.flatMap((one) => one.safeBags);
  if (bags.length > MOST_BAGS) throw unusable('pkcs12', `holds more than ${MOST_BAGS} certificates and keys`);
  const ofType = (...types: (string | undefined)[]): forge.pkcs12.Bag[] =>
    bags.filter((bag) => types.includes(bag.type));
  const { certBag, keyBag, pkcs8ShroudedKeyBag } = forge.pki.oids;
  return {
    certificates: ofType(certBag).map((bag) => derOf(bag, 'cert')),
    keys: ofType(keyBag, pkcs8ShroudedKeyBag).map((bag) => derOf(bag, 'key')),
  };
}

/** The bytes of what is in a bag: forge opens the bag, and knows RSA alone of what is in it. */
function derOf({ cert, key, asn1 }: forge.pkcs12.Bag, what: 'cert' | 'key'): Buffer {
  const held =
    what === 'cert' && cert
      ? forge.pki.certificateToAsn1(cert)
      : what === 'key' && key
        ? forge.pki.wrapRsaPrivateKey(forge.pki.privateKeyToAsn1(key))
        : asn1;
  return Buffer.from(forge.asn1.toDer(held).getBytes(), 'binary');
}
