import {
  BEAT_MS,
  commonAgent,
  peopleHit,
  signsOf,
  type Heard,
  type Sign,
  type SignKey,
} from '../../core/signs';
import type { App } from '../app';
import { insertMany, join, newId, raw, sql, transaction, type Connection, type Value } from '../db';
import { tell } from '../live';
import type { Connected, Provider } from '../providers';
import { ASKED_FOR } from '../runs';
import { markStale } from '../write';
import { unmentioned } from './unmentioned';

/** A sign that is noted already. */
interface Open {
  readonly customer_id: string;
  readonly id: string;
  readonly ref: string;
  readonly kind: SignKey;
  readonly harm: string;
  readonly says: string;
  readonly people: number;
}

/** A host that shows signs. */
interface Shown {
  readonly heard: Heard;
  readonly signs: readonly Sign[];
}

interface Host {
  readonly customer_id: string;
  readonly resource_id: string;
  readonly ref: string;
  readonly site_code: string;
  readonly node: string | null;
  readonly accounts: string | null;
  readonly is_busy: number;
}

/** So many hosts are looked up at a time. */
const CHUNK = 500;
/** Who was counted out from so shortly before a host was last heard was in when it fell silent: clocks differ a little. */
const SHORTLY_MS = BEAT_MS;

/**
 * Reads what a provider's hosts say of themselves: signs that have begun, changed or ended are noted, and whom they concern
 * is told. Where the provider does not answer, what was known stays.
 */
export async function readSigns(app: App, provider: Connected): Promise<void> {
  const { code, port } = provider;
  const { entries, mentioned, askedAt } = await hear(port);
  const open = await notedSigns(app.db, code);
  const silent = new Set([...open].flatMap(([ref, kinds]) => (kinds.has('silent') ? [ref] : [])));
  const heard = [...entries, ...(await unmentioned(app.db, provider, mentioned, askedAt, silent))];
  const shown = shownBy(heard, open);
  const hosts = await hostsOf(app.db, code, shown);
  await transaction(app.db, async (connection) => {
    const touched = new Set<string>();
    const lasting = new Set<string>();
    const begun: Value[][] = [];
    for (const [ref, { heard: said, signs }] of shown) {
      const host = hosts.get(ref);
      if (!host) continue;
      for (const sign of signs) {
        const before = open.get(ref)?.get(sign.kind);
        if (before) {
          lasting.add(before.id);
          if (await changed(connection, before, sign, host.people)) touched.add(before.customer_id);
        } else if (sign.kind !== 'silent' || !host.isBusy) {
          begun.push(rowOf(code, host, sign, said));
          touched.add(host.customerId);
        }
      }
    }
    // Another worker may have noted one of them already.
    await insertMany(connection, 'sign', COLUMNS, begun, 'ON DUPLICATE KEY UPDATE says = VALUES(says)');
    const over = [...open.values()].flatMap((kinds) =>
      [...kinds.values()].filter(({ id }) => !lasting.has(id)),
    );
    await end(connection, over, app.clock.now());
    for (const one of over) touched.add(one.customer_id);
    await markStale(connection, touched);
    for (const customerId of touched) {
      await tell(connection, customerId, 'environment', customerId, app.clock.wall());
      await tell(connection, customerId, 'summary', customerId, app.clock.wall());
    }
  });
}

interface Beats {
  readonly entries: readonly (Heard & { readonly host: string })[];
  /** All that the provider says run, also those whose words could not be understood. */
  readonly mentioned: ReadonlySet<string>;
  /** When the last of them were asked for. */
  readonly askedAt: number;
}

async function hear(port: Provider): Promise<Beats> {
  const entries: (Heard & { readonly host: string })[] = [];
  const mentioned = new Set<string>();
  let askedAt = 0;
  for (let after: string | null = ''; after !== null;) {
    const page: Awaited<ReturnType<Provider['beats']>> = await port.beats(after);
    askedAt = page.askedAt;
    for (const host of page.mentioned) mentioned.add(host);
    entries.push(...page.entries.map((one) => ({ ...one, askedAt: page.askedAt, isMentioned: true })));
    after = page.next;
  }
  return { entries, mentioned, askedAt };
}

function shownBy(
  heard: readonly (Heard & { readonly host: string })[],
  open: ReadonlyMap<string, ReadonlyMap<SignKey, Open>>,
): Map<string, Shown> {
  const among = { agent: commonAgent(heard) };
  const shown = new Map<string, Shown>();
  for (const one of heard) {
    const signs = signsOf(one, new Set(open.get(one.host)?.keys()), among);
    if (signs.length > 0) shown.set(one.host, { heard: one, signs });
  }
  return shown;
}

async function notedSigns(db: Connection, provider: string): Promise<Map<string, Map<SignKey, Open>>> {
  const rows = await db.rows<Open>(
    sql`SELECT customer_id, id, ref, kind, harm, says, people FROM sign
        WHERE provider_code = ${provider} AND ended_at IS NULL`,
  );
  const open = new Map<string, Map<SignKey, Open>>();
  for (const row of rows)
    open.set(row.ref, (open.get(row.ref) ?? new Map<SignKey, Open>()).set(row.kind, row));
  return open;
}

/** A customers' host that shows signs, and how many people that hits. */
interface Found {
  readonly customerId: string;
  readonly resourceId: string;
  readonly ref: string;
  readonly site: string;
  readonly node: string | null;
  readonly people: number;
  /** Whether a run works on it: then it is silent because of that. */
  readonly isBusy: boolean;
}

/** Of those that show signs, the customers' hosts that are wanted and stand. */
async function hostsOf(
  db: Connection,
  provider: string,
  shown: ReadonlyMap<string, Shown>,
): Promise<Map<string, Found>> {
  const refs = [...shown.keys()];
  const found = new Map<string, Found>();
  for (let at = 0; at < refs.length; at += CHUNK) {
    const some = refs.slice(at, at + CHUNK);
    const rows = await db.rows<Host>(
      sql`SELECT r.customer_id, r.id AS resource_id, p.ref, p.site_code, p.node,
            (SELECT JSON_ARRAYAGG(s.account) FROM session s WHERE s.customer_id = p.customer_id
               AND s.provider_code = p.provider_code AND s.host_ref = p.ref) AS accounts,
            EXISTS (SELECT 1 FROM step t WHERE t.customer_id = r.customer_id AND t.resource_id = r.id
               AND t.state = 'working') AS is_busy
          FROM present_resource p
            JOIN resource r ON r.customer_id = p.customer_id AND r.id = p.resource_id AND r.ref = p.ref
            JOIN customer c ON c.id = p.customer_id AND c.kind = 'customer'
          WHERE p.provider_code = ${provider} AND p.present_condition IN ('well','unwell') AND r.kind = 'host'
            AND r.wanted AND r.returned_at IS NULL AND ${raw(ASKED_FOR)} AND p.ref IN (${join(some)})`,
    );
    const lost = await lostOn(
      db,
      provider,
      some.flatMap((ref) => silentSince(ref, shown)),
    );
    for (const row of rows)
      found.set(row.ref, {
        customerId: row.customer_id,
        resourceId: row.resource_id,
        ref: row.ref,
        site: row.site_code,
        node: row.node,
        people: new Set([
          ...(JSON.parse(row.accounts ?? '[]') as string[]),
          ...(lost.get(`${row.customer_id} ${row.ref}`) ?? []),
        ]).size,
        isBusy: row.is_busy === 1,
      });
  }
  return found;
}

interface Silence {
  readonly ref: string;
  readonly since: number;
}

function silentSince(ref: string, shown: ReadonlyMap<string, Shown>): Silence[] {
  const one = shown.get(ref);
  return one?.signs.some(({ kind }) => kind === 'silent') === true ? [{ ref, since: one.heard.heardAt }] : [];
}

/** Who was in on hosts when they fell silent: their accounts, by customer and host. */
async function lostOn(
  db: Connection,
  provider: string,
  silent: readonly Silence[],
): Promise<Map<string, string[]>> {
  const lost = new Map<string, string[]>();
  if (silent.length === 0) return lost;
  const since = new Map(silent.map((one) => [one.ref, one.since - SHORTLY_MS]));
  const rows = await db.rows<{ customer_id: string; ref: string; account: string; ended_at: number }>(
    sql`SELECT customer_id, host_ref AS ref, account, ended_at FROM session_past WHERE provider_code = ${provider}
        AND host_ref IN (${join([...since.keys()])}) AND ended_at >= ${Math.min(...since.values())}`,
  );
  for (const { customer_id, ref, account, ended_at } of rows) {
    if (ended_at < (since.get(ref) ?? Infinity)) continue;
    const key = `${customer_id} ${ref}`;
    lost.set(key, [...(lost.get(key) ?? []), account]);
  }
  return lost;
}

const COLUMNS = [
  'customer_id',
  'id',
  'resource_id',
  'provider_code',
  'ref',
  'site_code',
  'node',
  'kind',
  'harm',
  'closes',
  'says',
  'people',
  'since',
] as const;

const rowOf = (provider: string, host: Found, sign: Sign, heard: Heard): Value[] => [
  host.customerId,
  newId(),
  host.resourceId,
  provider,
  host.ref,
  host.site,
  host.node,
  sign.kind,
  sign.harm,
  sign.closes,
  sign.says.slice(0, MOST_SAID),
  host.people,
  sign.kind === 'silent' ? heard.heardAt : heard.askedAt,
];
const MOST_SAID = 160;

/** A sign that lasts. @returns whether that is worth telling */
async function changed(connection: Connection, before: Open, sign: Sign, now: number): Promise<boolean> {
  const people = peopleHit(sign.harm, before.people, now);
  const says = sign.says.slice(0, MOST_SAID);
  const isTold = before.harm !== sign.harm || before.people !== people;
  if (isTold || before.says !== says)
    await connection.write(
      sql`UPDATE sign SET harm = ${sign.harm}, closes = ${sign.closes}, says = ${says}, people = ${people}
          WHERE customer_id = ${before.customer_id} AND id = ${before.id} AND ended_at IS NULL`,
    );
  return isTold;
}

async function end(connection: Connection, over: readonly Open[], now: number): Promise<void> {
  for (const { customer_id, id } of over)
    await connection.write(
      sql`UPDATE sign SET ended_at = GREATEST(since, ${now})
          WHERE customer_id = ${customer_id} AND id = ${id} AND ended_at IS NULL`,
    );
}
