import { DateTime } from 'luxon';
import { enter, type CustomerScope, type Scope } from '../server/access';
import type { App } from '../server/app';
import { transaction } from '../server/db';
import { setCustomerState } from '../server/customers';
import {
  changeHosts,
  listEnvironments,
  listHosts,
  proposeHere,
  provision,
  retire,
} from '../server/environments';
import { importPeople } from '../server/people';
import { getRun, resumeRun } from '../server/runs';
import { advance, DUTIES, hold, letGo } from '../server/worker';
import { peopleCsv, peopleOf } from './people';
import { CUSTOMERS, HISTORY, type DemoEvent } from './scenario';

/** A clock that the loader moves; the simulated provider's clock follows it. */
export interface MovedClock {
  at: number;
}

interface Dated {
  readonly at: number;
  readonly event: DemoEvent;
}

/** Lives the demo's 90 days through the services, the worker and the simulated provider, only faster. */
export async function liveHistory(
  app: App,
  operators: ReadonlyMap<string, Scope>,
  clock: MovedClock,
  simulationUrl: string,
  today: number,
): Promise<void> {
  const lived = new Living(app, clock, simulationUrl);
  const engineer = operators.get('engineer');
  const lead = operators.get('lead');
  if (!engineer || !lead) throw new Error('the demo needs an engineer and a lead');
  for (const customer of CUSTOMERS) {
    const scope = await enter(app.db, lead, customer.code);
    await importPeople(app, scope, peopleCsv(peopleOf(customer.code, customer.people)), false);
  }
  const dated = HISTORY.map((event): Dated => ({ event, at: dateOf(event, today) }))
    .filter(
      ({ at, event }) => at <= today && at >= today - 91 * 86_400_000 && (event.daysAgo >= 0 || at < today),
    )
    .sort((a, b) => a.at - b.at);
  for (const { at, event } of dated) {
    await lived.moveTo(at);
    const scope = await enter(app.db, event.do === 'state' ? lead : engineer, event.customer);
    await lived.happen(scope, event);
  }
  await lived.moveTo(today);
}

/** Weekend events count back in weeks from the last Friday: -1 - week is its Friday, -101 - week the Monday after it. */
function dateOf(event: DemoEvent, today: number): number {
  const midnight = DateTime.fromMillis(today, { zone: 'utc' }).startOf('day');
  if (event.daysAgo >= 0)
    return midnight.minus({ days: event.daysAgo }).plus({ hours: event.hour }).toMillis();
  const week = event.daysAgo <= -101 ? -101 - event.daysAgo : -1 - event.daysAgo;
  const friday = midnight.minus({ days: (midnight.weekday + 2) % 7 || 7, weeks: week });
  return friday.plus({ days: event.daysAgo <= -101 ? 3 : 0, hours: event.hour }).toMillis();
}

class Living {
  constructor(
    private readonly app: App,
    private readonly clock: MovedClock,
    private readonly simulationUrl: string,
  ) {}

  async moveTo(at: number): Promise<void> {
    this.clock.at = Math.max(this.clock.at, at);
    await this.control('PUT', '/control/clock', { at: this.clock.at, speed: 0 });
  }

  async happen(scope: CustomerScope, event: DemoEvent): Promise<void> {
    switch (event.do) {
      case 'provision':
        await this.provision(scope, event);
        return;
      case 'retire':
        await retire(this.app, scope, await this.environment(scope, event.environment), {
          code: scope.customer.code,
          reason: event.reason,
        });
        break;
      case 'change': {
        const environment = await this.environment(scope, event.environment);
        const hosts = await listHosts(this.app.db, scope, environment, { limit: 1000 });
        const chosen = hosts.slice(-event.hosts).map((host) => host.id);
        await changeHosts(this.app, scope, {
          environment,
          hosts: chosen,
          change: event.change,
          reason: event.reason,
        });
        break;
      }
      case 'state':
        await transaction(this.app.db, (connection) =>
          setCustomerState(connection, scope, event.state, this.app.clock.now()),
        );
        return;
    }
    await this.untilQuiet();
  }

  private async provision(
    scope: CustomerScope,
    event: Extract<DemoEvent, { do: 'provision' }>,
  ): Promise<void> {
    const site = event.site ?? CUSTOMERS.find((one) => one.code === scope.customer.code)?.site ?? '';
    const { environment, people, profile, reason } = event;
    const request = { environment, people, profile, template: 'shared-office', site };
    const { stamp } = await proposeHere(this.app, scope, request);
    if (event.fails)
      await this.faults([{ kind: 'fail-host', target: event.fails.host, amount: event.fails.times }]);
    const { run } = await provision(this.app, scope, { ...request, stamp, reason });
    await this.untilQuiet();
    await this.faults([]);
    if (event.staysStopped === true) return;
    if ((await getRun(this.app.db, scope, run)).state === 'stopped') {
      await this.moveTo(this.clock.at + 20 * 60_000);
      await resumeRun(this.app, scope, run);
      await this.untilQuiet();
    }
  }

  private async environment(scope: CustomerScope, name: string): Promise<string> {
    const all = await listEnvironments(this.app.db, scope);
    const found = all.find((one) => one.name === name && one.retiredAt === null);
    if (!found) throw new Error(`${scope.customer.code} has no environment ${name}`);
    return found.id;
  }

  /** Does steps and lets the provider's time pass until no run is at work, then reads what has changed. */
  private async untilQuiet(): Promise<void> {
    for (;;) {
      const moved = await Promise.all(Array.from({ length: 6 }, () => advance(this.app)));
      if (moved.some((one) => one)) continue;
      const running = await this.app.db.row<{ runs: number }>(
        "SELECT COUNT(*) AS runs FROM run WHERE state IN ('running','stopping')",
      );
      if ((running?.runs ?? 0) === 0) break;
      const next = (await this.control('GET', '/control/next')) as { ready_at: number | null };
      await this.moveTo(Math.max(this.clock.at + 500, next.ready_at ?? 0));
    }
    await this.duty('feed');
  }

  private async duty(name: string): Promise<void> {
    const duty = DUTIES.find((one) => one.name === name);
    const held = duty && (await hold(this.app, duty));
    if (!duty || !held) throw new Error(`duty ${name} is not to be had`);
    await duty.run(this.app, held);
    await letGo(this.app, { ...duty, everyMs: 0 }, held);
  }

  private async faults(faults: readonly { kind: string; target: string; amount: number }[]): Promise<void> {
    await this.control('PUT', '/control/faults', { faults });
  }

  private async control(method: string, path: string, body?: unknown): Promise<unknown> {
    const response = await fetch(this.simulationUrl + path, {
      method,
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
    return response.json();
  }
}
