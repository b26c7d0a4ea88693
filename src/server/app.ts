import { openClock, type DemoClock } from './clock';
import { openDatabase, settingsFromEnvironment, type Database, type DatabaseSettings } from './db';
import { httpDirectory, type Directory } from './directory';
import { Listener } from './live';
import { makeLog, type Log } from './log';
import { httpMail, type Mail } from './mail';
import { openProvider, type Provider } from './provider';

/** What every part of the server works with. */
export interface App {
  readonly db: Database;
  readonly databaseName: string;
  readonly clock: DemoClock;
  readonly provider: Provider;
  readonly directory: Directory;
  readonly mail: Mail;
  readonly live: Listener;
  readonly log: Log;
  readonly secretKey: string;
}

/** Puts the server together from the environment's settings. */
export async function openApp(part: string, env: NodeJS.ProcessEnv = process.env): Promise<App> {
  const secretKey = env.LAAGER_SECRET_KEY;
  if (secretKey === undefined || secretKey.length < 32)
    throw new Error('LAAGER_SECRET_KEY must be set to at least 32 characters');
  return openAppOn(settingsFromEnvironment(env), part, {
    secretKey,
    directoryUrl: env.LAAGER_DIRECTORY_URL ?? 'http://127.0.0.1:4711',
    directoryKey: env.LAAGER_DIRECTORY_KEY ?? '',
    mailUrl: env.LAAGER_MAIL_URL ?? 'http://127.0.0.1:4712',
  });
}

export interface Outside {
  readonly secretKey: string;
  readonly directoryUrl: string;
  readonly directoryKey: string;
  readonly mailUrl: string;
}

export async function openAppOn(settings: DatabaseSettings, part: string, outside: Outside): Promise<App> {
  const db = openDatabase(settings);
  const log = makeLog(part);
  const clock = await openClock(db);
  return {
    db,
    databaseName: settings.database,
    clock,
    provider: lazily(() => openProvider(db, outside.secretKey)),
    directory: httpDirectory(outside.directoryUrl, outside.directoryKey),
    mail: httpMail(outside.mailUrl),
    live: new Listener(db, log),
    log,
    secretKey: outside.secretKey,
  };
}

export async function closeApp(app: App): Promise<void> {
  app.clock.stop();
  await app.db.close();
}

/** The provider is connected on first use, and looked up again if that failed. */
function lazily(open: () => Promise<Provider>): Provider {
  let opened: Promise<Provider> | undefined;
  const get = (): Promise<Provider> => {
    opened ??= open();
    opened.catch(() => (opened = undefined));
    return opened;
  };
  return {
    signIn: async () => (await get()).signIn(),
    sites: async () => (await get()).sites(),
    begin: async (ask, key) => (await get()).begin(ask, key),
    operation: async (id) => (await get()).operation(id),
    resource: async (ref) => (await get()).resource(ref),
    resources: async (customer) => (await get()).resources(customer),
    change: async (ref, change) => (await get()).change(ref, change),
    endSessions: async (pool) => (await get()).endSessions(pool),
    feed: async (after) => (await get()).feed(after),
    sessions: async () => (await get()).sessions(),
  };
}
