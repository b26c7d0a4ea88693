import { openSealing, type Sealing } from './access';
import { makeCatalogue, type Catalogue } from './catalogue';
import type { Gates } from './client-address';
import { wallClock, type ProcessClock } from './clock';
import type { Config, Identity } from './config';
import type { Database } from './db';
import { httpDirectory, type Directory } from './directory';

import { Listener } from './live';
import { makeLog, type Log } from './log';
import { httpMail, type Mail } from './mail';
import { openProviders, type Providers } from './providers';

/** What every part of the server works with. */
export interface App {
  readonly db: Database;
  readonly databaseName: string;
  readonly clock: ProcessClock;
  readonly catalogue: Catalogue;
  readonly providers: Providers;
  readonly directory: Directory;
  readonly mail: Mail;
  /** Where people reach us, for links that are mailed; undefined: none are. */
  readonly address: string | undefined;
  readonly live: Listener;
  readonly log: Log;
  readonly sealing: Sealing;
  /** Where operators may sign in too; undefined: with a password alone. */
  readonly identity: Identity | undefined;
  /** Whoever shows it reads our figures; undefined: nobody does. */
  readonly metricsToken: string | undefined;
  /** The gates in front of us that are believed for whom they speak. */
  readonly gates: Gates;
  /** Where it is noted which processes run; undefined where nobody notes it. */
  readonly processesFile: string | undefined;
  /** A worker that dies holds what it had for so long. */
  readonly leaseMs: number;
}

export interface Parts {
  readonly config: Config;
  /** The process: `web`, `worker`. */
  readonly part: string;
  readonly db: Database;
  readonly clock?: ProcessClock;
  readonly catalogue?: Catalogue;
}

/** Puts the server together. */
export function openAppOn({ config, part, db, clock = wallClock, catalogue = makeCatalogue() }: Parts): App {
  const log = makeLog(part, config.logLevel);
  const sealing = openSealing(...config.secretKeys);
  return {
    db,
    databaseName: config.database.database,
    clock,
    catalogue,
    providers: openProviders(db, sealing, clock),
    directory: httpDirectory(config.directory.url, config.directory.key),
    mail: httpMail(config.mail.url),
    metricsToken: config.metricsToken,
    address: config.address,
    live: new Listener(db, log),
    log,
    sealing,
    identity: config.identity,
    gates: config.gates,
    processesFile: config.processesFile,
    leaseMs: config.leaseMs,
  };
}

export async function closeApp(app: App): Promise<void> {
  app.clock.stop();
  await app.db.close();
}
