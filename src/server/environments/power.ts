import { nothing } from '../../core/money';
import { finishTime, POWER_AT_A_TIME, proposePower, type PowerChange } from '../../core/proposal';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import { takeTurn, transaction } from '../db';
import { conflict, notFound, Problem } from '../problem';
import { createRun } from '../runs';

export interface HostChange {
  readonly environment: string;
  /** Each with the version that was seen, when one was: it is refused when someone has changed the host meanwhile. */
  readonly hosts: readonly { readonly id: string; readonly version?: number | undefined }[];
  readonly change: PowerChange;
  readonly reason: string;
}

const VERB: Readonly<Record<PowerChange, string>> = {
  'power-on': 'Power on',
  'power-off': 'Power off',
  drain: 'Drain',
  accept: 'Put back',
};

interface LockedHost {
  readonly id: string;
  readonly name: string;
  readonly version: number;
  readonly wanted_power: 'on' | 'off';
  readonly wanted_accepting: boolean | 0 | 1;
  readonly currency: string;
  readonly sessions: number;
}

/**
 * Wants hosts on, off, drained or put back, and begins the run that makes it so.
 * @returns the run's id
 * @throws Problem 404 when one of the hosts is not in this environment, 409 when the environment is to go, 412 when one
 *   has changed since it was seen
 */
export async function changeHosts(app: App, scope: CustomerScope, change: HostChange): Promise<string> {
  const seen = new Map(change.hosts.map((host) => [host.id, host.version]));
  const ids = [...seen.keys()];
  if (ids.length === 0)
    throw new Problem(422, 'hosts', 'No host was chosen.', { fields: { hosts: 'choose at least one' } });
  return transaction(app.db, async (connection) => {
    await takeTurn(connection, 'environment', { customer_id: scope.customer.id, id: change.environment });
    const environment = await connection.row<{ name: string; wanted: string }>(
      'SELECT name, wanted FROM environment WHERE customer_id = ? AND id = ?',
      [scope.customer.id, change.environment],
    );
    if (!environment) throw notFound('environment');
    if (environment.wanted === 'retired') throw conflict('retired', `${environment.name} is being retired.`);
    const hosts = await connection.rows<LockedHost>(
      `SELECT h.id, h.name, h.version, h.wanted_power, h.wanted_accepting, c.currency,
         (SELECT COUNT(*) FROM session_seen x JOIN link l ON l.customer_id = x.customer_id AND l.ref = x.host_ref
           WHERE l.customer_id = h.customer_id AND l.kind = 'host' AND l.wanted_id = h.id) AS sessions
       FROM host h JOIN pool p ON (p.customer_id, p.id) = (h.customer_id, h.pool_id)
         JOIN customer c ON c.id = h.customer_id
       WHERE h.customer_id = ? AND p.environment_id = ? AND h.returned_at IS NULL
         AND h.id IN (${ids.map(() => '?').join(',')}) ORDER BY h.name FOR UPDATE`,
      [scope.customer.id, change.environment, ...ids],
    );
    const [first] = hosts;
    if (!first || hosts.length < ids.length) throw notFound('host');
    refuseStale(hosts, seen);
    const [column, wanted] = wantedBy(change.change);
    await connection.write(
      `UPDATE host SET ${column} = ?, version = version + 1
       WHERE customer_id = ? AND id IN (${ids.map(() => '?').join(',')})`,
      [wanted, scope.customer.id, ...ids],
    );
    const steps = proposePower(
      change.change,
      hosts.map((host) => host.name),
    );
    const idOf = new Map(hosts.map((host) => [host.name, host.id]));
    await connection.write('UPDATE tally SET stale = TRUE WHERE customer_id = ?', [scope.customer.id]);
    return createRun(
      connection,
      scope,
      {
        kind: change.change,
        environmentId: change.environment,
        title: `${VERB[change.change]} ${hosts.length === 1 ? first.name : `${hosts.length} hosts`} of ${environment.name}`,
        steps: steps.map((step) => ({ ...step, wantedId: idOf.get(step.subject) ?? '' })),
        atATime: POWER_AT_A_TIME,
        failureLimit: Math.max(1, Math.ceil(hosts.length / 2)),
        impact: {
          people: hosts.reduce((sum, host) => sum + host.sessions, 0),
          hosts: hosts.length,
          monthly: nothing(first.currency),
          seconds: finishTime(steps, POWER_AT_A_TIME),
          undo: 'can be undone',
        },
        reason: change.reason,
        before: wantedOf(hosts),
        after: wantedOf(hosts.map((host) => ({ ...host, [column]: wanted }))),
      },
      app.clock.now(),
      app.clock.wall(),
    );
  });
}

/** What is wanted of each host, in a word. */
const wantedOf = (hosts: readonly LockedHost[]): Readonly<Record<string, string>> =>
  Object.fromEntries(
    hosts.map((host) => [
      host.name,
      host.wanted_power === 'off' ? 'off' : host.wanted_accepting ? 'on' : 'drained',
    ]),
  );

function refuseStale(hosts: readonly LockedHost[], seen: ReadonlyMap<string, number | undefined>): void {
  const changed = hosts.filter((host) => (seen.get(host.id) ?? host.version) !== host.version);
  if (changed.length === 0) return;
  const names = changed.map((host) => host.name).join(', ');
  throw new Problem(412, 'changed', `Someone has changed ${names} since you looked.`);
}

function wantedBy(
  change: PowerChange,
): [column: 'wanted_power' | 'wanted_accepting', value: string | boolean] {
  switch (change) {
    case 'power-on':
      return ['wanted_power', 'on'];
    case 'power-off':
      return ['wanted_power', 'off'];
    case 'drain':
      return ['wanted_accepting', false];
    case 'accept':
      return ['wanted_accepting', true];
  }
}
