import { generateKeyPairSync, randomBytes } from 'node:crypto';
import forge from 'node-forge';

interface Signer {
  readonly name: string;
  readonly certificate: forge.pki.Certificate;
  readonly key: forge.pki.rsa.PrivateKey;
}

const NAMED = 'commonName';

function newKey(): { readonly pem: string; readonly key: forge.pki.rsa.PrivateKey } {
  const pem = generateKeyPairSync('rsa', { modulusLength: 2048 }).privateKey.export({
    type: 'pkcs8',
    format: 'pem',
  }) as string;
  return { pem, key: forge.pki.privateKeyFromPem(pem) as forge.pki.rsa.PrivateKey };
}

function certify(
  name: string,
  key: forge.pki.rsa.PrivateKey,
  { from, until }: { readonly from: number; readonly until: number },
  extensions: readonly object[],
  by?: Signer,
): forge.pki.Certificate {
  const certificate = forge.pki.createCertificate();
  certificate.publicKey = forge.pki.setRsaPublicKey(key.n, key.e);
  // A positive number of less than 20 bytes (RFC 5280, section 4.1.2.2), and none that begins with needless zeros (X.690, 8.3.2).
  certificate.serialNumber = `4${randomBytes(16).toString('hex').slice(1)}`;
  certificate.validity.notBefore = new Date(from);
  certificate.validity.notAfter = new Date(until);
  certificate.setSubject([{ name: NAMED, value: name }]);
  certificate.setIssuer([{ name: NAMED, value: by?.name ?? name }]);
  certificate.setExtensions([...extensions]);
  certificate.sign(by?.key ?? key, forge.md.sha256.create());
  return certificate;
}

/** The scenario's authority, which everybody's gateways have their certificates from. */
export function openCoastAuthority(from: number): (name: string, until: number) => string {
  const name = 'Coast Signing Office';
  const { key } = newKey();
  const whole = { from, until: from + 3650 * 86_400_000 };
  const certificate = certify(name, key, whole, [
    { name: 'basicConstraints', cA: true, critical: true },
    { name: 'keyUsage', keyCertSign: true, cRLSign: true, critical: true },
  ]);
  const signer: Signer = { name, certificate, key };
  return (dnsName, until) => {
    const own = newKey();
    const leaf = certify(
      dnsName,
      own.key,
      { from, until },
      [
        { name: 'basicConstraints', cA: false },
        { name: 'subjectAltName', altNames: [{ type: 2, value: dnsName }] },
      ],
      signer,
    );
    return [forge.pki.certificateToPem(leaf), forge.pki.certificateToPem(signer.certificate), own.pem].join(
      '\n',
    );
  };
}
