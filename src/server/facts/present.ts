import type { Condition } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import { RETAINED_IN_RECORD } from '../retained';
import type { FactReader } from './reader';

/** What the provider says is there of an environment; what we noted as a resource comes before what only says it is. */
export const present: FactReader<'present'> = async ({ app, connection, scope, subject }) => {
  const known = new Set(app.catalogue.kinds.map((kind) => kind.key));
  const rows = await connection.rows<{
    ref: string;
    kind: string;
    name: string;
    resource_key: string | null;
    present_condition: Condition;
    attributes: string;
  }>(
    `SELECT p.ref, p.kind, p.name, r.resource_key, p.present_condition, p.attributes
     FROM present_resource p LEFT JOIN resource r ON r.customer_id = p.customer_id AND r.returned_at IS NULL
       AND (r.id = p.resource_id OR (r.provider_code = p.provider_code AND r.ref = p.ref))
     WHERE p.customer_id = ? AND p.present_condition <> 'gone' AND NOT ${RETAINED_IN_RECORD}
       AND ((p.environment_id IS NULL AND p.site_code = ? AND r.id IS NOT NULL) OR p.environment_id = ?)
     ORDER BY IFNULL(r.ref = p.ref, 0) DESC, p.made_at, p.ref`,
    [scope.customer.id, subject.site, subject.environment ?? ''],
  );
  return rows
    .filter((row) => known.has(row.kind))
    .map((row) => ({
      ref: row.ref,
      kind: row.kind,
      name: row.name,
      key: row.resource_key,
      condition: row.present_condition,
      attributes: JSON.parse(row.attributes) as Attributes,
    }));
};
