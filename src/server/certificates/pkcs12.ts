import forge from 'node-forge';
import { unusable } from '../problem';

/** What a file may ask of us before it is opened: about a second's work. */
const MOST_ROUNDS = { pbkdf2: 2_000_000, pkcs12: 100_000 } as const;

class TooManyRounds extends Error {}

/** A file says itself how many rounds its password goes through: one made by an attacker would hold us for hours. */
const limited =
  <Given extends readonly unknown[], Made>(
    derive: (...given: Given) => Made,
    at: number,
    most: number,
  ): ((...given: Given) => Made) =>
  (...given) => {
    if (Number(given[at]) > most) throw new TooManyRounds();
    return derive(...given);
  };

interface Derivations {
  pkcs5: { pbkdf2: (...given: unknown[]) => unknown };
  pbe: { generatePkcs12Key: (...given: unknown[]) => unknown };
  pkcs12: { generateKey: (...given: unknown[]) => unknown };
}

const derivations = forge as unknown as Derivations;
derivations.pkcs5.pbkdf2 = limited(derivations.pkcs5.pbkdf2, 2, MOST_ROUNDS.pbkdf2);
derivations.pbe.generatePkcs12Key = limited(derivations.pbe.generatePkcs12Key, 3, MOST_ROUNDS.pkcs12);
derivations.pkcs12.generateKey = limited(derivations.pkcs12.generateKey, 3, MOST_ROUNDS.pkcs12);

/** Opens a PKCS #12 file (RFC 7292): its certificates and PKCS #8 keys, as DER. @throws Problem 422 beside `pkcs12` or `password` */
export function openPkcs12(
  base64: string,
  password: string,
): { readonly certificates: readonly Buffer[]; readonly keys: readonly Buffer[] } {
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
        throw unusable('pkcs12', 'is closed with so many rounds that opening it would take minutes');
      if (error instanceof Error && /password|MAC/i.test(error.message))
        throw unusable('password', 'does not open the file');
      throw unusable('pkcs12', 'cannot be read: export it anew, with AES and SHA-256');
    }
  })();
  const bags = file.safeContents.flatMap((one) => one.safeBags);
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
