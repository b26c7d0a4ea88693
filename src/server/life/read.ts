import type { CustomerState, Life } from '../../contract';
import { sum, type Money } from '../../core/money';
import { monthlyCost, paidNeeds, type Included, type Rate } from '../../core/rating';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { proposeOverrides } from '../changes';
import { listEnvironments, listHosts } from '../environments';
import { needsOf } from '../metering';
import { newestParent } from '../parent-runs';
import { planFeeNow, planFactsOf } from '../plans';
import { ratesOf } from '../pricing';
import { notFound } from '../problem';
import { retireEach } from './retire-each';
import { livingOf, unpaused } from './turn';

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
  const costs = await standing(app, scope, plan.included, rates, row.currency);
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
    started: sum(
      [costs.now, fee, ...(row.state === 'paused' ? await startings(app, scope) : [])],
      row.currency,
    ),
    leaving: await newestParent(app.db, scope, retireEach.kind),
    retentionDays: plan.retentionDays,
    retiredAt: row.retired_at,
    deletedAt: row.data_deleted_at,
  };
}

/** By how much the cost of a month changes in each environment of a paused customer who is started again. */
async function startings(app: App, scope: CustomerScope): Promise<Money[]> {
  const found: Money[] = [];
  for (const { id } of await livingOf(app.db, scope))
    found.push((await proposeOverrides(app, scope, id, 'power-on', unpaused)).monthly);
  return found;
}

/** What all that is wanted costs a month as it is, and with every host off. */
async function standing(
  app: App,
  scope: CustomerScope,
  included: readonly Included[],
  rates: readonly Rate[],
  currency: string,
): Promise<{ now: Money; paused: Money }> {
  const cost = async (off: boolean): Promise<Money> => {
    const needs = await needsOf(app, app.db, scope, off);
    const lines = monthlyCost(paidNeeds(needs, included), rates, app.clock.now(), currency).lines;
    return sum(
      lines.map((line) => line.amount),
      currency,
    );
  };
  return { now: await cost(false), paused: await cost(true) };
}
