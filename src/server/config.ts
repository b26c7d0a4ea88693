import Joi from 'joi';
import { readGates, type Gates } from './client-address';
import type { DatabaseSettings, Server } from './db';

/** An identity service, and what we are called there. */
export interface Identity {
  /** What its button says. */
  readonly name: string;
  readonly issuer: string;
  readonly client: string;
  readonly secret: string;
}

/** Everything that the environment says, read once where a process begins. docs/operations.md tells what each is. */
export interface Config {
  readonly database: DatabaseSettings;
  /** The key that seals, and another that is read too: the one before it, or the next one. */
  readonly secretKeys: readonly [now: string, also?: string];
  readonly directory: { readonly url: string; readonly key: string };
  readonly mail: { readonly url: string };
  /** Where people reach us, for links that are mailed; undefined: none are. */
  readonly address?: string | undefined;
  /** Where operators may sign in too (OpenID Connect); undefined: with a password alone. */
  readonly identity?: Identity | undefined;
  /** Whoever shows it reads our figures; undefined: nobody does. */
  readonly metricsToken?: string | undefined;
  /** The gates in front of us that are believed for whom they speak. */
  readonly gates: Gates;
  /** A worker that dies holds what it had for so long. */
  readonly leaseMs: number;
  readonly logLevel: string;
  /** A file in which whoever started us notes which processes run, and how often each was started again. */
  readonly processesFile: string | undefined;
  /** Where the simulated providers' clocks are set; empty outside the demo. */
  readonly simulations: readonly string[];
}

const port = Joi.number().integer().min(1).max(65_535);
const url = Joi.string().uri({ scheme: ['http', 'https'] });

interface Variables {
  readonly LAAGER_DB_HOST: readonly Partial<Server>[];
  readonly LAAGER_DB_PORT: number;
  readonly LAAGER_DB_USER: string;
  readonly LAAGER_DB_PASSWORD: string;
  /** Who creates and alters tables, where that is another account. */
  readonly LAAGER_DB_ADMIN_USER?: string;
  readonly LAAGER_DB_ADMIN_PASSWORD?: string;
  readonly LAAGER_DB_NAME: string;
  readonly LAAGER_DB_CONNECTIONS: number;
  readonly LAAGER_SECRET_KEY: string;
  readonly LAAGER_ALSO_SECRET_KEY?: string;
  readonly LAAGER_DIRECTORY_URL: string;
  readonly LAAGER_DIRECTORY_KEY: string;
  readonly LAAGER_MAIL_URL: string;
  readonly LAAGER_ADDRESS?: string;
  readonly LAAGER_IDENTITY_ISSUER?: string;
  readonly LAAGER_IDENTITY_NAME: string;
  readonly LAAGER_IDENTITY_CLIENT: string;
  readonly LAAGER_IDENTITY_SECRET: string;
  readonly LAAGER_METRICS_TOKEN?: string;
  readonly LAAGER_LEASE_MS: number;
  readonly LAAGER_LOG: string;
  readonly LAAGER_SIMULATION_URLS: string;
  readonly LAAGER_GATES: Gates;
  readonly LAAGER_PROCESSES?: string;
}

/** `db1`, `db1:3307` or several by comma. @throws Error for what is none */
function readServers(written: string): readonly Partial<Server>[] {
  return written.split(',').map((one) => {
    const [, host = '', at] = /^\s*([\w.-]+|\[[0-9a-f:.]+\])(?::(\d{1,5}))?\s*$/i.exec(one) ?? [];
    if (host === '') throw new Error(`"${one}" is no address of a database`);
    return { host: host.replace(/^\[|\]$/g, ''), ...(at === undefined ? {} : { port: Number(at) }) };
  });
}

const databaseVariables = {
  LAAGER_DB_HOST: Joi.string()
    .custom(readServers)
    .default([{ host: '127.0.0.1' }]),
  LAAGER_DB_PORT: port.default(3306),
  LAAGER_DB_USER: Joi.string().default('laager'),
  LAAGER_DB_PASSWORD: Joi.string().allow('').default(''),
  LAAGER_DB_ADMIN_USER: Joi.string(),
  LAAGER_DB_ADMIN_PASSWORD: Joi.string().allow(''),
  LAAGER_DB_NAME: Joi.string().default('laager'),
  LAAGER_DB_CONNECTIONS: Joi.number().integer().min(1).max(1000).default(12),
};

const variables = Joi.object<Variables>({
  ...databaseVariables,
  LAAGER_SECRET_KEY: Joi.string()
    .min(32)
    .required()
    .error(new Error('LAAGER_SECRET_KEY must be set to at least 32 characters')),
  LAAGER_ALSO_SECRET_KEY: Joi.string()
    .min(32)
    .error(new Error('LAAGER_ALSO_SECRET_KEY, where it is set, has at least 32 characters')),
  LAAGER_DIRECTORY_URL: url.default('http://127.0.0.1:4711'),
  LAAGER_DIRECTORY_KEY: Joi.string().allow('').default(''),
  LAAGER_MAIL_URL: url.default('http://127.0.0.1:4712'),
  LAAGER_ADDRESS: url,
  LAAGER_IDENTITY_ISSUER: url,
  LAAGER_IDENTITY_NAME: Joi.string().max(60).default('your organisation’s sign-in'),
  LAAGER_IDENTITY_CLIENT: Joi.string().default('laager'),
  LAAGER_IDENTITY_SECRET: Joi.string().allow('').default(''),
  LAAGER_METRICS_TOKEN: Joi.string()
    .min(16)
    .error(new Error('LAAGER_METRICS_TOKEN, where it is set, has at least 16 characters')),
  LAAGER_LEASE_MS: Joi.number().integer().min(100).default(30_000),
  LAAGER_LOG: Joi.string()
    .valid('trace', 'debug', 'info', 'warn', 'error', 'fatal', 'silent')
    .default('info'),
  LAAGER_SIMULATION_URLS: Joi.string().allow('').default(''),
  LAAGER_PROCESSES: Joi.string(),
  LAAGER_GATES: Joi.string().allow('').custom(readGates).default([]),
});

/** @throws Error that names the variable that is missing or cannot be used */
export function readConfig(env: NodeJS.ProcessEnv): Config {
  const given = checked(variables, env);
  return {
    database: databaseOf(given),
    secretKeys: [given.LAAGER_SECRET_KEY, given.LAAGER_ALSO_SECRET_KEY],
    directory: { url: given.LAAGER_DIRECTORY_URL, key: given.LAAGER_DIRECTORY_KEY },
    mail: { url: given.LAAGER_MAIL_URL },
    address: given.LAAGER_ADDRESS,
    ...(given.LAAGER_IDENTITY_ISSUER === undefined
      ? {}
      : {
          identity: {
            name: given.LAAGER_IDENTITY_NAME,
            issuer: given.LAAGER_IDENTITY_ISSUER,
            client: given.LAAGER_IDENTITY_CLIENT,
            secret: given.LAAGER_IDENTITY_SECRET,
          },
        }),
    metricsToken: given.LAAGER_METRICS_TOKEN,
    gates: given.LAAGER_GATES,
    processesFile: given.LAAGER_PROCESSES,
    leaseMs: given.LAAGER_LEASE_MS,
    logLevel: given.LAAGER_LOG,
    simulations: given.LAAGER_SIMULATION_URLS.split(',').filter((one) => one !== ''),
  };
}

/** Only where the database is: for migrating, which needs no more. @throws Error as `readConfig` */
export function readDatabaseSettings(env: NodeJS.ProcessEnv): DatabaseSettings {
  const given = checked(Joi.object<Variables>(databaseVariables), env);
  const own = databaseOf(given);
  return given.LAAGER_DB_ADMIN_USER === undefined
    ? own
    : { ...own, user: given.LAAGER_DB_ADMIN_USER, password: given.LAAGER_DB_ADMIN_PASSWORD ?? '' };
}

/** Only names of settings are ever said: the validator's own error holds every value, keys and passwords too. */
function saysOf(error: Error): string {
  if (!Joi.isError(error)) return error.message;
  const [first] = error.details;
  const name = first?.path.join('.') ?? 'a setting';
  return first?.type === 'any.required' ? `${name} must be set` : `${name} cannot be used as it is set`;
}

function checked(schema: Joi.ObjectSchema<Variables>, env: NodeJS.ProcessEnv): Variables {
  const { error, value } = schema.validate(env, { stripUnknown: true });
  if (error) throw new Error(saysOf(error));
  return value;
}

const databaseOf = (given: Variables): DatabaseSettings => {
  const [{ host, port } = { host: '', port: 0 }, ...others] = given.LAAGER_DB_HOST.map((server): Server => ({
    host: '127.0.0.1',
    port: given.LAAGER_DB_PORT,
    ...server,
  }));
  return { host, port, others, ...accountOf(given) };
};

const accountOf = (given: Variables): Omit<DatabaseSettings, keyof Server> => ({
  user: given.LAAGER_DB_USER,
  password: given.LAAGER_DB_PASSWORD,
  database: given.LAAGER_DB_NAME,
  connections: given.LAAGER_DB_CONNECTIONS,
});
