import { siteChanges, type ReadNode, type SiteReading } from '../../core/ground';
import { join, newId, sql, type Connection } from '../db';
import type { ProviderPrices, ProviderSite } from './port';

/** A provider as it is kept; its secret is sealed. */
export interface StoredProvider {
  readonly code: string;
  readonly name: string;
  readonly url: string;
  readonly account: string;
  readonly secret_sealed: Buffer;
  readonly secret_ends_at: number | null;
  readonly sign_in_works: number;
  readonly sign_in_says: string;
  readonly answered_wall: number | null;
  readonly feed_place: string;
  readonly session_place: string | null;
}

const ROW = `SELECT code, name, url, account, secret_sealed, secret_ends_at, sign_in_works, sign_in_says, answered_wall, feed_place,
    session_place
  FROM provider`;

export const allProviders = (db: Connection): Promise<StoredProvider[]> =>
  db.rows<StoredProvider>(`${ROW} ORDER BY code`);

export const providerNamed = (db: Connection, code: string): Promise<StoredProvider | undefined> =>
  db.row<StoredProvider>(`${ROW} WHERE code = ?`, [code]);

/** What of a connection can be kept otherwise, without its secret; null: there is none. */
export async function keptConnection(db: Connection, code: string): Promise<KeptConnection | null> {
  const row = await providerNamed(db, code);
  return row
    ? { name: row.name, url: row.url, account: row.account, secretEndsAt: row.secret_ends_at }
    : null;
}

type KeptConnection = Pick<StoredProvider, 'name' | 'url' | 'account'> & {
  readonly secretEndsAt: number | null;
};

export const providerOfSite = (db: Connection, site: string): Promise<StoredProvider | undefined> =>
  db.row<StoredProvider>(`${ROW} WHERE code = (SELECT provider_code FROM site WHERE code = ?)`, [site]);

export async function keepProvider(
  db: Connection,
  provider: Pick<StoredProvider, 'code' | 'name' | 'url' | 'account' | 'secret_sealed' | 'secret_ends_at'>,
): Promise<void> {
  await db.write(
    `INSERT INTO provider (code, name, url, account, secret_sealed, secret_ends_at) VALUES (?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE name = VALUES(name), url = VALUES(url), account = VALUES(account),
       secret_sealed = VALUES(secret_sealed), secret_ends_at = VALUES(secret_ends_at)`,
    [
      provider.code,
      provider.name,
      provider.url,
      provider.account,
      provider.secret_sealed,
      provider.secret_ends_at,
    ],
  );
}

/** Wall milliseconds for which a good answer is not noted again. */
const FRESH_MS = 5_000;

/** Notes how signing in went. Where it went as it did a moment ago, nothing is written: many propose at the same time. */
export async function noteSignIn(
  db: Connection,
  code: string,
  outcome: { readonly worked: boolean; readonly says: string },
  wall: number,
): Promise<void> {
  const says = outcome.says.slice(0, 250);
  const known = await db.row<{ works: number; says: string; answered: number | null }>(
    'SELECT sign_in_works AS works, sign_in_says AS says, answered_wall AS answered FROM provider WHERE code = ?',
    [code],
  );
  const same = known?.works === 1 && outcome.worked && known.says === says;
  if (same && Math.abs(wall - (known.answered ?? 0)) < FRESH_MS) return;
  await db.write(
    `UPDATE provider SET sign_in_works = ?, sign_in_says = ?, tried_wall = ?,
       answered_wall = IF(?, ?, answered_wall) WHERE code = ?`,
    [outcome.worked, says, wall, outcome.worked, wall, code],
  );
}

export const noteAnswer = (db: Connection, code: string, wall: number): Promise<number> =>
  db.write('UPDATE provider SET answered_wall = ? WHERE code = ?', [wall, code]);

export const moveFeedPlace = (db: Connection, code: string, from: string, to: string): Promise<number> =>
  db.write('UPDATE provider SET feed_place = ? WHERE code = ? AND feed_place = ?', [to, code, from]);

/** @param from where it stood when it was read; it is left there by whoever finds it elsewhere */
export const moveSessionPlace = (
  db: Connection,
  code: string,
  from: string | null,
  to: string | null,
): Promise<number> =>
  db.write('UPDATE provider SET session_place = ? WHERE code = ? AND session_place <=> ?', [to, code, from]);

/** Notes that all is known that happened there before an instant. */
export const noteReadUntil = (db: Connection, code: string, until: number): Promise<number> =>
  db.write('UPDATE provider SET read_until = GREATEST(read_until, ?) WHERE code = ?', [until, code]);

/** What was known of a site when it was last read; undefined: it is new. */
async function readingOf(db: Connection, code: string): Promise<SiteReading | undefined> {
  const row = await db.row<{ images: string; sizes: string; quota: string | null }>(
    'SELECT images, sizes, quota FROM site WHERE code = ?',
    [code],
  );
  if (!row) return undefined;
  return {
    images: JSON.parse(row.images) as SiteReading['images'],
    sizes: JSON.parse(row.sizes) as SiteReading['sizes'],
    quota: row.quota === null ? null : (JSON.parse(row.quota) as { vcpu: number }),
    nodes: await db.rows<ReadNode>(
      `SELECT id, vcpu, memory_gib AS memoryGiB, disk_gib AS diskGiB, state FROM node WHERE site_code = ?
       ORDER BY id`,
      [code],
    ),
  };
}

/** Keeps what a provider says of one of its sites, and what of it is otherwise than it was. */
export async function keepSite(
  db: Connection,
  provider: string,
  site: ProviderSite,
  now: number,
): Promise<void> {
  const before = await readingOf(db, site.code);
  await db.write(
    `INSERT INTO site (code, provider_code, name, kind, reserved_addresses, images, sizes, quota, read_at)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
     ON DUPLICATE KEY UPDATE name = VALUES(name), images = VALUES(images), sizes = VALUES(sizes),
       quota = VALUES(quota), read_at = VALUES(read_at)`,
    [
      site.code,
      provider,
      site.name,
      site.kind,
      site.reservedAddresses,
      JSON.stringify(site.images),
      JSON.stringify(site.sizes),
      site.quota && JSON.stringify(site.quota),
      now,
    ],
  );
  for (const node of site.nodes)
    await db.write(
      `INSERT INTO node (site_code, id, zone, vcpu, memory_gib, disk_gib, dedicated_to, state)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?)
       ON DUPLICATE KEY UPDATE vcpu = VALUES(vcpu), memory_gib = VALUES(memory_gib), disk_gib = VALUES(disk_gib),
         dedicated_to = VALUES(dedicated_to), state = VALUES(state)`,
      [site.code, node.id, node.zone, node.vcpu, node.memoryGiB, node.diskGiB, node.dedicatedTo, node.state],
    );
  const told = new Set(site.nodes.map((node) => node.id));
  for (const { id } of (before?.nodes ?? []).filter((node) => node.state !== 'gone' && !told.has(node.id)))
    await db.write("UPDATE node SET state = 'gone' WHERE site_code = ? AND id = ?", [site.code, id]);
  for (const change of before ? siteChanges(before, site) : [])
    await db.write(
      `INSERT INTO ground_change (id, site_code, kind, subject, before_text, after_text, at)
       VALUES (?, ?, ?, ?, ?, ?, ?)`,
      [newId(), site.code, change.kind, change.subject, change.before, change.after, now],
    );
}

/** Whether a site's code is another provider's already. */
export const siteOfOther = (
  db: Connection,
  provider: string,
  codes: readonly string[],
): Promise<{ code: string; provider: string } | undefined> =>
  codes.length === 0
    ? Promise.resolve(undefined)
    : db.row<{ code: string; provider: string }>(
        sql`SELECT s.code, p.name AS provider FROM site s JOIN provider p ON p.code = s.provider_code
         WHERE s.provider_code <> ${provider} AND s.code IN (${join(codes)}) LIMIT 1`,
      );

export const keepPrices = async (db: Connection, code: string, prices: ProviderPrices): Promise<void> =>
  void (await db.write('UPDATE provider SET prices = ? WHERE code = ?', [JSON.stringify(prices), code]));

/** What each provider asks, as it told last; those that have not told are left out. */
export async function toldPrices(db: Connection): Promise<Map<string, ProviderPrices>> {
  const rows = await db.rows<{ code: string; prices: string }>(
    'SELECT code, prices FROM provider WHERE prices IS NOT NULL',
  );
  return new Map(rows.map(({ code, prices }) => [code, JSON.parse(prices) as ProviderPrices]));
}

/** Keeps a secret sealed otherwise; one that was replaced meanwhile stays as it is. @returns how many rows that were */
export const resealSecret = (
  connection: Connection,
  code: string,
  before: Buffer,
  after: Buffer,
): Promise<number> =>
  connection.write('UPDATE provider SET secret_sealed = ? WHERE code = ? AND secret_sealed = ?', [
    after,
    code,
    before,
  ]);

/** Those who write this first, of all sites, come one after the other until each has ended its transaction. */
export const lockSites = (tx: Connection): Promise<number> =>
  tx.write('UPDATE site SET lock_no = lock_no + 1');
