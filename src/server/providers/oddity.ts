import type { GroundChangeKind } from '../../core/ground';
import type { Clock } from '../clock';
import { newId, type Connection } from '../db';

/** What is odd about a provider, and is shown on Ground and Watch until somebody has noted it. */
type Oddity = Extract<GroundChangeKind, 'record restarted' | 'entries ignored'>;

/**
 * Notes something odd about a provider, once until somebody has noted it.
 * @returns whether the very same was noted by somebody before
 */
export async function noteOddity(
  { db, clock }: { readonly db: Connection; readonly clock: Pick<Clock, 'now'> },
  provider: string,
  kind: Oddity,
  says: string,
): Promise<boolean> {
  const site = await db.row<{ code: string }>(
    'SELECT code FROM site WHERE provider_code = ? ORDER BY code LIMIT 1',
    [provider],
  );
  // A provider without a site has nothing of anyone's.
  if (!site) return false;
  const text = says.slice(0, 120);
  const known = await db.row<{ noted: string | null; after: string }>(
    `SELECT noted_by AS noted, after_text AS \`after\` FROM ground_change
     WHERE site_code = ? AND kind = ? AND subject = ? ORDER BY id DESC LIMIT 1`,
    [site.code, kind, provider],
  );
  if (known && known.after === text) return known.noted !== null;
  if (known && known.noted === null)
    await db.write(
      'UPDATE ground_change SET after_text = ?, at = ? WHERE site_code = ? AND kind = ? AND subject = ? AND noted_by IS NULL',
      [text, clock.now(), site.code, kind, provider],
    );
  else
    await db.write(
      "INSERT INTO ground_change (id, site_code, kind, subject, before_text, after_text, at) VALUES (?, ?, ?, ?, '', ?, ?)",
      [newId(), site.code, kind, provider, text, clock.now()],
    );
  return false;
}

/** Somebody has noted a change of the ground: nobody has to look at it again. */
export const noteSeen = (tx: Connection, change: string, by: string): Promise<number> =>
  tx.write('UPDATE ground_change SET noted_by = ? WHERE id = ?', [by, change]);
