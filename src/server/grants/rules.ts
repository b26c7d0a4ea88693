import type { Crossing, Screen } from '../../core/intent';
import { USUAL_RULES, type DeskRules } from '../../core/items';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { sql, type Connection } from '../db';
import { write } from '../write';

/** What a customer lets all its people do at their desks. */
export async function deskRules(db: Connection, { customer }: CustomerScope): Promise<DeskRules> {
  const row = await db.row<{ crosses: string; screen: Screen }>(
    sql`SELECT crosses, screen FROM desk_rule WHERE customer_id = ${customer.id}`,
  );
  return row ? { crosses: JSON.parse(row.crosses) as Crossing[], screen: row.screen } : USUAL_RULES;
}

/** Keeps it. It holds from the next start on: whoever is in stays as they came. */
export const keepDeskRules = (
  app: App,
  scope: CustomerScope,
  { reason, ...rules }: DeskRules & { readonly reason: string },
): Promise<DeskRules> =>
  write(app, scope, [], async (tx) => {
    const before = await deskRules(tx, scope);
    await tx.write(
      sql`INSERT INTO desk_rule (customer_id, crosses, screen)
          VALUES (${scope.customer.id}, ${JSON.stringify(rules.crosses)}, ${rules.screen})
          ON DUPLICATE KEY UPDATE crosses = VALUES(crosses), screen = VALUES(screen)`,
    );
    await tx.record({
      action: 'set what crosses',
      subject: scope.customer.code,
      before: { ...before },
      after: { ...rules },
      reason,
      topic: 'environment',
      id: scope.customer.code,
    });
    return rules;
  });
