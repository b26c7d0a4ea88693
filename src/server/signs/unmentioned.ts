import { BEAT_MS, MISSED_BEATS, type Heard } from '../../core/signs';
import { sql, type Connection } from '../db';
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
  const running = await db.rows<{ ref: string; since: number }>(
    // All that is read stands in that index: a provider may have tens of thousands.
    sql`SELECT ref, changed_at AS since FROM present_resource USE INDEX (running)
        WHERE provider_code = ${code} AND kind = 'host' AND power = 'on' AND present_condition = 'well'
          AND changed_at <= ${askedAt - MISSED_BEATS * BEAT_MS}`,
  );
  const missing = running.filter(({ ref }) => !mentioned.has(ref));
  const asked = missing.filter(({ ref }) => !known.has(ref)).slice(0, MOST_ASKED);
  const runs = new Set(known);
  for (const { ref } of asked) if (await runsUnheard(port, ref)) runs.add(ref);
  return missing
    .filter(({ ref }) => runs.has(ref))
    .map(({ ref, since }) => ({ ...UNHEARD, host: ref, heardAt: since, askedAt }));
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
