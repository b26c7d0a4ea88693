import { money, sum, type Money } from '../../core/money';
import { schedule, type Impact, type ProposedStep } from '../../core/proposal';
import { monthlyCost } from '../../core/rating';
import { proposeRetire } from '../../core/teardown';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { takeTurn, transaction, type Connection } from '../db';
import { ratesOf } from '../ground';
import { conflict, Problem } from '../problem';
import { createRun, type RunStep } from '../runs';
import { getEnvironment, listHosts } from './read';

const AT_A_TIME = 8;
const FAILURE_LIMIT = 3;

export interface RetireProposal {
  readonly environment: string;
  readonly steps: readonly ProposedStep[];
  readonly seconds: number;
  readonly hosts: readonly string[];
  readonly peopleIn: number;
  readonly peopleWarned: number;
  readonly givenBack: { readonly names: number; readonly subnet: string; readonly network: string | null };
  readonly saved: Money;
  readonly impact: Impact;
  readonly version: number;
}

/** What retiring an environment would do. @throws Problem 404, 409 when it is retired or on its way out already */
export async function proposeRetirement(app: App, scope: CustomerScope, id: string): Promise<RetireProposal> {
  return (await plan(app, app.db, scope, id)).proposal;
}

interface RetirePlan {
  readonly proposal: RetireProposal;
  readonly wantedIds: ReadonlyMap<string, string>;
  readonly poolId: string;
  readonly networkId: string;
}

async function plan(app: App, connection: Connection, scope: CustomerScope, id: string): Promise<RetirePlan> {
  const environment = await getEnvironment(connection, scope, id);
  if (environment.state === 'retired') throw conflict('retired', `${environment.name} is retired already.`);
  if (environment.state === 'leaving')
    throw conflict('leaving', `${environment.name} is being retired already.`);
  const hosts = await listHosts(connection, scope, id, { limit: 10_000 });
  const network = await connection.row<{ id: string; cidr: string; others: number }>(
    `SELECT n.id, n.cidr, (SELECT COUNT(*) FROM pool o JOIN environment e ON (e.customer_id, e.id) = (o.customer_id, o.environment_id)
       WHERE o.customer_id = n.customer_id AND o.network_id = n.id AND o.environment_id <> ?
         AND o.returned_at IS NULL AND e.wanted <> 'retired') AS others
     FROM network n JOIN pool p ON (p.customer_id, p.network_id) = (n.customer_id, n.id)
     WHERE n.customer_id = ? AND p.environment_id = ?`,
    [id, scope.customer.id, id],
  );
  const customer = await connection.row<{ currency: string; card_code: string }>(
    'SELECT currency, card_code FROM customer WHERE id = ?',
    [scope.customer.id],
  );
  if (!network || !customer) throw new Error(`environment ${id} has no network`);
  const steps = proposeRetire({
    environment: environment.name,
    pool: environment.pool.name,
    hosts: hosts.map((host) => host.name),
    networkShared: network.others > 0,
  });
  const scheduled = schedule(steps, AT_A_TIME);
  const seconds = scheduled.ok ? scheduled.value.finish : 0;
  const saved = sum(
    monthlyCost(
      [
        { meter: 'host', size: environment.pool.size, quantity: hosts.length },
        { meter: 'disk', size: null, quantity: hosts.length * environment.pool.diskGiB },
        { meter: 'share', size: null, quantity: environment.pool.shareGiB },
        { meter: 'licence', size: null, quantity: environment.people },
      ],
      await ratesOf(connection, customer.card_code),
      app.clock.now(),
      customer.currency,
    ).lines.map((line) => line.amount),
    customer.currency,
  );
  return {
    poolId: environment.pool.id,
    networkId: network.id,
    wantedIds: new Map(hosts.map((host) => [host.name, host.id])),
    proposal: {
      environment: environment.name,
      steps,
      seconds,
      hosts: hosts.map((host) => host.name),
      peopleIn: environment.peopleIn,
      peopleWarned: environment.people,
      givenBack: {
        names: hosts.length,
        subnet: environment.pool.subnet,
        network: network.others > 0 ? null : network.cidr,
      },
      saved,
      version: environment.version,
      impact: {
        people: environment.people,
        hosts: hosts.length,
        monthly: money(-saved.minor, saved.currency),
        seconds,
        undo: 'cannot be undone',
      },
    },
  };
}

/**
 * Begins to retire an environment.
 * @param request `code` is the customer's code, typed by who does it
 * @throws Problem 422 when the code is another; 409 while a run is at work on it or when it is retired already
 */
export async function retire(
  app: App,
  scope: CustomerScope,
  id: string,
  request: { readonly code: string; readonly reason: string; readonly version?: number | undefined },
): Promise<string> {
  if (request.code !== scope.customer.code)
    throw new Problem(422, 'code', "The customer's code was not typed.", {
      fields: { code: `type ${scope.customer.code}` },
    });
  return transaction(app.db, async (connection) => {
    // The customer's turn: of environments that go at the same moment, one takes their network along.
    await takeTurn(connection, 'customer', { id: scope.customer.id });
    await takeTurn(connection, 'environment', { customer_id: scope.customer.id, id });
    const busy = await connection.row<{ title: string }>(
      `SELECT title FROM run WHERE customer_id = ? AND environment_id = ? AND state IN ('running','stopping') LIMIT 1`,
      [scope.customer.id, id],
    );
    const { proposal, wantedIds, poolId, networkId } = await plan(app, connection, scope, id);
    if (busy) throw conflict('busy', `"${busy.title}" is at work: stop it first or let it end.`);
    if (request.version !== undefined && request.version !== proposal.version)
      throw new Problem(412, 'changed', 'The environment has changed since you looked.');
    await connection.write(
      "UPDATE environment SET wanted = 'retired', version = version + 1 WHERE customer_id = ? AND id = ?",
      [scope.customer.id, id],
    );
    await connection.write('UPDATE tally SET stale = TRUE WHERE customer_id = ?', [scope.customer.id]);
    const steps = proposal.steps.map((step): RunStep => {
      if (step.kind === 'remove-network') return { ...step, wantedId: networkId };
      if (step.kind === 'prove') return { ...step, wantedId: id };
      return { ...step, wantedId: wantedIds.get(step.subject) ?? poolId };
    });
    return createRun(
      connection,
      scope,
      {
        kind: 'retire',
        environmentId: id,
        title: `Retire ${proposal.environment}`,
        steps,
        atATime: AT_A_TIME,
        failureLimit: FAILURE_LIMIT,
        impact: proposal.impact,
        reason: request.reason,
        before: { wanted: 'serving', hosts: proposal.hosts, people: proposal.peopleWarned },
        after: { wanted: 'retired', givenBack: proposal.givenBack, saved: proposal.saved },
      },
      app.clock.now(),
      app.clock.wall(),
    );
  });
}
