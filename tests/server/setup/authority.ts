import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

export interface MadeCertificate {
  readonly certificate: string;
  readonly key: string;
  /** Those that signed it, the nearest first; the root last. */
  readonly issuers: readonly string[];
}

/** Of which kind its key is. */
type Kind = 'EC' | 'RSA';
const KEYS: Readonly<Record<Kind, readonly string[]>> = {
  EC: ['-algorithm', 'EC', '-pkeyopt', 'ec_paramgen_curve:P-256'],
  RSA: ['-algorithm', 'RSA', '-pkeyopt', 'rsa_keygen_bits:2048'],
};

/** From when until when, in ms. */
export interface Span {
  readonly from: number;
  readonly until: number;
}

const CONFIG = `[ca]
default_ca = own
[own]
dir = .
new_certs_dir = .
database = index.txt
serial = serial
default_md = sha256
policy = any
copy_extensions = none
unique_subject = no
[any]
commonName = supplied
[req]
distinguished_name = dn
[dn]
[signs]
basicConstraints = critical,CA:TRUE
keyUsage = critical,keyCertSign,cRLSign
`;

/** Certificates as an authority makes them with OpenSSL: a root, one between, and leaves. Its files go when it is closed. */
export function openAuthority(whole: Span): {
  leaf(names: readonly string[], span: Span, kind?: Kind): MadeCertificate;
  pkcs12(of: MadeCertificate, password: string, rounds?: number): string;
  close(): void;
} {
  const folder = mkdtempSync(join(tmpdir(), 'authority-'));
  const openssl = (...args: string[]): void =>
    void execFileSync('openssl', args, { cwd: folder, stdio: ['ignore', 'ignore', 'pipe'] });
  const read = (file: string): string => readFileSync(join(folder, file), 'utf8');
  const put = (file: string, text: string): void => writeFileSync(join(folder, file), text);
  const stamp = (at: number): string =>
    new Date(at)
      .toISOString()
      .replace(/\.\d+Z$/, 'Z')
      .replace(/[-:T]/g, '');
  put('index.txt', '');
  put('serial', '1000');

  const make = (
    name: string,
    by: string,
    span: Span,
    section: string,
    extensions = '',
    kind: Kind = 'EC',
  ): void => {
    put('ca.cnf', `${CONFIG}[leaf]\n${extensions}`);
    openssl('genpkey', ...KEYS[kind], '-out', `${name}.key`);
    openssl(
      'req',
      '-new',
      '-config',
      'ca.cnf',
      '-key',
      `${name}.key`,
      '-subj',
      `/CN=${name}`,
      '-out',
      `${name}.csr`,
    );
    openssl(
      ...['ca', '-batch', '-notext', '-config', 'ca.cnf', '-extensions', section, '-in', `${name}.csr`],
      ...['-out', `${name}.pem`, '-keyfile', `${by}.key`],
      ...(by === name ? ['-selfsign'] : ['-cert', `${by}.pem`]),
      ...['-startdate', stamp(span.from), '-enddate', stamp(span.until)],
    );
  };
  make('root', 'root', whole, 'signs');
  make('between', 'root', whole, 'signs');
  let count = 0;
  return {
    leaf: (names, span, kind) => {
      const name = `leaf${++count}`;
      const listed = names.map((one) => `DNS:${one}`).join(',');
      make(name, 'between', span, 'leaf', `basicConstraints = CA:FALSE\nsubjectAltName = ${listed}\n`, kind);
      return {
        certificate: read(`${name}.pem`),
        key: read(`${name}.key`),
        issuers: [read('between.pem'), read('root.pem')],
      };
    },
    pkcs12: ({ certificate, key, issuers }, password, rounds = 2_048) => {
      put('p.pem', certificate);
      put('p.key', key);
      put('p.chain', issuers.join(''));
      openssl(
        ...['pkcs12', '-export', '-in', 'p.pem', '-inkey', 'p.key', '-certfile', 'p.chain'],
        ...['-iter', String(rounds), '-passout', `pass:${password}`, '-out', 'p.p12'],
      );
      return readFileSync(join(folder, 'p.p12')).toString('base64');
    },
    close: () => rmSync(folder, { recursive: true }),
  };
}
