import type { Server } from 'node:http';
import { inject } from 'vitest';
import { freePort } from '../../../scripts/lib.mjs';
import { Living, type MovedClock } from '../../../src/demo/living';
import { seedCustomers, seedGround } from '../../../src/demo/seed';
import { PROVIDER } from '../../../src/demo/scenario';
import { peopleCsv, peopleOf } from '../../../src/demo/people';
import { enter, type CustomerScope, type Scope } from '../../../src/server/access';
import { closeApp, openAppOn, type App } from '../../../src/server/app';
import { migrate, type DatabaseSettings } from '../../../src/server/db';
import { answer } from '../../../src/server/http';
import { importPeople } from '../../../src/server/people';
import { makeToken, scopeOfMail } from '../../../src/server/sign-in';
import { layOutDuties } from '../../../src/server/worker';
import { startDirectory } from '../../../src/standins/directory/start';
import { startMail } from '../../../src/standins/mail/start';
import { startProvider } from '../../../src/standins/provider/start';

export const SECRET = 'a provider secret of the tests';
export const DIRECTORY_KEY = 'a directory key of the tests';
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

/** What an answer holds; the parts that many tests look at have their types. */
export interface Body {
  readonly entries: readonly unknown[];
  readonly proposal: { readonly hosts: readonly unknown[] };
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
  readonly clock: MovedClock;
  readonly living: Living;
  readonly simulationUrl: string;
  readonly tokens: Readonly<Record<'ida' | 'bram' | 'petra' | 'jonah', string>>;
  scope(who: keyof World['tokens']): Promise<Scope>;
  inside(code: string): Promise<CustomerScope>;
  /** Calls the API as someone. */
  call(who: keyof World['tokens'], method: string, path: string, options?: CallOptions): Promise<Called>;
  close(): Promise<void>;
}

export interface CallOptions {
  readonly body?: unknown;
  readonly csv?: string;
  readonly headers?: Readonly<Record<string, string>>;
}

export async function openWorld(database: string): Promise<World> {
  const withoutPool = (name: string) => {
    const { host, port, user, password } = settingsFor(database);
    return { host, port, user, password, database: `${database}_${name}` };
  };
  const port = 4900;
  const providerPort = await freePort(port);
  const provider = await startProvider(withoutPool('provider'), providerPort, {
    account: PROVIDER.account,
    secret: SECRET,
  });
  const directoryPort = await freePort(port);
  const directory = await startDirectory(withoutPool('directory'), directoryPort, DIRECTORY_KEY);
  const mailPort = await freePort(port);
  const mail = await startMail(withoutPool('mail'), mailPort);
  const url = (at: number): string => `http://127.0.0.1:${at}`;
  await migrate(settingsFor(database));
  const clock: MovedClock = { at: START };
  const real = await openAppOn(settingsFor(database), 'test', {
    secretKey: SECRET_KEY,
    directoryUrl: url(directoryPort),
    directoryKey: DIRECTORY_KEY,
    mailUrl: url(mailPort),
  });
  real.log.level = 'silent';
  const app: App = { ...real, clock: { ...real.clock, now: () => clock.at, wall: () => clock.at } };
  const living = new Living(app, clock, url(providerPort));
  await living.moveTo(START);
  await seedGround(app, { url: url(providerPort), secret: SECRET }, START, START);
  await seedCustomers(app, START);
  await layOutDuties(app);
  const tokens = { ida: '', bram: '', petra: '', jonah: '' };
  const scope = async (who: keyof typeof tokens): Promise<Scope> => {
    const found = await scopeOfMail(app.db, `${who}@terntallow.example`);
    if (!found) throw new Error(`${who} is missing`);
    return found;
  };
  for (const who of ['ida', 'bram', 'petra', 'jonah'] as const)
    tokens[who] = await makeToken(app.db, (await scope(who)).actor, { name: 'test', days: 30 }, app.clock);
  const inside = async (code: string): Promise<CustomerScope> => enter(app.db, await scope('bram'), code);
  for (const [code, people] of [
    ['SVG', 96],
    ['FPS', 28],
    ['MHP', 42],
    ['QFB', 9],
  ] as const)
    await importPeople(app, await inside(code), peopleCsv(peopleOf(code, people)), false);
  return {
    app,
    clock,
    living,
    simulationUrl: url(providerPort),
    tokens,
    scope,
    inside,
    call: (who, method, path, options = {}) => callAs(app, tokens[who], method, path, options),
    close: async () => {
      await closeApp(app);
      for (const { server, store } of [provider, directory, mail]) {
        await new Promise((resolve) => endServer(server, resolve));
        await store.close();
      }
    },
  };
}

function endServer(server: Server, done: (value: unknown) => void): void {
  server.close(done);
  server.closeAllConnections();
}

async function callAs(
  app: App,
  token: string,
  method: string,
  path: string,
  options: CallOptions,
): Promise<Called> {
  const body = options.csv ?? (options.body === undefined ? undefined : JSON.stringify(options.body));
  const type = options.csv === undefined ? 'application/json' : 'text/csv';
  const request = new Request(`http://laager.test/api/v1${path}`, {
    method,
    headers: {
      authorization: `Bearer ${token}`,
      ...(body === undefined ? {} : { 'content-type': type }),
      ...options.headers,
    },
    ...(body === undefined ? {} : { body }),
  });
  const response = await answer(app, request);
  const text = await response.text();
  const isJson = response.headers.get('content-type')?.includes('json') ?? false;
  return {
    status: response.status,
    text,
    headers: response.headers,
    body: (isJson ? JSON.parse(text) : {}) as Body,
  };
}

export interface Made {
  readonly environment: string;
  readonly run: string;
}

/** Provisions through the API and lets the run end. */
export async function provisionFor(
  world: World,
  code: string,
  environment: string,
  people: number,
  site: string,
): Promise<Made> {
  const wish = { environment, people, profile: 'standard', template: 'shared-office', site };
  const proposed = await world.call('ida', 'POST', `/customers/${code}/proposals`, { body: wish });
  const made = await world.call('ida', 'POST', `/customers/${code}/environments`, {
    body: { ...wish, stamp: proposed.body.stamp, reason: 'a test' },
  });
  if (made.status !== 201) throw new Error(made.text);
  await world.living.untilQuiet();
  return { environment: String(made.body.environment), run: String(made.body.run) };
}
