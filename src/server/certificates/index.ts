import type { Gateway, KeptCertificate, ReadCertificate, SentCertificate } from '../../contract';
import { certificateFaults, certificateReminder, daysLeft, endOf } from '../../core/certificates';
import type { GatewayFacts } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import type { CustomerScope, Scope, SealPlace } from '../access';
import { refuseGone } from '../customers';
import { newId, type Connection } from '../db';
import { notFound, Problem } from '../problem';
import { UNSETTLED } from '../runs';
import { write, type WriteHouse } from '../write';
import { inThread } from '../threads';
import { certificateTask } from './thread';

interface Stored extends Omit<KeptCertificate, 'names'> {
  readonly names: string;
}

/** Those that are kept, the newest first: that one is to be served. */
const keptOf = async (db: Connection, { customer }: CustomerScope): Promise<KeptCertificate[]> =>
  (
    await db.rows<Stored>(
      `SELECT fingerprint, subject, issuer, names, from_at AS \`from\`, until_at AS until, kept_at AS keptAt, actor AS \`by\`
       FROM certificate WHERE customer_id = ? ORDER BY id DESC`,
      [customer.id],
    )
  ).map((row) => ({ ...row, names: JSON.parse(row.names) as string[] }));

async function gatewayNameOf(db: Connection, { customer }: CustomerScope): Promise<string> {
  const row = await db.row<{ name: string | null }>(
    'SELECT gateway_name AS name FROM customer WHERE id = ?',
    [customer.id],
  );
  if (!row) throw notFound('customer');
  return row.name ?? '';
}

/** Where a customer's people come in, as what is built for them goes by it; undefined: nowhere of its own. */
export async function gatewayFacts(db: Connection, scope: CustomerScope): Promise<GatewayFacts | undefined> {
  const [name, [newest]] = await Promise.all([gatewayNameOf(db, scope), keptOf(db, scope)]);
  if (name === '' || !newest) return undefined;
  return { name, certificate: newest.fingerprint, until: newest.until };
}

/** What someone should know of the certificate that is to be served. */
export async function certificateSays(db: Connection, scope: CustomerScope, now: number): Promise<string[]> {
  const facts = await gatewayFacts(db, scope);
  const says = facts && certificateReminder(facts.name, facts.until, now);
  return says === undefined ? [] : [says];
}

export async function readGateway(db: Connection, scope: CustomerScope): Promise<Gateway> {
  const [name, certificates, rows] = await Promise.all([
    gatewayNameOf(db, scope),
    keptOf(db, scope),
    db.rows<{
      site: string;
      siteName: string;
      environment: string;
      present: string | null;
      unsettled: number | null;
    }>(
      `SELECT s.code AS site, s.name AS siteName, MIN(e.id) AS environment, p.attributes AS present,
         IF(r.id IS NULL, NULL, ${UNSETTLED}) AS unsettled
       FROM environment e JOIN site s ON s.code = e.site_code
         LEFT JOIN resource r ON r.customer_id = e.customer_id AND r.site_code = e.site_code AND r.kind = 'gateway'
           AND r.returned_at IS NULL
         LEFT JOIN present_resource p ON p.customer_id = r.customer_id AND p.resource_id = r.id AND p.gone_at IS NULL
       WHERE e.customer_id = ? AND e.wanted = 'serving' AND e.holds = 'desktops' GROUP BY s.code, s.name, p.ref, r.id ORDER BY s.name`,
      [scope.customer.id],
    ),
  ]);
  return {
    name,
    certificates,
    sites: rows.map(({ present, unsettled, ...site }) => ({
      ...site,
      serves: servedBy(JSON.parse(present ?? '{}') as Attributes),
      underWay: unsettled === 1,
    })),
  };
}

const servedBy = ({ certificate }: Attributes): string | null =>
  typeof certificate === 'string' && certificate !== '' ? certificate : null;

/** What was sent, looked at and not kept. */
export async function lookAt(
  db: Connection,
  scope: CustomerScope,
  sent: SentCertificate,
  now: number,
): Promise<ReadCertificate> {
  try {
    const { chain } = await inThread(certificateTask, sent);
    const { names, subject, issuer, from, fingerprint } = chain.leaf;
    const until = endOf(chain);
    return {
      found: {
        fingerprint,
        subject,
        issuer,
        names,
        from,
        until,
        chain: chain.issuers.map((one) => one.subject),
      },
      faults: faultsOf(certificateFaults(chain, await gatewayNameOf(db, scope), now), sent),
      days: daysLeft(until, now),
    };
  } catch (error) {
    if (error instanceof Problem && error.more.fields)
      return { found: null, faults: error.more.fields, days: null };
    throw error;
  }
}

/** Each beside the field where it was sent; the gravest of a field stands there. */
function faultsOf(
  faults: readonly { readonly field: string; readonly says: string }[],
  sent: SentCertificate,
): Record<string, string> {
  const field = sent.pkcs12 === '' ? 'pem' : 'pkcs12';
  const says = faults.map((one) => (one.field === 'key' ? `its key ${one.says}` : one.says));
  return says.length === 0 ? {} : { [field]: says.join('; ') };
}

/**
 * Keeps a certificate with its key, sealed. It is served once someone has it served.
 * @throws Problem 422 beside the field that cannot be used, 409 when it is kept already
 */
export async function keepCertificate(
  house: WriteHouse,
  scope: CustomerScope,
  { reason, ...sent }: SentCertificate & { readonly reason: string },
): Promise<{ fingerprint: string }> {
  const { chain, pem, key } = await inThread(certificateTask, sent);
  const now = house.clock.now();
  const { id: customerId } = scope.customer;
  return write(house, scope, [{ table: 'customer', key: { id: customerId } }], async (tx) => {
    await refuseGone(tx, scope);
    const faults = faultsOf(certificateFaults(chain, await gatewayNameOf(tx, scope), now), sent);
    if (Object.keys(faults).length > 0)
      throw new Problem(422, 'invalid', 'Some of what was sent cannot be used.', { fields: faults });
    const { fingerprint, subject, issuer, names, from } = chain.leaf;
    const until = endOf(chain);
    const [newest] = await keptOf(tx, scope);
    if (newest?.fingerprint === fingerprint)
      throw new Problem(409, 'kept', 'It is kept already, and to be served.');
    await tx.write('DELETE FROM certificate WHERE customer_id = ? AND fingerprint = ?', [
      customerId,
      fingerprint,
    ]);
    await tx.write(
      `INSERT INTO certificate (customer_id, id, fingerprint, subject, issuer, names, from_at, until_at, chain, key_sealed,
         kept_at, actor) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      [
        customerId,
        newId(),
        fingerprint,
        subject,
        issuer,
        JSON.stringify(names),
        from,
        until,
        pem,
        house.sealing.seal(key, keyPlace(customerId, fingerprint)),
        now,
        scope.actor.name,
      ],
    );
    await tx.record({
      action: 'keep certificate',
      subject: names[0] ?? subject,
      before: newest ? { fingerprint: newest.fingerprint, until: newest.until } : null,
      after: { fingerprint, issuer, until },
      reason,
      topic: 'summary',
      id: scope.customer.code,
    });
    return { fingerprint };
  });
}

const keyPlace = (customer: string, fingerprint: string): SealPlace => [
  'certificate key',
  customer,
  fingerprint,
];

/** A certificate with its key, as a gateway is given it; undefined: none of this fingerprint is kept for them. */
export async function certificateToServe(
  { db, sealing }: Pick<WriteHouse, 'db' | 'sealing'>,
  { customer }: CustomerScope,
  fingerprint: string,
): Promise<{ readonly chain: string; readonly key: string } | undefined> {
  const row = await db.row<{ chain: string; key_sealed: Buffer }>(
    'SELECT chain, key_sealed FROM certificate WHERE customer_id = ? AND fingerprint = ?',
    [customer.id, fingerprint],
  );
  return row && { chain: row.chain, key: sealing.unseal(row.key_sealed, keyPlace(customer.id, fingerprint)) };
}

/** Nobody needs the keys of who has left any more. */
export const forgetCertificates = (tx: Connection, { customer }: CustomerScope): Promise<number> =>
  tx.write('DELETE FROM certificate WHERE customer_id = ?', [customer.id]);

/** Seals the keys with the key that seals now. @returns how many those were */
export const sealCertificatesAnew = (house: WriteHouse, scope: Scope): Promise<number> =>
  write(house, scope, [], async (tx) => {
    const rows = await tx.rows<{ customer_id: string; id: string; fingerprint: string; key_sealed: Buffer }>(
      'SELECT customer_id, id, fingerprint, key_sealed FROM certificate FOR UPDATE',
    );
    const old = rows
      .map((row) => ({ ...row, place: keyPlace(row.customer_id, row.fingerprint) }))
      .filter((row) => !house.sealing.isSealedNow(row.key_sealed, row.place));
    for (const { customer_id, id, key_sealed, place } of old)
      await tx.write('UPDATE certificate SET key_sealed = ? WHERE customer_id = ? AND id = ?', [
        house.sealing.seal(house.sealing.unseal(key_sealed, place), place),
        customer_id,
        id,
      ]);
    return old.length;
  });
