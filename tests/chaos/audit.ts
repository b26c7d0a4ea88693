import { CHANGES } from '../../src/core/changes';
import type { Attributes } from '../../src/core/intent';
import { OVERRIDDEN } from '../../src/core/overrides';
import { proposeOverrides } from '../../src/server/changes';
import { differencesOf, proofOf } from '../../src/server/environments';
import type { CustomerScope } from '../../src/server/access';
import type { App } from '../../src/server/app';
import { join, sql } from '../../src/server/db';
import { IS_RETAINED } from '../../src/server/retained';
import type { FeedPage, Provider } from '../../src/server/providers';

/** What is audited: Laager, and the provider past it. */
export interface Audited {
  readonly app: App;
  provider(): Provider;
  inside(code: string): Promise<CustomerScope>;
}

type Entry = FeedPage['entries'][number];

/** Everything that a provider ever recorded, in order. */
export async function recordOf(of: Audited): Promise<Entry[]> {
  const all: Entry[] = [];
  for (let after = '0'; ;) {
    const page = await of.provider().feed(after);
    if (!page) throw new Error('the record does not go back that far');
    all.push(...page.entries);
    const last = page.entries.at(-1);
    if (!last || !page.more) return all;
    after = String(last.seq);
  }
}

/** By the provider's own word: whole seconds that each host was on, and GiB-seconds of its disk, until an instant. */
export function usedByRecord(
  entries: readonly Entry[],
  until: number,
): Map<string, { on: number; disk: number }> {
  const second = (at: number): number => Math.floor(at / 1_000);
  const used = new Map<string, { on: number; disk: number }>();
  const byRef = new Map<string, Entry[]>();
  for (const entry of entries)
    if (entry.present.kind === 'host')
      byRef.set(entry.present.ref, [...(byRef.get(entry.present.ref) ?? []), entry]);
  for (const [ref, own] of byRef) {
    const sums = { on: 0, disk: 0 };
    own.forEach((entry, index) => {
      const { state, attributes } = entry.present;
      const to = own[index + 1]?.at ?? until;
      const seconds = Math.max(0, second(Math.min(to, until)) - second(entry.at));
      if (state === 'on') sums.on += seconds;
      // A picture takes as much room as the disk that it is of.
      const disks = attributes.picture === true ? 2 : 1;
      if (state !== 'gone')
        sums.disk += seconds * disks * Number(attributes.disk_gib ?? attributes.diskGiB ?? 0);
    });
    used.set(ref, sums);
  }
  return used;
}

/** What we have metered of each host until an instant, in the same units. */
export async function usedByMeter(
  { app }: Audited,
  until: number,
): Promise<Map<string, { on: number; disk: number }>> {
  const rows = await app.db.rows<{ ref: string; on: string | null; disk: string | null }>(
    `SELECT ref,
       SUM(IF(meter = 'host' AND state = 'on', FLOOR(LEAST(IFNULL(to_at, ?), ?) / 1000) - FLOOR(from_at / 1000), 0)) AS \`on\`,
       SUM(IF(meter = 'disk', quantity * (FLOOR(LEAST(IFNULL(to_at, ?), ?) / 1000) - FLOOR(from_at / 1000)), 0)) AS disk
     FROM meter_interval WHERE provider_code = 'coast' AND meter IN ('host','disk') GROUP BY ref`,
    [until, until, until, until],
  );
  return new Map(rows.map((row) => [row.ref, { on: Number(row.on), disk: Number(row.disk) }]));
}

/** Hosts of which we have metered something else than the provider recorded, until its last entry. */
export async function wronglyMetered(of: Audited): Promise<readonly string[]> {
  const entries = await recordOf(of);
  const until = Math.floor((entries.at(-1)?.at ?? 0) / 1_000) * 1_000;
  const [record, meter] = [usedByRecord(entries, until), await usedByMeter(of, until)];
  const strange = [...meter].filter(([ref, { on, disk }]) => !record.has(ref) && on + disk > 0);
  return [
    ...[...record].flatMap(([ref, used]) => {
      const metered = meter.get(ref) ?? { on: 0, disk: 0 };
      return metered.on === used.on && metered.disk === used.disk
        ? []
        : [`${ref}: ${used.on} s on and ${used.disk} GiBs there, ${metered.on} and ${metered.disk} metered`];
    }),
    ...strange.map(([ref]) => `${ref}: metered, and never recorded`),
  ];
}

/** What is wanted of a customer and is not at the provider, or there otherwise than once; and what is there and not wanted. */
export async function notOnce(of: Audited, code: string): Promise<readonly string[]> {
  const present = await of.provider().resources({ customer: code });
  const wanted = await of.app.db.rows<{ kind: string; name: string; ref: string | null; kept: number }>(
    `SELECT r.kind, r.name, r.ref, NOT r.wanted AS kept FROM resource r JOIN customer c ON c.id = r.customer_id
     WHERE c.code = ? AND ((r.wanted AND r.returned_at IS NULL) OR ${IS_RETAINED})`,
    [code],
  );
  const here = new Set(present.map(({ ref }) => ref));
  const ours = new Set(wanted.flatMap(({ ref }) => (ref === null ? [] : [ref])));
  // What is kept for its data has its name still, which another may have by now.
  const kept = new Set(wanted.flatMap((one) => (one.kept === 1 ? [one.ref] : [])));
  const named = (kind: string, name: string): number =>
    present.filter((one) => one.kind === kind && one.name === name && !kept.has(one.ref)).length;
  return [
    ...wanted.flatMap(({ kind, name, ref }) =>
      ref === null || !here.has(ref) ? [`${kind} ${name} is wanted and not there`] : [],
    ),
    ...present.flatMap(({ kind, name, ref }) => [
      ...(ours.has(ref) ? [] : [`${kind} ${name} (${ref}) is there and not wanted`]),
      ...(named(kind, name) > 1 ? [`${kind} ${name} (${ref}) is there more than once`] : []),
    ]),
  ];
}

/** Hosts of which something else is noted as wanted than their intent and what overrides it say by now. */
export async function notFollowing(of: Audited): Promise<readonly string[]> {
  const found: string[] = [];
  for (const { id, code } of await environmentsOf(of, 'serving')) {
    const noted = await of.app.db.rows<{ key: string; attributes: string }>(
      'SELECT resource_key AS `key`, attributes FROM resource WHERE environment_id = ? AND wanted AND returned_at IS NULL',
      [id],
    );
    const said = new Map(noted.map(({ key, attributes }) => [key, JSON.parse(attributes) as Attributes]));
    const { wanted } = await proposeOverrides(of.app, await of.inside(code), id, 'power-off', (now) => now);
    for (const { key, name, attributes } of wanted)
      if (OVERRIDDEN.some((attribute) => attributes[attribute] !== said.get(key)?.[attribute]))
        found.push(`${code}: ${name} does not follow what overrides it`);
  }
  return found;
}

/** What a run is begun with, so that it can be told for which request it was. */
export const reasonFor = (key: string): string => `chaos ${key}`;

/** Requests for which more than one run was begun, or another than was answered. @param answered runs by key */
export async function begunOtherwise(
  { app }: Audited,
  answered: ReadonlyMap<string, string>,
): Promise<readonly string[]> {
  const runs = await app.db.rows<{ id: string; reason: string }>(
    "SELECT id, reason FROM run WHERE reason LIKE 'chaos %'",
  );
  const byReason = new Map<string, string[]>();
  for (const { id, reason } of runs) byReason.set(reason, [...(byReason.get(reason) ?? []), id]);
  return [
    ...[...byReason].flatMap(([reason, ids]) =>
      ids.length > 1 ? [`${reason}: ${ids.length} runs were begun`] : [],
    ),
    ...[...answered].flatMap(([key, run]) =>
      byReason.get(reasonFor(key))?.includes(run) === true
        ? []
        : [`${key}: run ${run} was answered and is not there`],
    ),
  ];
}

/** Runs of these may destroy people's data. */
const DESTROYING = CHANGES.filter(({ destroys }) => destroys === true).map(({ kind }) => kind);

/**
 * Shares, and disks that were somebody's, which are gone though no step of a run that may destroy data removed them.
 * @param stolen names of what was taken away past Laager
 */
export async function lostData({ app }: Audited, stolen: ReadonlySet<string>): Promise<readonly string[]> {
  const gone = await app.db.rows<{ code: string; kind: string; name: string; ref: string }>(
    sql`SELECT c.code, p.kind, p.name, p.ref FROM present_resource p JOIN customer c ON c.id = p.customer_id
        WHERE c.kind = 'customer' AND p.present_condition = 'gone'
          AND (p.kind = 'share' OR (p.kind = 'personal-disk' AND JSON_VALUE(p.attributes, '$.person') <> ''))
          AND NOT EXISTS (SELECT 1 FROM step s JOIN run u ON (u.customer_id, u.id) = (s.customer_id, s.run_id)
            WHERE s.customer_id = p.customer_id AND s.resource_id = p.resource_id AND s.purpose = 'remove'
              AND u.kind IN (${join(DESTROYING)}))`,
  );
  return gone
    .filter(({ name }) => !stolen.has(name))
    .map(
      ({ code, kind, name, ref }) => `${code}: ${kind} ${name} (${ref}) is gone, and nobody asked for that`,
    );
}

/** What is said to be retired and is not proven to be gone. */
export async function unproven(of: Audited): Promise<readonly string[]> {
  const found: string[] = [];
  for (const { id, code } of await environmentsOf(of, 'retired')) {
    const proof = await proofOf(of.app, await of.inside(code), id);
    for (const { kind, name, says } of proof.rows)
      if (says !== 'gone' && says !== 'kept') found.push(`${code}: ${kind} ${name} is ${says}`);
    if (!proof.clean) found.push(`${code}: no proof of ${id}`);
  }
  return found;
}

export const environmentsOf = (
  { app }: Audited,
  wanted: 'serving' | 'retired',
): Promise<{ id: string; code: string }[]> =>
  app.db.rows(
    'SELECT e.id, c.code FROM environment e JOIN customer c ON c.id = e.customer_id WHERE e.wanted = ?',
    [wanted],
  );

/** A difference that may be made as it is wanted: somebody took it away past Laager. Anything else is a fault of ours. */
export interface Loss {
  readonly environment: string;
  readonly code: string;
  readonly differences: readonly { readonly key: string; readonly how: 'as wanted' }[];
}

/**
 * What differs from what is wanted, apart from what runs will still do.
 * @param stolen names of what was taken away past Laager
 */
export async function lossesOf(
  of: Audited,
  stolen: ReadonlySet<string>,
): Promise<{ readonly losses: readonly Loss[]; readonly faults: readonly string[] }> {
  const losses: Loss[] = [];
  const faults: string[] = [];
  for (const { id, code } of await environmentsOf(of, 'serving')) {
    const differences = await differencesOf(of.app, await of.inside(code), id);
    const isLoss = (one: (typeof differences)[number]): boolean =>
      one.what === 'missing' && stolen.has(one.name);
    const lost = differences.filter(isLoss).map(({ key }) => ({ key, how: 'as wanted' as const }));
    if (lost.length > 0) losses.push({ environment: id, code, differences: lost });
    for (const one of differences)
      if (!isLoss(one) && one.cause !== 'not done yet')
        faults.push(`${code}: ${one.kind} ${one.name} ${one.attribute ?? ''} is ${one.what}: ${one.says}`);
  }
  return { losses, faults };
}
