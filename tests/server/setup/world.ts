import { CHANGES } from '../../../src/core/changes';
import type { Server } from 'node:http';
import { inject } from 'vitest';
import { freePort } from '../../../scripts/lib.mjs';
import { control, Living, type MovedClock } from '../../../src/demo/living';
import { seedCustomers, seedGround, seedOperators } from '../../../src/demo/seed';
import { OPERATORS, PROVIDERS } from '../../../src/demo/scenario';
import { peopleCsv, peopleOf } from '../../../src/demo/people';
import { enter, type CustomerScope, type Scope } from '../../../src/server/access';
import { apiOf, type Laager } from '../../../src/server/api';
import { closeApp, openAppOn, type App } from '../../../src/server/app';
import { wallClock } from '../../../src/server/clock';
import type { Config } from '../../../src/server/config';
import { KEPT_OTHERWISE, QUESTION_WROTE } from '../../../src/server/http/idempotency';
import { makeCatalogue } from '../../../src/server/catalogue';
import { insertMany, migrate, openDatabase, type DatabaseSettings } from '../../../src/server/db';
import { followDirectories } from '../../../src/server/directory-link';
import { importPeople } from '../../../src/server/people';
import { httpProvider, type Provider } from '../../../src/server/providers';
import { hashOf } from '../../../src/server/operators';
import { makeToken, scopeOfMail, SESSION_COOKIE } from '../../../src/server/sign-in';
import { own } from './ports';
import { JOBS } from '../../../src/server/rooms';
import { layOutJobs } from '../../../src/server/worker';
import { startDirectory } from '../../../src/standins/directory/start';
import { startMail } from '../../../src/standins/mail/start';
import { startProvider } from '../../../src/standins/provider/start';

export const SECRET = 'a provider secret of the tests';
export const DIRECTORY_KEY = 'a directory key of the tests';
export const DIRECTORY_TOKEN = 'a token of the tests';
export const SECRET_KEY = 'a key of at least thirty-two characters';
export const START = Date.UTC(2026, 10, 18, 9, 0);

export const settingsFor = (database: string): DatabaseSettings => ({
  host: '127.0.0.1',
  port: inject('databasePort'),
  user: 'root',
  password: '',
  database,
  connections: 12,
});

/** A text without our ids: one may happen to hold any three letters. */
export const withoutIds = (text: string): string => text.replace(/\b[0-9A-HJKMNP-TV-Z]{26}\b/g, 'id');

/** What an answer holds; the parts that many tests look at have their types. */
export interface Body {
  readonly entries: readonly unknown[];
  readonly proposal: {
    readonly tasks: readonly { readonly kind: string; readonly name: string }[];
    readonly destroyed: readonly string[];
  };
  readonly total: { readonly minor: number; readonly currency: string };
  readonly detail: string;
  readonly [key: string]: unknown;
}

export interface Called {
  readonly status: number;
  readonly body: Body;
  readonly text: string;
  readonly headers: Headers;
}

/** Laager with the scenario's ground and customers, its stand-ins in this process, and a clock moved by hand. */
export interface World {
  readonly app: App;
  readonly api: Laager;
  readonly clock: MovedClock;
  readonly living: Living;
  readonly simulationUrl: string;
  readonly directoryUrl: string;
  readonly mailUrl: string;
  readonly simulations: Readonly<Record<'coast' | 'northern', string>>;
  readonly tokens: Readonly<Record<'ida' | 'bram' | 'petra' | 'runa' | 'jonah', string>>;
  /** The providers as they are, past Laager. */
  port(provider?: 'coast' | 'northern'): Provider;
  scope(who: keyof World['tokens']): Promise<Scope>;
  inside(code: string): Promise<CustomerScope>;
  /** Calls the API as someone. */
  call(who: keyof World['tokens'], method: string, path: string, options?: CallOptions): Promise<Called>;
  /** As `call`, from a browser in which they have signed in. */
  callFromBrowser: World['call'];
  /** As `call`, with a token of any kind. */
  callWith(token: string, method: string, path: string, options?: CallOptions): Promise<Called>;
  close(): Promise<void>;
}

export interface CallOptions {
  readonly body?: unknown;
  readonly csv?: string;
  readonly yaml?: string;
  readonly headers?: Readonly<Record<string, string>>;
}

/** Laager on an empty database, with its stand-ins in this process. */
export interface EmptyWorld extends Omit<World, 'tokens' | 'scope' | 'inside' | 'call' | 'callFromBrowser'> {
  callWith(token: string, method: string, path: string, options?: CallOptions): Promise<Called>;
}

export async function openEmptyWorld(
  database: string,
  catalogue = makeCatalogue(),
  /** How the simulated providers' sites are: as they are in the demo, or grown. */
  sites: '' | '-grown' = '',
): Promise<EmptyWorld> {
  const withoutPool = (name: string) => {
    const { host, port, user, password } = settingsFor(database);
    return { host, port, user, password, database: `${database}_${name}` };
  };
  const port = own(4900);
  const providerPort = await freePort(port);
  const access = { account: PROVIDERS[0].account, secret: SECRET };
  const provider = await startProvider(withoutPool('provider'), providerPort, access, `coast${sites}`);
  const northernPort = await freePort(port);
  const northern = await startProvider(withoutPool('northern'), northernPort, access, `northern${sites}`);
  const directoryPort = await freePort(port);
  const directory = await startDirectory(withoutPool('directory'), directoryPort, DIRECTORY_KEY);
  const mailPort = await freePort(port);
  const mail = await startMail(withoutPool('mail'), mailPort);
  const url = (at: number): string => `http://127.0.0.1:${at}`;
  await migrate(settingsFor(database));
  const clock: MovedClock = { at: START };
  const config: Config = {
    database: settingsFor(database),
    secretKeys: [SECRET_KEY],
    directory: { url: url(directoryPort), key: DIRECTORY_KEY },
    mail: { url: url(mailPort) },
    address: 'http://laager.test',
    gates: [],
    processesFile: undefined,
    leaseMs: 30_000,
    logLevel: 'silent',
    simulations: [],
  };
  const app = openAppOn({
    config,
    part: 'test',
    db: openDatabase(config.database),
    clock: { ...wallClock, now: () => clock.at, wall: () => clock.at },
    catalogue,
  });
  const broken: { readonly what: unknown; readonly says: unknown }[] = [];
  app.log.error = (what: unknown, says?: unknown) => void broken.push({ what, says });
  const api = apiOf(app);
  const simulations = { coast: url(providerPort), northern: url(northernPort) };
  const living = new Living(app, clock, simulations);
  await living.moveTo(START);
  await layOutJobs(app, JOBS);
  return {
    app,
    api,
    clock,
    living,
    simulationUrl: url(providerPort),
    directoryUrl: url(directoryPort),
    mailUrl: url(mailPort),
    simulations,
    port: (code = 'coast') =>
      httpProvider({ code, url: simulations[code], account: access.account, secret: SECRET }),
    callWith: async (token, method, path, options = {}) => {
      const called = await callAs(api, token, method, path, options);
      const fault = broken.find(({ says }) => says === KEPT_OTHERWISE || says === QUESTION_WROTE);
      if (fault) throw new Error(`${path}: ${fault.says}: ${JSON.stringify(fault.what)}`);
      // This is rare and hard to repeat: the reason is printed with the failed test.
      if (called.body.type === 'urn:laager:problem:database') {
        process.stderr.write(`${path}: ${JSON.stringify(broken.at(-1)?.what)}\n`);
      }
      return called;
    },
    close: async () => {
      await closeApp(app);
      for (const { server, store } of [provider, northern, directory, mail]) {
        await new Promise((resolve) => endServer(server, resolve));
        await store.close();
      }
    },
  };
}

/** As `openEmptyWorld`, with the scenario's ground, customers and operators. */
export async function openWorld(
  database: string,
  catalogue = makeCatalogue(),
  sites: '' | '-grown' = '',
): Promise<World> {
  const world = await openEmptyWorld(database, catalogue, sites);
  const { app, simulations } = world;
  await seedGround(app, { urls: simulations, secret: SECRET }, START, START);
  await seedCustomers(app);
  await seedOperators(app, OPERATORS);
  const tokens = { ida: '', bram: '', petra: '', runa: '', jonah: '' };
  const scope = async (who: keyof typeof tokens): Promise<Scope> => {
    const found = await scopeOfMail(app.db, `${who}@terntallow.example`);
    if (!found) throw new Error(`${who} is missing`);
    return found;
  };
  for (const who of ['ida', 'bram', 'petra', 'runa', 'jonah'] as const)
    tokens[who] = (await makeToken(app, await scope(who), { name: 'test', days: 30 })).token;
  const inside = async (code: string): Promise<CustomerScope> => enter(app.db, await scope('bram'), code);
  for (const [code, people] of [
    ['SVG', 96],
    ['FPS', 28],
    ['MHP', 42],
    ['QFB', 9],
  ] as const)
    await importPeople(app, await inside(code), peopleCsv(peopleOf(code, people)), false);
  return {
    ...world,
    tokens,
    scope,
    inside,
    call: (who, method, path, options = {}) => world.callWith(tokens[who], method, path, options),
    callFromBrowser: async (who, method, path, { headers, ...options } = {}) =>
      world.callWith('', method, path, {
        ...options,
        headers: { ...OWN, cookie: await cookieOf(app, await scope(who)), ...headers },
      }),
  };
}

/** What a browser says of a request from our own pages. */
const OWN = { origin: 'http://laager.test', host: 'laager.test' };

/** The cookie of a browser in which somebody is signed in with all that they need. */
async function cookieOf({ db, clock }: App, { actor }: Scope): Promise<string> {
  const token = `browser of ${actor.id} ${Math.random()}`.replace(/\W/g, '-');
  await db.write(
    'INSERT INTO web_session (token_hash, operator_id, created_at, expires_at, with_factor) VALUES (?, ?, ?, ?, TRUE)',
    [hashOf(token), actor.id, clock.wall(), clock.wall() + 43_200_000],
  );
  return `${SESSION_COOKIE}=${token}`;
}

function endServer(server: Server, done: (value: unknown) => void): void {
  server.close(done);
  server.closeAllConnections();
}

let keys = 0;

async function callAs(
  api: Laager,
  token: string | undefined,
  method: string,
  path: string,
  options: CallOptions,
): Promise<Called> {
  const body =
    options.csv ?? options.yaml ?? (options.body === undefined ? undefined : JSON.stringify(options.body));
  const type =
    options.csv !== undefined
      ? 'text/csv'
      : options.yaml !== undefined
        ? 'application/yaml'
        : 'application/json';
  const request = new Request(`http://laager.test/api/v1${path}`, {
    method,
    headers: {
      ...(token === undefined || token === '' ? {} : { authorization: `Bearer ${token}` }),
      ...(body === undefined ? {} : { 'content-type': type }),
      // Every request that writes carries a key, as the interface's do: what is kept for it is compared with what was answered.
      ...(method === 'GET' ? {} : { 'idempotency-key': `test ${keys++}` }),
      ...options.headers,
    },
    ...(body === undefined ? {} : { body }),
  });
  const response = await api.answer(request);
  const text = await response.text();
  const isJson = response.headers.get('content-type')?.includes('json') ?? false;
  return {
    status: response.status,
    text,
    headers: response.headers,
    body: (isJson ? JSON.parse(text) : {}) as Body,
  };
}

/** Has the coast's provider have said that hosts of these names of its own stand, as rows that refer to them need it. */
export const notePresent = (world: EmptyWorld, customerId: string, refs: readonly string[]): Promise<void> =>
  insertMany(
    world.app.db,
    'present_resource',
    [
      'provider_code',
      'ref',
      'customer_id',
      'kind',
      'name',
      'site_code',
      'present_condition',
      'attributes',
      'provider_version',
      'made_at',
      'changed_at',
    ],
    refs.map((ref) => ['coast', ref, customerId, 'host', ref, 'KQ', 'gone', '{}', 1, 0, 0]),
    'ON DUPLICATE KEY UPDATE changed_at = 0',
  );

/** Who stands in a customer's simulated directory; groups of groups beside them. */
export const fillDirectory = (
  world: EmptyWorld,
  code: string,
  people: readonly object[],
  groups: readonly object[] = [],
): Promise<unknown> =>
  control(world.directoryUrl, 'PUT', `/control/realms/${code.toLowerCase()}.example`, {
    token: DIRECTORY_TOKEN,
    people,
    groups,
  });

/** Links a customer's directory and has it taken in. */
export async function linkDirectory(
  world: World,
  code: string,
  scope: { readonly units: readonly string[]; readonly groups: readonly string[] } = {
    units: [],
    groups: [],
  },
): Promise<void> {
  const path = `/customers/${code}/directory`;
  await world.call('ida', 'PUT', path, { body: { secret: DIRECTORY_TOKEN, ...scope, reason: 'a test' } });
  await world.call('ida', 'POST', `${path}/reading`, { body: { agree: null } });
  await followDirectories(world.app);
}

export interface Made {
  readonly environment: string;
  readonly run: string;
}

/** Where a change of a customer is proposed and begun. */
export const changePath = (code: string, kind: string, environment?: string): string =>
  environment === undefined
    ? `/customers/${code}/changes/${kind}`
    : `/customers/${code}/environments/${environment}/changes/${kind}`;

export interface ChangeOptions {
  readonly environment?: string;
  readonly policy?: object;
  readonly headers?: Readonly<Record<string, string>>;
  readonly who?: keyof World['tokens'];
}

/** Proposes a change through the API and begins it as proposed. @returns what beginning answered */
export async function change(
  world: World,
  code: string,
  kind: string,
  input: object,
  { environment, policy, headers = {}, who = 'ida' }: ChangeOptions = {},
): Promise<Called> {
  const path = changePath(code, kind, environment);
  const asked = { input, ...(policy ? { policy } : {}) };
  const proposed = await world.call(who, 'POST', `${path}/proposal`, { body: asked });
  if (proposed.status !== 200) return proposed;
  return world.call(who, 'POST', path, {
    headers,
    body: {
      ...asked,
      fingerprint: proposed.body.fingerprint,
      reason: 'a test',
      ...(proposed.body.proposal.destroyed.length > 0 ||
      CHANGES.some((one) => one.kind === kind && one.confirm === 'type the code')
        ? { code }
        : {}),
    },
  });
}

/** People as entries of a directory, each by its number: `entry(0)`, or with something otherwise. */
export const entriesOf =
  (people: readonly object[]) =>
  (n: number, over: object = {}): object => ({
    id: `person-${n}`,
    ...people[n],
    unit: '',
    groups: ['All staff'],
    ...over,
  });

/** As `change`, and it has to begin. */
export async function begin(
  world: World,
  code: string,
  kind: string,
  input: object,
  options: ChangeOptions = {},
): Promise<Made> {
  const made = await change(world, code, kind, input, options);
  if (made.status !== 201) throw new Error(`${kind}: ${made.text}`);
  return { environment: String(made.body.environment), run: String(made.body.run) };
}

/** Has a change held as it is proposed. @returns the hold's id */
export async function holdFor(
  world: World,
  code: string,
  kind: string,
  input: object,
  environment?: string,
): Promise<string> {
  const path = changePath(code, kind, environment);
  const { body } = await world.call('ida', 'POST', `${path}/proposal`, { body: { input } });
  const held = await world.call('ida', 'POST', `${path}/hold`, {
    body: { input, fingerprint: body.fingerprint, reason: 'a test', minutes: 60 * 24 },
  });
  if (held.status !== 201) throw new Error(`${kind}: ${held.text}`);
  return String(held.body.hold);
}

/** Provisions through the API and lets the run end. */
export async function provisionFor(
  world: World,
  code: string,
  environment: string,
  people: number,
  site: string,
): Promise<Made> {
  const made = await begin(world, code, 'provision', {
    environment,
    people,
    template: 'shared-office',
    site,
  });
  await world.living.untilQuiet();
  return made;
}

/** Has a lead raise a limit of a customer's plan for a year. */
export async function raise(world: World, code: string, limit: string, most: number): Promise<Called> {
  const until = world.clock.at + 365 * 86_400_000;
  const body = { limit, most, until, reason: 'for the test' };
  return world.call('bram', 'POST', `/customers/${code}/allowances`, { body });
}
