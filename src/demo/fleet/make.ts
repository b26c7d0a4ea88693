import { NO_DETAILS } from '../../contract';
import pLimit from 'p-limit';
import type { Measure } from '../../core/metering';
import type { KnownResource } from '../../core/facts';
import { enter, SYSTEM, type CustomerScope, type Scope } from '../../server/access';
import type { App } from '../../server/app';
import type { Begun } from '../../server/changes';
import { knownResources } from '../../server/facts';
import { createCustomer, setCustomerState } from '../../server/customers';
import { addIntervals, type PastInterval } from '../../server/metering';
import { importPeople } from '../../server/people';
import { keepPlan } from '../../server/plans';
import { planless } from '../seed';
import { addRate, createCard } from '../../server/pricing';
import { noteStanding } from '../../server/runs';
import { addRange } from '../../server/sites';
import { addRevision } from '../../server/templates';
import { takeSummaries } from '../../server/watch';
import { write } from '../../server/write';
import { beginAsProposed } from '../begin';
import { control, Living, type MovedClock } from '../living';
import { peopleCsv, peopleOf } from '../people';
import { fleetCustomers, type FleetCustomer, type FleetEnvironment } from './customers';
import { stretchesOf } from './past';
import { FLEET_CARDS, FLEET_PLANS, FLEET_RANGES, FLEET_TEMPLATES } from './scenario';
import { askFor, standingOf, type Place, type Standing } from './standing';
import { troubleOf, type HostTrouble } from './trouble';

/*
 * The fleet is made through the services, as people would make it: customers are taken on, people imported, environments
 * proposed and begun. Only what would take weeks is not waited for: what the runs would build stands at the simulated
 * provider at once, and the months behind are metered in one go.
 */

const MINUTE = 60_000;
const DAY = 24 * 60 * MINUTE;
/** Since when a price that has lapsed holds no more. */
const LAPSED_DAYS = 10;
/** Resources told to the simulated provider at a time. */
const CHUNK = 200;

export interface FleetHouse {
  readonly app: App;
  readonly clock: MovedClock;
  /** Where the simulated providers are controlled, by their code. */
  readonly simulations: Readonly<Record<string, string>>;
  readonly engineer: Scope;
  readonly lead: Scope;
  readonly say: (line: string) => void;
}

/** The ground that the fleet stands on, beyond that of the eight. */
export async function seedFleetGround({ app }: FleetHouse, start: number, today: number): Promise<void> {
  for (const { site, cidr } of FLEET_RANGES) await addRange(app, SYSTEM, site, cidr);
  for (const { code, ...plan } of FLEET_PLANS) await keepPlan(app, SYSTEM, code, { ...planless, ...plan });
  for (const { rates, lapsed, ...card } of FLEET_CARDS) {
    await createCard(app, SYSTEM, { ...card, rates: [] });
    for (const { meter, size, unit, price } of rates)
      await addRate(app, SYSTEM, card.code, {
        meter,
        unit,
        size: size === '' ? null : size,
        price,
        from: start,
        to: meter === lapsed ? today - LAPSED_DAYS * DAY : null,
      });
  }
  for (const template of FLEET_TEMPLATES) await addRevision(app, SYSTEM, { owner: '', ...template });
}

/** What stands, with how it was metered until now. */
interface Stood {
  readonly scope: CustomerScope;
  readonly environment: string | null;
  readonly pool: string;
  readonly zone: string;
  readonly sleeps: boolean;
  readonly since: number;
  readonly refs: readonly { readonly ref: string; readonly resource: KnownResource; readonly site: string }[];
}

interface Dated {
  readonly n: number;
  readonly customer: FleetCustomer;
  readonly environment: FleetEnvironment;
}

const begunAgo = ({ environment }: Dated): number => environment.daysAgo * DAY - environment.minutes * MINUTE;

/** Takes on the first `count` customers, with all that is theirs. */
export async function makeFleet(house: FleetHouse, count: number, today: number): Promise<void> {
  const { app, clock, say } = house;
  const living = new Living(app, clock, house.simulations);
  const customers = fleetCustomers(count);
  const scopes = new Map<string, CustomerScope>();
  for (const customer of customers) scopes.set(customer.code, await takeOn(house, customer));
  say(`  ${customers.length} customers with ${customers.reduce((sum, one) => sum + one.people, 0)} people`);
  const dated = customers
    .flatMap((customer) => customer.environments.map((environment) => ({ customer, environment })))
    .map((one, n): Dated => ({ ...one, n }))
    .sort((a, b) => begunAgo(b) - begunAgo(a));
  const stood: Stood[] = [];
  const networks = new Map<string, string>();
  const begunLate: Dated[] = [];
  for (const one of dated) {
    const scope = scopes.get(one.customer.code);
    const trouble = troubleOf(one.n, one.environment);
    if (!scope) continue;
    if (trouble === 'is being built' || trouble === 'stopped') {
      begunLate.push(one);
      continue;
    }
    clock.at = today - one.environment.daysAgo * DAY + one.environment.minutes * MINUTE;
    stood.push(...(await provisionAndStand(house, scope, one, trouble, networks)));
  }
  await living.moveTo(today);
  say(`  ${dated.length} environments, ${stood.reduce((sum, one) => sum + one.refs.length, 0)} resources`);
  // What stands is read as at any provider; only then can be told how it was metered until now.
  await living.job('feed');
  say('  read at the providers');
  const atOnce = pLimit(4);
  await Promise.all(stood.map((one) => atOnce(() => meterPast(app, one, clock.at))));
  say('  metered');
  const faults: { kind: string; target: string; amount: number }[] = [];
  for (const one of begunLate) {
    const scope = scopes.get(one.customer.code);
    if (!scope) continue;
    const begun = await begin(house, scope, one);
    if (troubleOf(one.n, one.environment) === 'stopped')
      for (const host of begun.known.filter((known) => known.kind === 'host').slice(0, 2))
        faults.push({ kind: 'fail-host', target: host.name, amount: 99 });
  }
  for (const { code, state } of customers) {
    const scope = scopes.get(code);
    if (scope && (state === 'paused' || state === 'leaving')) await setCustomerState(app, scope, state);
  }
  if (faults.length > 0) for (const code of Object.keys(house.simulations)) await living.faults(faults, code);
  // Everyone is counted before anyone looks.
  await living.job('sessions');
  while ((await takeSummaries(app)) > 0);
  say('  counted');
}

async function takeOn(house: FleetHouse, customer: FleetCustomer): Promise<CustomerScope> {
  const { app } = house;
  const { code, name, plan, site, zone, currency } = customer;
  await createCustomer(app, SYSTEM, {
    ...NO_DETAILS,
    code,
    name,
    plan,
    site,
    zone,
    currency,
    card: customer.card,
    state: customer.state === 'trial' ? 'trial' : 'active',
  });
  const scope = await enter(app.db, house.lead, code);
  await importPeople(app, scope, peopleCsv(peopleOf(code, customer.people)), false);
  return scope;
}

interface BegunEnvironment {
  readonly id: string;
  readonly runs: readonly string[];
  readonly known: readonly KnownResource[];
}

async function begin(house: FleetHouse, scope: CustomerScope, one: Dated): Promise<BegunEnvironment> {
  const { name, template, site, people } = one.environment;
  const input = { environment: name, template, site, people };
  const { run, environment } = await change(house, scope, 'provision', input, one.environment.reason);
  const known = await knownResources(house.app.db, scope, { site, environment });
  return { id: environment, runs: [run], known };
}

/** Begins a change, as whoever works for the customer. */
const change = async (
  house: FleetHouse,
  scope: CustomerScope,
  kind: string,
  input: unknown,
  reason: string,
  environment?: string,
): Promise<Begun> =>
  beginAsProposed(
    house.app,
    await enter(house.app.db, hand(house, scope), scope.customer.code),
    kind,
    input,
    reason,
    environment,
  );

/** The lead does every third customer's work. */
const hand = ({ engineer, lead }: FleetHouse, { customer }: CustomerScope): Scope =>
  customer.code.charCodeAt(0) % 3 === 0 ? lead : engineer;

/** Begins an environment; of a customer who is pausing, its hosts are switched off. */
async function beginAll(house: FleetHouse, scope: CustomerScope, one: Dated): Promise<BegunEnvironment> {
  const begun = await begin(house, scope, one);
  if (one.customer.state !== 'paused') return begun;
  const hosts = begun.known.filter((known) => known.kind === 'host').map((host) => host.id);
  const { run } = await change(house, scope, 'power-off', { hosts }, 'closed for the season', begun.id);
  const { site } = one.environment;
  const known = await knownResources(house.app.db, scope, { site, environment: begun.id });
  return { ...begun, runs: [...begun.runs, run], known };
}

async function provisionAndStand(
  house: FleetHouse,
  scope: CustomerScope,
  one: Dated,
  trouble: HostTrouble | undefined,
  networks: Map<string, string>,
): Promise<Stood[]> {
  const { app, clock } = house;
  const { environment, customer } = one;
  const { id, runs, known } = await beginAll(house, scope, one);
  const place: Place = {
    scope,
    site: environment.site,
    run: runs[0] ?? '',
    realm: `${customer.code.toLowerCase()}.example`,
    environment: { id, name: environment.name, people: environment.people, template: environment.template },
  };
  const network = `${customer.code} network:${environment.site}`;
  const refs = new Map<string, string>();
  const standsAlready = networks.get(network);
  if (standsAlready !== undefined) refs.set(`network:${environment.site}`, standsAlready);
  const code = environment.site === 'NL' ? 'northern' : 'coast';
  const url = house.simulations[code] ?? '';
  const made: { readonly ref: string; readonly resource: KnownResource; readonly site: string }[] = [];
  let hosts = 0;
  for (const kind of app.catalogue.kinds) {
    const mine = known.filter((resource) => resource.kind === kind.key && !refs.has(resource.key));
    const all: { readonly resource: KnownResource; readonly standing: Standing }[] = [];
    for (const resource of mine) {
      const ask = await askFor(app, place, resource, refs);
      const pool = refs.get(String(resource.attributes.pool));
      const standing = standingOf(ask, resource.attributes, pool, clock.at);
      const troubled = trouble && resource.kind === 'host' ? trouble(standing, hosts++) : standing;
      if (troubled) all.push({ resource, standing: troubled });
    }
    for (let at = 0; at < all.length; at += CHUNK) {
      const chunk = all.slice(at, at + CHUNK);
      const told = (await control(url, 'POST', '/control/standing', {
        resources: chunk.map((each) => each.standing),
      })) as { refs: string[] };
      for (const [n, { resource }] of chunk.entries()) {
        refs.set(resource.key, told.refs[n] ?? '');
        made.push({ ref: told.refs[n] ?? '', resource, site: environment.site });
      }
    }
  }
  networks.set(network, refs.get(`network:${environment.site}`) ?? '');
  const stands = new Map(made.map(({ ref, resource }) => [resource.id, ref]));
  for (const run of runs)
    await write(app, scope, [{ table: 'run', key: { customer_id: scope.customer.id, id: run } }], (tx) =>
      noteStanding(tx, scope, run, stands, clock.at),
    );
  const { zone } = customer;
  const pools = new Map<string, typeof made>();
  for (const each of made) {
    const isShared = each.resource.key.startsWith('network:');
    const pool = isShared ? '' : (each.resource.key.split(':')[1] ?? '');
    const key = `${isShared ? '' : id} ${pool}`;
    pools.set(key, [...(pools.get(key) ?? []), each]);
  }
  return [...pools].map(([key, all]) => {
    const [environmentId = '', pool = ''] = key.split(' ');
    return {
      scope,
      environment: environmentId === '' ? null : environmentId,
      pool,
      zone,
      sleeps: environment.sleeps,
      since: clock.at,
      refs: all,
    };
  });
}

async function meterPast(app: App, stood: Stood, now: number): Promise<void> {
  const rows = stood.refs.flatMap(({ ref, resource, site }): PastInterval[] => {
    const kind = app.catalogue.kind(resource.kind);
    const measures = (power: string): readonly Measure[] =>
      kind.meters({ ...resource.attributes, ...(resource.attributes.power === 'on' ? { power } : {}) });
    const past = { from: stood.since, to: now, zone: stood.zone, sleeps: stood.sleeps };
    return stretchesOf(past, measures('on'), measures('off')).map((stretch) => ({
      provider: site === 'NL' ? 'northern' : 'coast',
      ref,
      environmentId: stood.environment,
      pool: stood.pool,
      ...stretch,
    }));
  });
  await addIntervals(app.db, stood.scope.customer, rows);
}
