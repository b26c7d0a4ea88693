import type { Orphan } from '../../contract';
import type { Condition, KnownResource, PresentFacts } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import { compare, extraKey } from '../../core/planning';
import { monthlyCost } from '../../core/rating';
import { sum, type Money } from '../../core/money';
import { MSP, reachable, type Scope } from '../access';
import type { App } from '../app';
import { atMost, raw, sql, type Sql } from '../db';
import { pricesInForce, type ProviderPrices } from '../providers';
import { RETAINED_IN_RECORD } from '../retained';
import { UNSETTLED } from '../runs';

const MOST = 1_000;

interface Candidate {
  readonly provider: string;
  readonly ref: string;
  readonly customer_id: string;
  readonly customer: string | null;
  readonly environment_id: string | null;
  readonly environment: string | null;
  readonly kind: string;
  readonly name: string;
  readonly site: string;
  readonly present_condition: Condition;
  readonly attributes: string;
  readonly made_at: number;
  readonly resource_id: string | null;
  readonly resource_key: string | null;
  readonly resource_attributes: string | null;
  readonly version: number | null;
  readonly wanted: number | null;
  readonly unsettled: number;
}

/**
 * What stands at the providers that nothing wants, as the one comparison of wanted and present says, priced by the
 * month at what its provider asks. What is nobody's is the MSP's own: it is shown to those who reach every customer.
 */
export async function listOrphans(app: App, scope: Scope): Promise<Orphan[]> {
  const [candidates, prices] = await Promise.all([
    candidatesOf(app, scope),
    pricesInForce(app.db, app.clock.now()),
  ]);
  const orphans = [...grouped(candidates).values()].flatMap((place) => unwantedOf(app, place));
  return orphans.map((one) => ({
    provider: one.provider,
    ref: one.ref,
    kind: one.kind,
    name: one.name,
    site: one.site,
    customer: one.customer,
    environment: one.environment,
    environmentId: one.environment_id,
    madeAt: one.made_at,
    monthly: priceOf(app, one, prices.get(one.provider)),
  }));
}

/** What may be too much: it is no resource that is wanted, or not the only one that says it is that. */
async function candidatesOf(app: App, scope: Scope): Promise<Candidate[]> {
  return app.db.rows<Candidate>(
    sql`SELECT STRAIGHT_JOIN p.provider_code AS provider, p.ref, p.customer_id, IF(c.kind = 'msp', NULL, c.code) AS customer,
       p.environment_id, e.name AS environment, p.kind, p.name, p.site_code AS site, p.present_condition, p.attributes,
       p.made_at, r.id AS resource_id, r.resource_key, r.attributes AS resource_attributes, r.version, r.wanted,
       IF(r.id IS NULL, 0, ${raw(UNSETTLED)}) AS unsettled
     FROM ${suspects(scope)} AS found
       JOIN present_resource p ON p.customer_id = found.customer_id AND p.resource_id <=> found.resource_id
         AND p.gone_at IS NULL AND p.present_condition <> 'gone'
       JOIN customer c ON c.id = p.customer_id
       LEFT JOIN environment e ON e.customer_id = p.customer_id AND e.id = p.environment_id
       LEFT JOIN resource r ON r.customer_id = p.customer_id AND r.id = p.resource_id AND r.returned_at IS NULL
     WHERE NOT ${raw(RETAINED_IN_RECORD)}
     ORDER BY p.customer_id = ${MSP.id} DESC, IFNULL(r.ref = p.ref, 0) DESC, p.made_at, p.ref ${atMost(MOST)}`,
  );
}

/** Which resources something stands for that is not wanted, or more than one thing: read from two indexes alone. */
const suspects = (scope: Scope): Sql =>
  sql`(SELECT STRAIGHT_JOIN s.customer_id, s.resource_id
       FROM present_resource s USE INDEX (of_resource) LEFT JOIN resource w USE INDEX (held)
         ON w.customer_id = s.customer_id AND w.id = s.resource_id AND w.returned_at IS NULL AND w.wanted
       WHERE ${reachable(scope, 's.customer_id')} AND s.gone_at IS NULL AND s.present_condition <> 'gone'
       GROUP BY s.customer_id, s.resource_id HAVING COUNT(w.id) <> 1 OR COUNT(*) > 1)`;

/** Keys name resources within an environment: each is compared by itself. */
function grouped(candidates: readonly Candidate[]): Map<string, Candidate[]> {
  const groups = new Map<string, Candidate[]>();
  for (const one of candidates) {
    const place = `${one.customer_id} ${one.environment_id ?? one.site}`;
    groups.set(place, [...(groups.get(place) ?? []), one]);
  }
  return groups;
}

function unwantedOf(app: App, inOnePlace: readonly Candidate[]): Candidate[] {
  const known = new Map(
    inOnePlace.flatMap((one) => knownOf(one).map((resource) => [resource.key, resource])),
  );
  const present = inOnePlace.map((one): PresentFacts => ({
    ref: one.ref,
    kind: one.kind,
    name: one.name,
    key: one.resource_key,
    condition: one.present_condition,
    attributes: JSON.parse(one.attributes) as Attributes,
  }));
  const extra = new Set(
    compare(app.catalogue.kinds, { known: [...known.values()], present })
      .filter((one) => one.difference === 'extra')
      .map((one) => one.key),
  );
  return inOnePlace.filter((one) => extra.has(extraKey(one.ref)));
}

const knownOf = (one: Candidate): KnownResource[] =>
  one.resource_id === null || one.resource_key === null
    ? []
    : [
        {
          id: one.resource_id,
          key: one.resource_key,
          kind: one.kind,
          name: one.name,
          attributes: JSON.parse(one.resource_attributes ?? '{}') as Attributes,
          needs: [],
          version: one.version ?? 0,
          wanted: one.wanted === 1,
          unsettled: one.unsettled === 1,
          people: 0,
        },
      ];

/** Null where the provider has told no price for what it is metered as. */
function priceOf(app: App, one: Candidate, prices: ProviderPrices | undefined): Money | null {
  const kind = app.catalogue.kinds.find((known) => known.key === one.kind);
  if (!kind || !prices) return null;
  const needs = kind
    .meters(JSON.parse(one.attributes) as Attributes)
    .filter((measure) => measure.state === 'on')
    .map(({ meter, size, quantity }) => ({ meter, size, quantity }));
  const { lines, unpriced } = monthlyCost(needs, prices.rates, app.clock.now(), prices.currency);
  if (unpriced.length > 0) return null;
  return sum(
    lines.map((line) => line.amount),
    prices.currency,
  );
}
