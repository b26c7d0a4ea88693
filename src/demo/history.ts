import { DateTime } from 'luxon';
import { OWN_CODE } from '../contract';
import { enter, type CustomerScope, type Scope } from '../server/access';
import type { App } from '../server/app';
import type { Begun } from '../server/changes';
import { keepCertificate } from '../server/certificates';
import { addRevision } from '../server/templates';
import { setCustomerState } from '../server/customers';
import { listGroups } from '../server/grants';
import { hostOf, listEnvironments, listHosts } from '../server/environments';
import { importPeople } from '../server/people';
import { keepText } from '../server/message-texts';
import { keepSteps } from '../server/saved-steps';
import { getRun, resumeRun } from '../server/runs';
import { openCoastAuthority } from './authority';
import { beginAsProposed } from './begin';
import { fillDirectory, linkDirectory, linkIdentity } from './directory';
import { Living, type MovedClock } from './living';
import { peopleCsv, peopleOf } from './people';
import {
  CERTIFICATES,
  CUSTOMERS,
  HISTORY,
  MESSAGE_TEXTS,
  RANGES,
  SAVED_STEPS,
  SHELF,
  type DemoEvent,
  type DemoMoment,
} from './scenario';

interface Dated {
  readonly at: number;
  readonly event: DemoEvent;
}

/** Lives the demo's 90 days through the services, the worker and the simulated provider, only faster. */
export async function liveHistory(
  app: App,
  operators: ReadonlyMap<string, Scope>,
  clock: MovedClock,
  simulations: Readonly<Record<string, string>>,
  today: number,
): Promise<void> {
  const living = new Living(app, clock, simulations);
  const engineer = operators.get('engineer');
  const lead = operators.get('lead');
  if (!engineer || !lead) throw new Error('the demo needs an engineer and a lead');
  for (const customer of CUSTOMERS) {
    const scope = await enter(app.db, lead, customer.code);
    await fillDirectory(customer.code, customer.people);
    await importPeople(app, scope, peopleCsv(peopleOf(customer.code, customer.people)), false);
    await linkDirectory(app, scope);
  }
  const certify = openCoastAuthority(clock.at - 86_400_000);
  for (const { customer, days } of CERTIFICATES) {
    const scope = await enter(app.db, lead, customer);
    const { gatewayName = '' } = CUSTOMERS.find((one) => one.code === customer) ?? {};
    const pem = certify(gatewayName, today + days * 86_400_000);
    await keepCertificate(app, scope, { pem, pkcs12: '', password: '', reason: 'their first one' });
  }
  const own = await enter(app.db, lead, OWN_CODE, true);
  for (const { site } of RANGES)
    await beginAsProposed(app, own, 'provide-services', { site }, 'before anyone is hosted there');
  await keepSteps(app, await enter(app.db, engineer, OWN_CODE, true), SAVED_STEPS);
  for (const text of MESSAGE_TEXTS) await keepText(app, engineer, text);
  await living.untilQuiet();
  const dated = HISTORY.map((event): Dated => ({ event, at: dateOf(event, today) }))
    .filter(({ at }) => at <= today)
    .sort((a, b) => a.at - b.at);
  const measured = hoursOf(today);
  const stockedAt = today - SHELF.daysAgo * 86_400_000;
  let isStocked = false;
  for (const { at, event } of dated) {
    if (!isStocked && at > stockedAt) {
      isStocked = true;
      await living.moveTo(stockedAt);
      await beginAsProposed(app, own, 'stock-shelf', SHELF.input, 'the first person in within a minute');
      await living.untilQuiet();
    }
    while ((measured[0] ?? Infinity) < at) await measure(living, measured.shift() ?? at);
    await living.moveTo(at);
    if (event.do === 'template') {
      await addRevision(app, engineer, { ...event, owner: '' });
      continue;
    }
    const scope =
      event.do === 'image'
        ? await enter(app.db, engineer, event.owner ?? OWN_CODE, true)
        : await enter(app.db, event.do === 'state' ? lead : engineer, event.customer);
    await happen(living, scope, event);
  }
  for (const at of measured) await measure(living, at);
  await living.moveTo(today);
  await linkIdentity(app, await enter(app.db, lead, 'SVG'));
}

/** So many days it is noted who is in, hour by hour. */
const MEASURED_DAYS = 8;

const hoursOf = (today: number): number[] =>
  Array.from({ length: MEASURED_DAYS * 24 }, (_, n) => today - (MEASURED_DAYS * 24 - n) * 3_600_000);

async function measure(living: Living, at: number): Promise<void> {
  await living.moveTo(at);
  await living.job('sessions');
  await living.job('peaks');
}

function dateOf(moment: DemoMoment, today: number): number {
  const midnight = DateTime.fromMillis(today, { zone: 'utc' }).startOf('day');
  const hours = moment.hour;
  if ('daysAgo' in moment) return midnight.minus({ days: moment.daysAgo }).plus({ hours }).toMillis();
  const lastFriday = midnight.minus({ days: (midnight.weekday + 2) % 7 || 7 });
  const days = moment.day === 'Friday' ? 0 : 3;
  return lastFriday.minus({ weeks: moment.weekendsAgo }).plus({ days, hours }).toMillis();
}

async function happen(
  living: Living,
  scope: CustomerScope,
  event: Exclude<DemoEvent, { do: 'template' }>,
): Promise<void> {
  switch (event.do) {
    case 'provision':
      await provisionFor(living, scope, event);
      return;
    case 'retire':
      await change(living.app, scope, 'retire', {}, event.reason, event.environment);
      break;
    case 'change': {
      const environment = await environmentNamed(living.app, scope, event.environment);
      const hosts = await listHosts(living.app.db, scope, environment, { limit: 1000 });
      const ids = hosts
        .filter(({ pool }) => event.pool === undefined || pool === event.pool)
        .slice(-event.hosts)
        .map((host) => host.id);
      await change(living.app, scope, event.change, { hosts: ids }, event.reason, event.environment);
      break;
    }
    case 'pool':
      await change(living.app, scope, event.change, event.input, event.reason, event.environment);
      break;
    case 'grants':
      await change(
        living.app,
        scope,
        'grant-items',
        await grantsOf(living.app, scope, event),
        event.reason,
        event.environment,
      );
      break;
    case 'image':
      await change(living.app, scope, event.change, event.input, event.reason, event.image ?? undefined);
      await living.untilQuiet();
      await living.job('machines');
      break;
    case 'by hand': {
      const { port } = await living.app.providers.at(event.make.site);
      await port.make(event.make, `by hand ${event.make.name}`);
      break;
    }
    case 'ails': {
      const environment = await environmentNamed(living.app, scope, event.environment);
      const listed = (await listHosts(living.app.db, scope, environment, { limit: 1000 }))[event.host];
      const found = listed && (await hostOf(living.app.db, scope, listed.id));
      if (!found?.host.ref) throw new Error(`${event.environment} has no such host`);
      await living.ail(found.provider, found.host.ref, event.given);
      return;
    }
    case 'state':
      await setCustomerState(living.app, scope, event.state);
      return;
  }
  await living.untilQuiet();
}

async function provisionFor(
  living: Living,
  scope: CustomerScope,
  event: Extract<DemoEvent, { do: 'provision' }>,
): Promise<void> {
  const site = event.site ?? CUSTOMERS.find((one) => one.code === scope.customer.code)?.site ?? '';
  const { environment, people, profile, reason, inputs = [{ key: 'work', value: profile }] } = event;
  const { template = 'shared-office' } = event;
  const input = { environment, people, template, site, inputs };
  if (event.fails)
    await living.faults([{ kind: 'fail-host', target: event.fails.host, amount: event.fails.times }]);
  const { run } = await change(living.app, scope, 'provision', input, reason);
  await living.untilQuiet();
  await living.faults([]);
  if (event.staysStopped === true) return;
  if ((await getRun(living.app.db, scope, run)).state === 'stopped') {
    await living.moveTo(living.now() + 20 * 60_000);
    await resumeRun(living.app, scope, run);
    await living.untilQuiet();
  }
}

async function grantsOf(
  app: App,
  scope: CustomerScope,
  { pool, add, take }: Extract<DemoEvent, { do: 'grants' }>,
): Promise<object> {
  const { entries: groups } = await listGroups(app, scope);
  const idOf = (name: string): string => groups.find((one) => one.name === name)?.id ?? '';
  return {
    add: add.map(({ item, group }) => ({ pool, item, to: 'group', id: idOf(group) })),
    take: take.map((item) => ({ pool, item, to: 'everyone' })),
  };
}

/** Proposes a change and begins it as proposed. @param name of the environment that it changes */
async function change(
  app: App,
  scope: CustomerScope,
  kind: string,
  input: unknown,
  reason: string,
  name?: string,
): Promise<Begun> {
  const environment = name === undefined ? undefined : await environmentNamed(app, scope, name);
  return beginAsProposed(app, scope, kind, input, reason, environment);
}

async function environmentNamed(app: App, scope: CustomerScope, name: string): Promise<string> {
  const all = await listEnvironments(app.db, scope);
  const found = all.find((one) => one.name === name && one.retiredAt === null);
  if (!found) throw new Error(`${scope.customer.code} has no environment ${name}`);
  return found.id;
}
