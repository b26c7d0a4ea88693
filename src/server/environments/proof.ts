import type { Proof, ProofRow } from '../../contract';
import { monthOf } from '../../core/calendar';
import type { Attributes } from '../../core/intent';
import { nothing } from '../../core/money';
import { claimsOf, SPACES, valuesIn, type ClaimedAt } from '../../core/resources';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { resourceCharges } from '../costs';
import { raw, sql } from '../db';
import { notFound } from '../problem';
import { OutsideError } from '../outside';
import type { Provider } from '../providers';
import { IS_RETAINED } from '../retained';
import { ASKED_FOR } from '../runs';
import { namesOfEnvironment } from './end';

interface MadeRow {
  readonly kind: string;
  readonly ref: string;
  readonly name: string;
  /** Until when it is retained; null: it is not. */
  readonly until: number | null;
}

const ASK_AT_ONCE = 8;

/** Asks the provider and the directory, now, about everything that was ever made for an environment. */
export async function proofOf(app: App, scope: CustomerScope, environmentId: string): Promise<Proof> {
  const environment = await app.db.row<{
    name: string;
    site_code: string;
    retired_at: number | null;
    zone: string;
    realm: string;
    currency: string;
  }>(
    `SELECT e.name, e.site_code, e.retired_at, c.zone, c.realm, c.currency
     FROM environment e JOIN customer c ON c.id = e.customer_id WHERE e.customer_id = ? AND e.id = ?`,
    [scope.customer.id, environmentId],
  );
  if (!environment) throw notFound('environment');
  const month = monthOf(environment.retired_at ?? app.clock.now(), environment.zone);
  const { port } = await app.providers.at(environment.site_code);
  const order = app.catalogue.kinds.map((kind) => kind.key);
  // In the order in which it was taken away: what stands on others first.
  const made = (await madeFor(app, scope, environmentId)).sort(
    (a, b) => order.indexOf(b.kind) - order.indexOf(a.kind),
  );
  const charges = await resourceCharges(app, scope, environmentId, month);
  const rows: ProofRow[] = await orphans(port, scope, environmentId, made, environment.currency);
  for (let at = 0; at < made.length; at += ASK_AT_ONCE)
    rows.push(
      ...(await Promise.all(
        made.slice(at, at + ASK_AT_ONCE).map(async (one) => ({
          ...(await ask(port, one)),
          lastCharge: charges.byRef.get(one.ref) ?? nothing(environment.currency),
          metering: charges.open.has(one.ref),
        })),
      )),
    );
  const names = await namesOfEnvironment(app, scope, environmentId);
  const directory = await inDirectory(app, environment.realm);
  const stillInDirectory = names.filter((name) => directory.names.has(name.toUpperCase()));
  return {
    environment: environment.name,
    askedAt: app.clock.now(),
    clean:
      environment.retired_at !== null &&
      directory.worked &&
      stillInDirectory.length === 0 &&
      rows.every(
        (row) =>
          row.says === 'kept' ||
          ((row.says === 'gone' || row.says === 'unknown to the provider') && !row.metering),
      ),
    rows,
    month: month.key,
    lastCharges: charges.total,
    returned: {
      names,
      stillInDirectory,
      directory: { worked: directory.worked, says: directory.says },
      values: await valuesReturned(app, scope, environmentId, {
        realm: environment.realm,
        site: environment.site_code,
        sizes: [],
      }),
    },
  };
}

/** What its resources took that only one can have, beside their names; and what its customer's had for all its environments. */
async function valuesReturned(
  { db, catalogue }: App,
  { customer }: CustomerScope,
  environmentId: string,
  at: ClaimedAt,
): Promise<Proof['returned']['values']> {
  const rows = await db.rows<ClaimingRow>(
    sql`SELECT r.resource_key AS \`key\`, r.kind, r.name, r.attributes, r.environment_id IS NULL AS shared,
          r.returned_at IS NOT NULL AS returned
        FROM resource r WHERE r.customer_id = ${customer.id} AND ${raw(ASKED_FOR)}
          AND (r.environment_id = ${environmentId} OR (r.environment_id IS NULL AND r.site_code = ${at.site}))
        ORDER BY r.id`,
  );
  // What is shared was made and given back before, too: only the last of it tells.
  const last = new Map(rows.map((row) => [row.shared === 1 ? row.key : row, row]));
  const bySpace = new Map<string, { values: string[]; returned: boolean; shared: boolean }>();
  for (const row of last.values()) {
    const one = { name: row.name, attributes: JSON.parse(row.attributes) as Attributes };
    for (const { space, value } of valuesIn(claimsOf(catalogue.kind(row.kind), one, at))) {
      if (NOT_TOLD.includes(space)) continue;
      const found = bySpace.get(space) ?? { values: [], returned: true, shared: row.shared === 1 };
      bySpace.set(space, {
        ...found,
        values: [...found.values, value],
        returned: found.returned && row.returned === 1,
      });
    }
  }
  return [...bySpace].map(([space, found]) => ({ space, ...found }));
}

/** Names are told by themselves; a host of the ready shelf is gone with what was made of it. */
const NOT_TOLD: readonly string[] = [SPACES.name, SPACES.ready];

interface ClaimingRow {
  readonly key: string;
  readonly kind: string;
  readonly name: string;
  readonly attributes: string;
  readonly shared: number;
  readonly returned: number;
}

/** What the provider shows with the environment's tag that its record has not told of yet. */
async function orphans(
  port: Provider,
  scope: CustomerScope,
  environmentId: string,
  made: readonly MadeRow[],
  currency: string,
): Promise<ProofRow[]> {
  const noted = new Set(made.map((one) => one.ref));
  const row = (kind: string, name: string, ref: string, says: ProofRow['says']): ProofRow => ({
    kind,
    name,
    ref,
    says,
    goneAt: null,
    keptUntil: null,
    lastCharge: nothing(currency),
    metering: false,
  });
  try {
    return (await port.resources({ customer: scope.customer.code, environment: environmentId }))
      .filter((present) => !noted.has(present.ref))
      .map((present) => row(present.kind, present.name, present.ref, 'still there'));
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return [row('anything else', 'with its tag', '', 'could not be asked')];
  }
}

async function inDirectory(
  app: App,
  realm: string,
): Promise<{ names: ReadonlySet<string>; worked: boolean; says: string }> {
  try {
    const names = await app.directory.computers(realm);
    return { names: new Set(names.map((name) => name.toUpperCase())), worked: true, says: 'asked' };
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    return { names: new Set(), worked: false, says: error.says };
  }
}

/** Everything that ever carried the environment's tag or was noted for it; the customer's network where it went with it. */
const madeFor = (app: App, scope: CustomerScope, environmentId: string): Promise<MadeRow[]> =>
  app.db.rows<MadeRow>(
    `SELECT p.kind, p.ref, p.name, IF(${IS_RETAINED}, r.retained_until, NULL) AS until FROM present_resource p
       LEFT JOIN resource r ON (r.customer_id, r.id) = (p.customer_id, p.resource_id)
     WHERE p.customer_id = ? AND (p.environment_id = ? OR r.environment_id = ?
       OR (r.environment_id IS NULL AND r.returned_at IS NOT NULL AND r.site_code =
         (SELECT e.site_code FROM environment e WHERE e.customer_id = p.customer_id AND e.id = ?)
         AND EXISTS (SELECT 1 FROM step s JOIN run u ON (u.customer_id, u.id) = (s.customer_id, s.run_id)
           WHERE s.customer_id = r.customer_id AND s.resource_id = r.id AND s.purpose = 'remove'
             AND u.environment_id = ?)))
     ORDER BY p.name`,
    [scope.customer.id, environmentId, environmentId, environmentId, environmentId],
  );

async function ask(
  port: Provider,
  { until, ...made }: MadeRow,
): Promise<Omit<ProofRow, 'lastCharge' | 'metering'>> {
  const row = { ...made, goneAt: null, keptUntil: null };
  try {
    const present = await port.resource(made.ref);
    if (!present) return { ...row, says: 'unknown to the provider' };
    if (present.state === 'gone') return { ...row, says: 'gone', goneAt: present.goneAt };
    return until === null ? { ...row, says: 'still there' } : { ...row, says: 'kept', keptUntil: until };
  } catch (error) {
    if (error instanceof OutsideError) return { ...row, says: 'could not be asked' };
    throw error;
  }
}
