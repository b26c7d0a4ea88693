import { makeCatalogue, type Catalogue } from './catalogue';
import { openClock, type DemoClock } from './clock';
import { openDatabase, settingsFromEnvironment, type Database, type DatabaseSettings } from './db';
import { httpDirectory, type Directory } from './directory';
import { Listener } from './live';
import { makeLog, type Log } from './log';
import { httpMail, type Mail } from './mail';
import { openProviders, type Providers } from './providers';

/** What every part of the server works with. */
export interface App {
  readonly db: Database;
  readonly databaseName: string;
  readonly clock: DemoClock;
  readonly catalogue: Catalogue;
  readonly providers: Providers;
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

export async function openAppOn(
  settings: DatabaseSettings,
  part: string,
  outside: Outside,
  catalogue: Catalogue = makeCatalogue(),
): Promise<App> {
  const db = openDatabase(settings);
  const log = makeLog(part);
  const clock = await openClock(db);
  return {
    db,
    databaseName: settings.database,
    clock,
    catalogue,
    providers: openProviders(db, outside.secretKey),
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
