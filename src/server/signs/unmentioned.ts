import { BEAT_MS, MISSED_BEATS, type Heard } from '../../core/signs';
import { join, sql, type Connection } from '../db';
import { OutsideError } from '../outside';
import type { Connected, Provider } from '../providers';

/** So many that a provider seems to have forgotten are asked for by name each time; the others the next time. */
const MOST_ASKED = 20;

/** What is known of a host that was never heard: nothing. */
const UNHEARD = {
  load: 0,
  memory: 0,
  disk: 0,
  clockOffMs: 0,
  agent: '',
  signIns: { tried: 0, refused: 0 },
  signInSeconds: 0,
  isUnwell: false,
  isMentioned: false,
} as const;

/**
 * Hosts that run as far as is known, and that their provider does not mention among those that do. Before that is believed it is
 * asked for each by name; a provider that mentions none at all says nothing of any.
 * @param known refs of those that were believed so before
 */
export async function unmentioned(
  db: Connection,
  { code, port }: Connected,
  mentioned: ReadonlySet<string>,
  askedAt: number,
  known: ReadonlySet<string>,
): Promise<(Heard & { readonly host: string })[]> {
  if (mentioned.size === 0) return [];
  const running = await db.rows<Running>(
    // All that is read stands in that index: a provider may have tens of thousands.
    sql`SELECT ref, changed_at AS since FROM present_resource USE INDEX (running)
        WHERE provider_code = ${code} AND kind = 'host' AND power = 'on' AND present_condition = 'well'
          AND changed_at <= ${askedAt - MISSED_BEATS * BEAT_MS}`,
  );
  const missing = await wantedOf(
    db,
    code,
    running.filter(({ ref }) => !mentioned.has(ref)),
  );
  const asked = missing.filter(({ ref }) => !known.has(ref)).slice(0, MOST_ASKED);
  const runs = new Set(known);
  for (const { ref } of asked) if (await runsUnheard(port, ref)) runs.add(ref);
  return missing
    .filter(({ ref }) => runs.has(ref))
    .map(({ ref, since }) => ({ ...UNHEARD, host: ref, heardAt: since, askedAt }));
}

interface Running {
  readonly ref: string;
  readonly since: number;
}

/** So many are looked up; where a provider forgets more than that, the others come when these are known. */
const MOST_MISSING = 1_000;

/** Those that are customers' and wanted: nobody asks for others again and again. */
async function wantedOf(
  db: Connection,
  provider: string,
  missing: readonly Running[],
): Promise<readonly Running[]> {
  if (missing.length === 0) return [];
  const rows = await db.rows<{ ref: string }>(
    sql`SELECT p.ref FROM present_resource p
          JOIN resource r ON r.customer_id = p.customer_id AND r.id = p.resource_id AND r.ref = p.ref
          JOIN customer c ON c.id = p.customer_id AND c.kind = 'customer'
        WHERE p.provider_code = ${provider} AND r.wanted AND r.returned_at IS NULL
          AND p.ref IN (${join(missing.slice(0, MOST_MISSING).map(({ ref }) => ref))})`,
  );
  const wanted = new Set(rows.map(({ ref }) => ref));
  return missing.filter(({ ref }) => wanted.has(ref));
}

/** One that cannot be asked for is believed to be well: what the others show is not kept from anyone by it. */
async function runsUnheard(port: Provider, ref: string): Promise<boolean> {
  try {
    const there = await port.resource(ref);
    return there?.state === 'on' && (await port.beatOf(ref)) === undefined;
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return false;
  }
}
