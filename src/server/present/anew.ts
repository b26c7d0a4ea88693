import pLimit from 'p-limit';
import type { App } from '../app';
import { transaction } from '../db';
import { noteOddity, moveFeedPlace, noteReadUntil, type Connected, type PresentResource } from '../providers';
import { readFeed } from './feed';

/** So many may be gone at once without anybody being asked; of more, no larger part than that. */
const FEW = 5;
const MOST_PART = 0.5;
/** Resources that are asked for by name at the same time. */
const AT_ONCE = 8;

interface Known {
  readonly ref: string;
  readonly site_code: string;
}

/**
 * Reads all that stands at a provider whose record does not go back to where it was read: it was restored, or lost its
 * memory. What it does not list is asked for by name before it counts as gone. Where it would be most of what is known,
 * nothing is believed until somebody has noted it on Ground.
 */
export async function readAnew(app: App, provider: Connected): Promise<void> {
  const { code, port, feedPlace } = provider;
  const began = app.clock.now();
  // The place first: what changes while the rest is read is told again.
  const place = await port.feedPlaceNow();
  const listed = new Map((await port.everything()).map((one) => [one.ref, one]));
  const known = await app.db.rows<Known>(
    "SELECT ref, site_code FROM present_resource WHERE provider_code = ? AND present_condition <> 'gone'",
    [code],
  );
  const limit = pLimit(AT_ONCE);
  const asked = await Promise.all(
    known
      .filter(({ ref }) => !listed.has(ref))
      .map((one) => limit(async () => ({ ...one, present: await port.resource(one.ref) }))),
  );
  const gone = asked.filter(({ present }) => present === undefined || present.state === 'gone');
  const told = `${known.length} resources known, ${listed.size} listed, ${gone.length} gone`;
  const isMuch = gone.length > FEW && gone.length > known.length * MOST_PART;
  if (isMuch && !(await noteOddity(app, code, 'record restarted', told))) return;
  const entries = [...listed.values(), ...asked.flatMap(({ present }) => present ?? [])]
    .filter(({ state }) => state !== 'gone')
    .map((present) => ({ seq: 0, at: began, present }));
  const ends = gone.map(({ ref, site_code, present }) => ({
    seq: 0,
    at: present?.goneAt ?? began,
    present: present ?? lost(ref, site_code, began),
  }));
  await transaction(app.db, async (connection) => {
    if ((await moveFeedPlace(connection, code, feedPlace, place)) === 0)
      throw new Error(`the record of ${code} is read by another worker`);
    await readFeed(app, connection, code, { entries: [...entries, ...ends], more: false });
    await noteReadUntil(connection, code, began);
  });
  // Said otherwise than what was asked: that somebody noted it serves this once.
  await noteOddity(app, code, 'record restarted', isMuch ? `${told}, as was noted` : told);
}

/** What is there no more, and of which the provider knows nothing. */
const lost = (ref: string, site: string, at: number): PresentResource => ({
  ref,
  kind: '',
  site,
  name: '',
  state: 'gone',
  tags: {},
  version: 0,
  createdAt: at,
  goneAt: at,
  attributes: {},
  busyWith: null,
});
