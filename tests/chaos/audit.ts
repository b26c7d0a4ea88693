import type { Engine } from '../processes/setup/engine';
import type { FeedPage } from '../../src/server/providers';

type Entry = FeedPage['entries'][number];

/** Everything that a provider ever recorded, in order. */
export async function recordOf(engine: Engine): Promise<Entry[]> {
  const all: Entry[] = [];
  for (let after = '0'; ;) {
    const page = await engine.provider().feed(after);
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
      if (state !== 'gone') sums.disk += seconds * Number(attributes.disk_gib ?? attributes.diskGiB ?? 0);
    });
    used.set(ref, sums);
  }
  return used;
}

/** What we have metered of each host until an instant, in the same units. */
export async function usedByMeter(
  engine: Engine,
  until: number,
): Promise<Map<string, { on: number; disk: number }>> {
  const rows = await engine.app.db.rows<{ ref: string; on: string | null; disk: string | null }>(
    `SELECT ref,
       SUM(IF(meter = 'host' AND state = 'on', FLOOR(LEAST(IFNULL(to_at, ?), ?) / 1000) - FLOOR(from_at / 1000), 0)) AS \`on\`,
       SUM(IF(meter = 'disk', quantity * (FLOOR(LEAST(IFNULL(to_at, ?), ?) / 1000) - FLOOR(from_at / 1000)), 0)) AS disk
     FROM meter_interval WHERE provider_code = 'coast' AND meter IN ('host','disk') GROUP BY ref`,
    [until, until, until, until],
  );
  return new Map(rows.map((row) => [row.ref, { on: Number(row.on), disk: Number(row.disk) }]));
}
