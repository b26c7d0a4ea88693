import { DateTime } from 'luxon';
import { openProcess } from '../main/app';
import type { App } from '../server/app';
import { readDatabaseSettings } from '../server/config';
import { migrate } from '../server/db';
import { enter, SYSTEM, type Scope } from '../server/access';
import { listCustomers } from '../server/customers';
import { forgetHints } from '../server/live';
import { connectProvider } from '../server/providers';
import { makeToken, scopeOfMail } from '../server/sign-in';
import { everySummaryStale } from '../server/watch';
import { JOBS } from '../server/rooms';
import { everythingDue, lastDue, layOutJobs } from '../server/worker';
import { shown, writeClock, type DemoClock } from './clock';
import { makeFleet, seedFleetGround } from './fleet/make';
import { linkIdentity } from './directory';
import { liveHistory } from './history';
import { OPERATORS, PROVIDERS } from './scenario';
import {
  seedCustomers,
  seedGround,
  seedGroups,
  seedLaterVersion,
  seedOperators,
  type Simulated,
} from './seed';

/*
 * Run as a program: makes the demo's database ready. The first time it loads the scenario and lives its 90 days, or, where
 * LAAGER_SCENARIO says so, makes the fleet of five hundred customers or takes on a lead and nothing else; later it only
 * sets the clock going where it stood still. Prints one line of JSON: {"loaded": boolean, "token"?: string}.
 */

const isFleet = process.env.LAAGER_SCENARIO === 'fleet';
const isEmpty = process.env.LAAGER_SCENARIO === 'empty';
const FLEET = 500;
const DAYS = isFleet ? 366 : 90;
const SPEED = isFleet ? 10 : 60;

await migrate(readDatabaseSettings(process.env));
const { app, demoClock, close } = await openProcess('demo');
try {
  if (!demoClock) throw new Error('LAAGER_SIMULATION_URLS is not set');
  const [known] = await listCustomers(app.db, SYSTEM, { limit: 1 }, app.clock.now());
  const isLoaded = known !== undefined || demoClock.setting() !== undefined;
  const load = isEmpty ? beginEmpty : loadScenario;
  const answer = isLoaded ? await goOn(app, demoClock) : await load(app);
  process.stdout.write(`${JSON.stringify(answer)}\n`);
} finally {
  await close();
}

/** Time stood still while nothing ran: the clock job's last turn tells until when it went. */
async function goOn(app: App, clock: DemoClock): Promise<{ loaded: boolean }> {
  const setting = clock.setting();
  if (!setting) throw new Error('this database holds no demo: give it one of its own');
  const stopped = Math.max(setting.wallAt, Math.min(Date.now(), await lastDue(app.db, 'clock')));
  await writeClock(app.db, { shownAt: shown(setting, stopped), wallAt: Date.now(), speed: setting.speed });
  if (isEmpty) return { loaded: false };
  await refreshProviderAddress(app);
  if (!isFleet) await linkIdentity(app, await enter(app.db, SYSTEM, 'SVG'));
  return { loaded: false };
}

/** A lead, whom nobody else takes on, and a clock that goes. */
async function beginEmpty(app: App): Promise<{ loaded: boolean }> {
  await seedOperators(
    app,
    OPERATORS.filter((one) => one.role === 'lead'),
  );
  await layOutJobs(app, JOBS);
  await writeClock(app.db, { shownAt: app.clock.now(), wallAt: Date.now(), speed: SPEED });
  return { loaded: true };
}

/** Ports may differ from start to start. */
async function refreshProviderAddress(app: App): Promise<void> {
  const { urls, secret } = simulated();
  for (const provider of PROVIDERS)
    await connectProvider(app, SYSTEM, { ...provider, url: urls[provider.code], secret, secretEndsAt: null });
}

/** The simulated providers, in the order of the scenario. */
function simulated(): Simulated {
  const [coast = '', northern = ''] = required('LAAGER_SIMULATION_URLS').split(',');
  return { urls: { coast, northern }, secret: required('PROVIDER_SECRET') };
}

async function loadScenario(real: App): Promise<{ loaded: boolean; token: string }> {
  const today = workingMorning(Date.now());
  const clock = { at: today - DAYS * 86_400_000 - 3_600_000 };
  const app: App = { ...real, clock: { ...real.clock, now: () => clock.at, wall: () => clock.at } };
  const outside = simulated();
  for (const url of Object.values(outside.urls))
    await fetch(`${url}/control/clock`, { method: 'PUT', body: JSON.stringify({ at: clock.at, speed: 0 }) });
  await seedGround(app, outside, clock.at, today);
  if (!isFleet) {
    await seedCustomers(app);
    await seedLaterVersion(app, today);
  }
  // Of the fleet, everyone reaches everyone.
  await seedOperators(app, isFleet ? OPERATORS.filter((one) => one.customers === undefined) : OPERATORS);
  await seedGroups(app);
  await layOutJobs(app, JOBS);
  const engineer = await operator(app, 'ida@terntallow.example');
  const lead = await operator(app, 'bram@terntallow.example');
  const house = { ...app, clock: { now: app.clock.now, wall: Date.now } };
  const { token } = await makeToken(house, engineer, { name: 'demo', days: 365 });
  const scopes = new Map([
    ['engineer', engineer],
    ['lead', lead],
  ] as const);
  if (isFleet) {
    const began = Date.now();
    const say = (line: string): void =>
      void process.stderr.write(`${line} (${Math.round((Date.now() - began) / 1000)} s)\n`);
    const fleet = { app, clock, simulations: outside.urls, engineer, lead, say };
    await seedFleetGround(fleet, clock.at, today);
    await makeFleet(fleet, Number(process.env.LAAGER_FLEET_SIZE ?? FLEET), today);
  } else await liveHistory(app, scopes, clock, outside.urls, today);
  // Leases and pauses of the history were in its own time; from here on they are in the wall's.
  await everythingDue(app.db);
  await forgetHints(app.db);
  await everySummaryStale(app.db);
  await writeClock(app.db, { shownAt: clock.at, wallAt: Date.now(), speed: SPEED });
  return { loaded: true, token };
}

async function operator(app: App, mail: string): Promise<Scope> {
  const scope = await scopeOfMail(app.db, mail);
  if (!scope) throw new Error(`the demo's ${mail} is missing`);
  return scope;
}

/** The last Wednesday or Thursday morning that has been: people are in, and much is going on. */
function workingMorning(wall: number): number {
  let morning = DateTime.fromMillis(wall, { zone: 'Europe/Dublin' }).set({
    hour: 9,
    minute: 40,
    second: 0,
    millisecond: 0,
  });
  while (morning.toMillis() > wall || ![3, 4].includes(morning.weekday)) morning = morning.minus({ days: 1 });
  return morning.toMillis();
}

function required(name: string): string {
  const value = process.env[name];
  if (value === undefined || value === '') throw new Error(`${name} is not set`);
  return value;
}
