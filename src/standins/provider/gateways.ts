import { createHash, createPrivateKey, X509Certificate } from 'node:crypto';
import { createSecureContext, createServer, type SecureContext, type Server } from 'node:tls';
import type { AddressInfo } from 'node:net';
import type { Store } from '../kit/database';
import { Refusal } from '../kit/server';
import type { Attributes, Resource } from './resource';

/** Takes in a certificate with its key. @returns its fingerprint @throws Refusal 422 when they do not belong together */
export async function keepCertificate(store: Store, { chain, key }: Attributes): Promise<string> {
  const [leaf, secret] = [String(chain ?? ''), String(key ?? '')];
  try {
    const certificate = new X509Certificate(leaf);
    if (!certificate.checkPrivateKey(createPrivateKey(secret))) throw new Error('another key');
    createSecureContext({ cert: leaf, key: secret });
  } catch {
    throw new Refusal(422, 'certificate', 'certificate and key do not belong together');
  }
  const fingerprint = fingerprintOf(leaf);
  await store.write('INSERT IGNORE INTO certificate (fingerprint, chain, secret) VALUES (?, ?, ?)', [
    fingerprint,
    leaf,
    secret,
  ]);
  return fingerprint;
}

const fingerprintOf = (pem: string): string =>
  createHash('sha256').update(new X509Certificate(pem).raw).digest('hex');

/** What a gateway is once it was given a certificate: it answers with that, and has the one before still. */
export const withCertificate = ({ attrs }: Resource, fingerprint: string, takesIt: boolean): Attributes => ({
  certificate: takesIt ? fingerprint : (attrs.certificate ?? ''),
  certificates: [...new Set([...listOf(attrs.certificates), fingerprint])],
});

export const onlyItsOwn = ({ attrs }: Resource): Attributes => ({
  certificates: listOf(attrs.certificates).filter((one) => one === attrs.certificate),
});

const listOf = (value: unknown): string[] => (Array.isArray(value) ? value.map(String) : []);

/** Answers for all gateways, each under its own name, with the certificate that it has in use. */
export async function listenForGateways(store: Store): Promise<{ server: Server; listens: string }> {
  const server = createServer({
    SNICallback: (name, done) => {
      contextFor(store, name).then(
        (context) => done(context ? null : new Error(`nobody is ${name} here`), context),
        (error: unknown) => done(error instanceof Error ? error : new Error(String(error))),
      );
    },
  });
  // Whoever breaks off breaks off.
  server.on('tlsClientError', () => undefined);
  server.on('secureConnection', (socket) => {
    socket.on('error', () => undefined);
    socket.end();
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return { server, listens: `127.0.0.1:${(server.address() as AddressInfo).port}` };
}

async function contextFor(store: Store, name: string): Promise<SecureContext | undefined> {
  const row = await store.row<{ chain: string; secret: string }>(
    `SELECT c.chain, c.secret FROM resource r JOIN certificate c ON c.fingerprint = JSON_VALUE(r.attrs, '$.certificate')
     WHERE r.kind = 'gateway' AND r.state <> 'gone' AND JSON_VALUE(r.attrs, '$.dnsName') = ? LIMIT 1`,
    [name],
  );
  return row && createSecureContext({ cert: row.chain, key: row.secret });
}
