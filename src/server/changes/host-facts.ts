import type { Condition, EnvironmentFacts, HostFacts, KnownResource, PresentFacts } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { approvalJson, readApproval } from '../approval';
import { join, raw, sql, type Connection } from '../db';
import { intentJson, readIntent } from '../intents';
import { overridesJson, readOverrides } from '../overrides';
import { notFound } from '../problem';
import { AWAITED, durationsAt, UNSETTLED } from '../runs';
import { ratesOf } from '../pricing';
import { approvalOf, readKnown, type KnownRow } from '../facts';
import { recently } from './recent';

interface Row {
  readonly code: string;
  readonly currency: string;
  readonly zone: string;
  readonly state: string;
  readonly card: string | null;
  readonly site: string;
  readonly version: number;
  readonly wanted: EnvironmentFacts['wanted'];
  readonly document: string | null;
  readonly approval: string | null;
  readonly overrides: string | null;
  readonly due: number | null;
}

/** What a change of hosts is proposed from, and when overrides of its environment are to be looked at next. */
export interface HostFactsRead {
  readonly facts: HostFacts;
  readonly due: number | null;
}

/**
 * The facts that a change of hosts alone is proposed from: two statements, where nothing needs another's approval.
 * @param isAnew whether rates and durations are read anew; else those of the proposal before serve, if it was just now
 * @throws Problem 404 for an environment that is not the customer's
 */
export async function readHostFacts(
  app: App,
  connection: Connection,
  scope: CustomerScope,
  environment: string,
  { hold, isAnew }: { readonly hold: string | undefined; readonly isAnew: boolean },
): Promise<HostFactsRead> {
  const row = await connection.row<Row>(
    sql`SELECT c.code, c.currency, c.zone, c.state, c.card_code AS card, e.site_code AS site, e.version, e.wanted,
          e.overrides_due_at AS due, ${intentJson(sql`e.customer_id`, sql`e.id`)} AS document, ${approvalJson} AS approval,
          ${overridesJson(sql`e.customer_id`, sql`e.id`)} AS overrides
        FROM environment e JOIN customer c ON c.id = e.customer_id
        WHERE e.customer_id = ${scope.customer.id} AND e.id = ${environment}`,
  );
  if (!row || row.document === null) throw notFound('environment');
  const rule = readApproval(row.approval);
  const { hosts, present } = await hostsOf(app, connection, scope, environment);
  const now = app.clock.now();
  // Whoever decides by what it costs reads that anew.
  const isPriced = isAnew || rule.above.length > 0;
  const { card, site } = row;
  const rates =
    card === null ? [] : await recently(app, `rates ${card}`, () => ratesOf(connection, card), isPriced);
  const durations = await recently(app, `durations ${site}`, () => durationsAt(connection, site), isAnew);
  return {
    due: row.due,
    facts: {
      now,
      ...(await approvalOf(app, connection, scope, rule, hold)),
      rates,
      known: hosts,
      present,
      overrides: readOverrides(row.overrides),
      customer: { code: row.code, currency: row.currency, zone: row.zone, state: row.state },
      site: { code: site, sizes: [], durations },
      environment: {
        id: environment,
        version: row.version,
        wanted: row.wanted,
        intent: readIntent(row.document),
      },
    },
  };
}

interface HostRow extends KnownRow {
  readonly present_ref: string | null;
  readonly present_name: string | null;
  readonly present_condition: Condition | null;
  readonly present: string | null;
}

/** The environment's hosts with what is there of each. */
async function hostsOf(
  app: App,
  connection: Connection,
  { customer }: CustomerScope,
  environment: string,
): Promise<{ readonly hosts: KnownResource[]; readonly present: PresentFacts[] }> {
  const kinds = app.catalogue.kinds.filter(({ carriesSessions }) => carriesSessions === true);
  const rows = await connection.rows<HostRow>(
    sql`SELECT r.id, r.resource_key, r.kind, r.name, r.attributes, r.needs, r.version, r.wanted,
          ${raw(UNSETTLED)} AS unsettled, ${raw(AWAITED)} AS awaited,
          (SELECT COUNT(*) FROM session x WHERE x.customer_id = r.customer_id AND x.provider_code = r.provider_code
            AND x.host_ref = r.ref) AS people,
          p.ref AS present_ref, p.name AS present_name, p.present_condition, p.attributes AS present
        FROM resource r LEFT JOIN present_resource p ON p.customer_id = r.customer_id AND p.present_condition <> 'gone'
          AND (p.resource_id = r.id OR (p.provider_code = r.provider_code AND p.ref = r.ref))
        WHERE r.customer_id = ${customer.id} AND r.environment_id = ${environment} AND r.returned_at IS NULL
          AND r.kind IN (${join(kinds.map(({ key }) => key))})
        ORDER BY r.id, IFNULL(r.ref = p.ref, 0) DESC, p.made_at, p.ref`,
  );
  const hosts = new Map<string, KnownResource>();
  for (const row of rows) if (!hosts.has(row.id)) hosts.set(row.id, readKnown(row));
  const present = rows.flatMap((row): PresentFacts[] =>
    row.present_ref === null || row.present_condition === null
      ? []
      : [
          {
            ref: row.present_ref,
            kind: row.kind,
            name: row.present_name ?? '',
            key: row.resource_key,
            condition: row.present_condition,
            attributes: JSON.parse(row.present ?? '{}') as Attributes,
          },
        ],
  );
  return { hosts: [...hosts.values()], present };
}
