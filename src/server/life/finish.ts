import { systemScope } from '../access';
import type { App } from '../app';
import { forgetCertificates } from '../certificates';
import { forgetSecrets } from '../recipe-secrets';
import { forgetSteps } from '../saved-steps';
import { forgetIdentity } from '../desk';
import { forgetLink } from '../directory-link';
import { unpauseHosts } from '../overrides';
import { write } from '../write';

/** Retires those who leave and have nothing left: what they held is given back, and what they pay ends. */
export async function finishLeaving(app: App): Promise<void> {
  const gone = await app.db.rows<{ id: string; code: string }>(
    `SELECT c.id, c.code FROM customer c WHERE c.state = 'leaving'
       AND NOT EXISTS (SELECT 1 FROM environment e WHERE e.customer_id = c.id AND e.retired_at IS NULL)
       AND NOT EXISTS (SELECT 1 FROM resource r WHERE r.customer_id = c.id AND r.returned_at IS NULL)`,
  );
  for (const customer of gone) await finish(app, customer);
}

async function finish(app: App, customer: { readonly id: string; readonly code: string }): Promise<void> {
  const now = Math.floor(app.clock.now() / 1_000) * 1_000;
  const { id, code } = customer;
  const scope = systemScope(customer);
  await write(app, scope, [{ table: 'customer', key: { id } }], async (tx) => {
    const blocks = await tx.rows<{ cidr: string; site_code: string }>(
      'SELECT cidr, site_code FROM address_block WHERE customer_id = ? AND returned_at IS NULL',
      [id],
    );
    // Whoever finished it meanwhile, or brought them back, has left another state.
    const done = await tx.write(
      "UPDATE customer SET state = 'retired', retired_at = ? WHERE id = ? AND state = 'leaving'",
      [now, id],
    );
    if (done === 0) return;
    await tx.write('UPDATE address_block SET returned_at = ? WHERE customer_id = ? AND returned_at IS NULL', [
      now,
      id,
    ]);
    // Nobody needs their keys and secrets any more.
    await forgetCertificates(tx, scope);
    await forgetSecrets(tx, scope);
    await forgetSteps(tx, scope);
    await forgetLink(tx, scope);
    await forgetIdentity(tx, scope);
    await unpauseHosts(tx, scope);
    await tx.write('DELETE FROM allowance WHERE customer_id = ? AND until_at > ?', [id, now]);
    await tx.record({
      action: 'retire customer',
      subject: code,
      after: { returned: blocks.map(({ cidr, site_code }) => `${cidr} at ${site_code}`) },
      topic: 'summary',
      id: code,
    });
  });
}
