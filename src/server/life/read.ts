import type { CustomerState, Life } from '../../contract';
import { sum, type Money } from '../../core/money';
import { monthlyCost, type MeterNeed, type Rate } from '../../core/rating';
import type { Attributes } from '../../core/intent';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { listEnvironments, listHosts } from '../environments';
import { planFeeNow, planFactsOf } from '../plans';
import { ratesOf } from '../pricing';
import { notFound } from '../problem';

interface Stored {
  readonly state: CustomerState;
  readonly currency: string;
  readonly card: string;
  readonly retired_at: number | null;
  readonly data_deleted_at: number | null;
}

/** What pausing a customer, or their leaving, would do. @throws Problem 404 */
export async function lifeOf(app: App, scope: CustomerScope): Promise<Life> {
  const row = await app.db.row<Stored>(
    'SELECT state, currency, card_code AS card, retired_at, data_deleted_at FROM customer WHERE id = ?',
    [scope.customer.id],
  );
  if (!row) throw notFound('customer');
  const now = app.clock.now();
  const environments = (await listEnvironments(app.db, scope)).filter((one) => one.state !== 'retired');
  const { plan } = await planFactsOf(app.db, scope, now);
  const fee = await planFeeNow(app.db, scope, row.currency, now);
  const rates = await ratesOf(app.db, row.card);
  const costs = await standing(app, scope, rates, row.currency);
  const shown = [];
  for (const one of environments) {
    const hosts = await listHosts(app.db, scope, one.id, { limit: 10_000 });
    shown.push({
      id: one.id,
      name: one.name,
      site: one.siteName,
      hosts: hosts.length,
      on: hosts.filter((host) => host.status !== 'off').length,
      peopleIn: hosts.reduce((total, host) => total + host.sessions, 0),
    });
  }
  return {
    state: row.state,
    environments: shown,
    now: sum([costs.now, fee], row.currency),
    paused: sum([costs.paused, fee], row.currency),
    retentionDays: plan.retentionDays,
    retiredAt: row.retired_at,
    deletedAt: row.data_deleted_at,
  };
}

/** What all that is wanted costs a month as it is, and with every host off. */
async function standing(
  app: App,
  { customer }: CustomerScope,
  rates: readonly Rate[],
  currency: string,
): Promise<{ now: Money; paused: Money }> {
  const rows = await app.db.rows<{ kind: string; attributes: string }>(
    'SELECT kind, attributes FROM resource WHERE customer_id = ? AND wanted AND returned_at IS NULL',
    [customer.id],
  );
  const kinds = new Map(app.catalogue.kinds.map((kind) => [kind.key, kind]));
  const needs = (off: boolean): MeterNeed[] =>
    rows.flatMap(({ kind: key, attributes }) => {
      const kind = kinds.get(key);
      const own = JSON.parse(attributes) as Attributes;
      const as = off && kind?.carriesSessions === true ? { ...own, power: 'off' } : own;
      return (kind?.meters(as) ?? [])
        .filter((measure) => measure.state === 'on')
        .map(({ meter, size, quantity }) => ({ meter, size, quantity }));
    });
  const cost = (off: boolean): Money =>
    sum(
      monthlyCost(needs(off), rates, app.clock.now(), currency).lines.map((line) => line.amount),
      currency,
    );
  return { now: cost(false), paused: cost(true) };
}
