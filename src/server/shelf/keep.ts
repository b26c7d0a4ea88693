import { READY, stockOf } from '../../core/changes';
import { withPool, type Intent } from '../../core/intent';
import { hostKey } from '../../core/resources';
import { MSP, systemScope } from '../access';
import type { App } from '../app';
import { beginByItself } from '../changes';
import { giveBack, isReadyTaken } from '../claims';
import { sql, type Connection } from '../db';
import { write, type Tx } from '../write';
import { affordedBy, pricesAt } from './cost';
import { sitesInShort } from '../sites';
import { intentsWhere, keepIntent } from '../intents';

/** A shelf as it is wanted: an environment of the MSP's own. */
export interface StoredShelf {
  readonly id: string;
  readonly site: string;
  readonly siteName: string;
  readonly version: number;
  readonly intent: Intent;
}

const SCOPE = systemScope(MSP);

export async function shelvesOf(db: Connection): Promise<StoredShelf[]> {
  const [intents, sites] = await Promise.all([
    intentsWhere(db, sql`e.customer_id = ${MSP.id} AND e.wanted = 'serving' AND e.holds = 'shelf'`),
    sitesInShort(db),
  ]);
  const names = new Map(sites.map(({ code, name }) => [code, name]));
  return intents
    .map(({ environment, site, version, intent }) => ({
      id: environment,
      site,
      siteName: names.get(site) ?? site,
      version,
      intent,
    }))
    .sort((a, b) => a.siteName.localeCompare(b.siteName));
}

/** Gives up what was handed over, and fills every shelf up to what is wanted of it, as far as its budget reaches. */
export async function keepShelves(app: App): Promise<void> {
  for (const { id } of await shelvesOf(app.db)) await giveUpHandedOver(app, id);
  for (const shelf of await shelvesOf(app.db)) await fill(app, shelf);
}

interface Handed {
  readonly id: string;
  readonly name: string;
  readonly key: string;
  readonly customer_id: string;
  readonly customer: string;
  readonly became: string;
}

/** Those that somebody took, and that the provider says are gone: they are that customer's now, under another name. */
const handedOver = (tx: Connection, shelf: string): Promise<Handed[]> =>
  tx.rows<Handed>(
    `SELECT r.id, r.name, r.resource_key AS \`key\`, t.customer_id, c.code AS customer, t.name AS became
     FROM resource r
       JOIN present_resource p ON p.provider_code = r.provider_code AND p.ref = r.ref AND p.present_condition = 'gone'
       JOIN allocation a ON ${isReadyTaken('r.site_code', 'r.ref')}
       JOIN resource t ON t.customer_id = a.customer_id AND t.id = a.resource_id AND t.ref IS NOT NULL
       JOIN customer c ON c.id = t.customer_id
     WHERE r.customer_id = ? AND r.environment_id = ? AND r.kind = 'host' AND r.returned_at IS NULL`,
    [MSP.id, shelf],
  );

async function giveUpHandedOver(app: App, shelf: string): Promise<void> {
  if ((await handedOver(app.db, shelf)).length === 0) return;
  const locks = [
    { table: 'customer', key: { id: MSP.id } },
    { table: 'environment', key: { customer_id: MSP.id, id: shelf } },
  ] as const;
  await write(app, SCOPE, locks, async (tx) => {
    const gone = await handedOver(tx, shelf);
    const found = (await shelvesOf(tx)).find((one) => one.id === shelf);
    if (!found || gone.length === 0) return;
    await keepWithout(tx, found, new Set(gone.map((one) => one.key)), app.clock.now());
    for (const one of gone) {
      await tx.write(
        'UPDATE resource SET wanted = FALSE, version = version + 1, returned_at = ? WHERE customer_id = ? AND id = ?',
        [app.clock.now(), MSP.id, one.id],
      );
      await giveBack(tx, MSP.id, one.id);
      await tx.record({
        action: 'hand over',
        subject: one.name,
        after: { customer: one.customer, host: one.became },
        topic: 'ground',
        id: shelf,
      });
    }
  });
}

async function keepWithout(
  tx: Tx,
  { id, version, intent }: StoredShelf,
  keys: ReadonlySet<string>,
  now: number,
): Promise<void> {
  const left = withPool(intent, READY, (pool) => ({
    ...pool,
    hosts: pool.hosts.filter(({ slot }) => !keys.has(hostKey(READY, slot))),
  }));
  await tx.write('UPDATE environment SET version = ? WHERE customer_id = ? AND id = ?', [
    version + 1,
    MSP.id,
    id,
  ]);
  await keepIntent(tx, SCOPE, id, version + 1, left, now);
}

/** Has as many built as are missing. What is in the way, like a site that is full, is looked at again next time. */
async function fill(app: App, { id, site, intent }: StoredShelf): Promise<void> {
  const stock = stockOf(intent);
  const [pool] = intent.pools;
  if (!stock || !pool) return;
  const prices = await pricesAt(app.db, site);
  const affords = affordedBy(stock.most, pool, prices, app.clock.now()) ?? Infinity;
  const missing = Math.min(stock.hosts, affords) - pool.hosts.length;
  if (missing <= 0) return;
  const asked = { input: { pool: READY, hosts: missing }, environment: id };
  await beginByItself(app, SCOPE, 'add-hosts', asked, 'the shelf is filled up');
}
