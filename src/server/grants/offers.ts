import type { Offer } from '../../core/grants';
import type { Crossing, OwnAct } from '../../core/intent';
import type { DeskRules } from '../../core/items';
import { isPersonal } from '../../core/sizing';
import type { CustomerScope } from '../access';
import { sql, type Connection } from '../db';
import { deskRules } from './rules';
import { intentsWhere } from '../intents';

/** What a pool publishes, with what carries it. */
export interface KnownOffer extends Offer {
  /** Id of its publication; null: it is not made yet. */
  readonly publication: string | null;
  readonly licences: number;
  readonly isPersonal: boolean;
  /** Whether each desktop is somebody's beforehand. */
  readonly isAssigned: boolean;
  readonly site: string;
  readonly image: string;
  /** What its customer lets people do, whatever it says. */
  readonly rules: DeskRules;
  /** What may cross between a session and where it is shown. */
  readonly crosses: readonly Crossing[];
  /** What people may do with a desktop of their own. */
  readonly may: readonly OwnAct[];
}

/** All that is published to a customer's people. */
export async function offersOf(db: Connection, scope: CustomerScope): Promise<KnownOffer[]> {
  const { customer } = scope;
  const environments = await intentsWhere(
    db,
    sql`e.customer_id = ${customer.id} AND e.wanted = 'serving' AND e.holds = 'desktops'`,
  );
  const publications = await db.rows<{ id: string; environment_id: string; pool: string; licences: string }>(
    sql`SELECT id, environment_id, JSON_VALUE(attributes, '$.pool') AS pool, JSON_VALUE(attributes, '$.licences') AS licences
        FROM resource WHERE customer_id = ${customer.id} AND kind = 'publication' AND returned_at IS NULL AND wanted`,
  );
  const rules = await deskRules(db, scope);
  return environments.flatMap(({ environment: id, name, site, intent }) =>
    intent.pools.map((pool): KnownOffer => {
      const publication = publications.find(
        (one) => one.environment_id === id && one.pool === `pool:${pool.role}`,
      );
      return {
        environmentId: id,
        environment: name,
        pool: pool.role,
        items: pool.items,
        grants: pool.grants,
        publication: publication?.id ?? null,
        licences: publication === undefined ? pool.people : Number(publication.licences),
        isPersonal: isPersonal(pool),
        isAssigned: isPersonal(pool) && pool.assign === 'ahead',
        site,
        image: pool.image,
        rules,
        crosses: pool.crosses,
        may: pool.may,
      };
    }),
  );
}
