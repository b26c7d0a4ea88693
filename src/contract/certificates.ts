import Joi from 'joi';
import { customerParams, reason } from './common';
import { endpoint, question } from './endpoint';
import {
  filled,
  flag,
  listOf,
  maybe,
  maybeText,
  maybeWhole,
  shape,
  text,
  texts,
  whole,
  type Of,
} from './shape';

/** A certificate that is kept for a customer, newest first; its key is never told. */
export const keptCertificateSchema = shape({
  fingerprint: text,
  subject: text,
  issuer: text,
  names: listOf(text),
  from: whole,
  until: whole,
  keptAt: whole,
  by: text,
});
export type KeptCertificate = Of<typeof keptCertificateSchema>;

/** A gateway of theirs at a site, and with what it answers. */
export const gatewaySiteSchema = shape({
  site: text,
  siteName: text,
  environment: text,
  /** Fingerprint of the one that it answers with; null: there is no gateway yet, or it has none. */
  serves: maybeText,
  underWay: flag,
});

export const gatewaySchema = shape({
  /** The name that people sign in at; empty: none of their own. */
  name: text,
  certificates: listOf(keptCertificateSchema),
  sites: listOf(gatewaySiteSchema),
});
export type Gateway = Of<typeof gatewaySchema>;

const MOST = 60_000;

/** A certificate with its key: as text (PEM), or as a file (PKCS #12) with its password. */
const sent = {
  pem: filled(
    Joi.string().allow('').max(MOST).description('Certificate, its issuers and its key, as PEM'),
    '',
  ),
  pkcs12: filled(
    Joi.string().base64().allow('').max(MOST).description('The same as one PKCS #12 file, in base64'),
    '',
  ),
  password: filled(Joi.string().allow('').max(200).description('What the file was closed with'), ''),
};
export const sentCertificateSchema = shape(sent);
export type SentCertificate = Of<typeof sentCertificateSchema>;

/** What was read, and what is wrong with it, beside the field where it was made. */
export const readCertificateSchema = shape({
  found: maybe(
    shape({
      fingerprint: text,
      subject: text,
      issuer: text,
      names: listOf(text),
      from: whole,
      until: whole,
      /** Who signed it, and who signed that, up to the root. */
      chain: listOf(text),
    }),
  ),
  faults: texts,
  /** Days until it ends. */
  days: maybeWhole,
});
export type ReadCertificate = Of<typeof readCertificateSchema>;

const area = 'Gateways';
const right = 'build';

export const certificateEndpoints = {
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}/gateway',
    area,
    summary:
      'Where their people sign in, the certificates that are kept for it, and what each site answers with',
    params: customerParams,
    answer: gatewaySchema,
  }),
  look: question({
    path: '/customers/{customer}/certificates/reading',
    area,
    summary: 'What a certificate says of itself and what is wrong with it; keeps nothing',
    params: customerParams,
    right,
    body: sentCertificateSchema,
    answer: readCertificateSchema,
  }),
  keep: endpoint({
    method: 'POST',
    path: '/customers/{customer}/certificates',
    area,
    summary: 'Keeps a certificate with its key, to be served by `serve-certificate`; the key is sealed',
    params: customerParams,
    right,
    body: shape({ ...sent, reason }),
    status: 201,
    answer: shape({ fingerprint: text }),
  }),
};
