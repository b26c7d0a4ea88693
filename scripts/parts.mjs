// Starts the parts of a demo: stand-ins, loader, worker and web server, on a MariaDB that runs already.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { freePort, logFile, ownSecret, runProgram, say, untilAnswers } from './lib.mjs';

/** How the programs are run: as they were built. */
export const BUILT = {
  mode: 'production',
  program: (name) => ['node', [`dist/node/${name}.mjs`]],
  once: (name) => ['node', [`dist/node/${name}.mjs`]],
  web: () => ['node', ['dist/node/web.mjs']],
};

/** Raised when what an older demo left in .laager/ cannot be carried over: then the demo is loaded anew. */
export const LAYOUT = 59;

/** What MariaDB is given when it holds millions of rows. */
export const LARGE = ['--innodb-buffer-pool-size=1G', '--innodb-log-file-size=512M'];

/** How the programs are run: from their sources, and begun again whenever one that they use changes. */
export const WATCHED = {
  mode: 'development',
  program: (name) => ['node_modules/.bin/tsx', ['watch', '--clear-screen=false', SOURCES[name]]],
  once: (name) => ['node_modules/.bin/tsx', [SOURCES[name]]],
  web: (port) => ['node_modules/.bin/astro', ['dev', '--host', '127.0.0.1', '--port', String(port)]],
};

const SOURCES = {
  provider: 'src/standins/provider/main.ts',
  directory: 'src/standins/directory/main.ts',
  mail: 'src/standins/mail/main.ts',
  identity: 'src/standins/identity/main.ts',
  demo: 'src/demo/main.ts',
  worker: 'src/main/worker.ts',
};

/** The stand-ins, each with the program that it is. */
const STANDINS = {
  provider: 'provider',
  northern: 'provider',
  directory: 'directory',
  mail: 'mail',
  identity: 'identity',
};

/**
 * @param options databasePort; prefix of the database names; webPort wanted; logs: folder for log files;
 *   workers: how many; scenario: `eight`, `fleet` for five hundred customers, or `empty`; onLoaded: told what
 *   the loader made; how: BUILT or WATCHED; onExit and again as `Processes.start` takes them
 * @returns the address, the members by name, and the environment they were given
 */
export async function startParts(
  processes,
  {
    databasePort,
    prefix,
    webPort,
    logs,
    workers = 1,
    scenario = 'eight',
    env = {},
    onLoaded,
    onExit,
    again,
    how = BUILT,
  },
) {
  mkdirSync(logs, { recursive: true });
  const log = (name) => logFile(join(logs, `${name}.log`));
  const ports = {
    provider: await freePort(webPort + 10),
    northern: await freePort(webPort + 13 + 600),
    directory: await freePort(webPort + 11 + 200),
    mail: await freePort(webPort + 12 + 400),
    identity: await freePort(webPort + 14 + 800),
    web: await freePort(webPort),
  };
  const url = (part) => `http://127.0.0.1:${ports[part]}`;
  const shared = {
    NODE_ENV: how.mode,
    ASTRO_TELEMETRY_DISABLED: '1',
    LAAGER_DB_HOST: '127.0.0.1',
    LAAGER_DB_PORT: String(databasePort),
    LAAGER_DB_USER: 'root',
    LAAGER_DB_PASSWORD: '',
    LAAGER_DB_NAME: prefix,
    LAAGER_SECRET_KEY: ownSecret('key'),
    LAAGER_SIMULATION_URLS: `${url('provider')},${url('northern')}`,
    LAAGER_DIRECTORY_URL: url('directory'),
    LAAGER_DIRECTORY_KEY: ownSecret('directory'),
    LAAGER_MAIL_URL: url('mail'),
    LAAGER_ADDRESS: url('web'),
    LAAGER_IDENTITY_ISSUER: url('identity'),
    LAAGER_IDENTITY_NAME: 'the Tern & Tallow sign-in',
    LAAGER_IDENTITY_CLIENT: 'laager',
    LAAGER_IDENTITY_SECRET: ownSecret('identity'),
    IDENTITY_REDIRECTS: `${url('web')}/api/v1/session/outside/back`,
    IDENTITY_REALM_SECRET: ownSecret('realms'),
    IDENTITY_REALM_REDIRECTS: `${url('web')}/api/v1/desk/outside/back`,
    IDENTITY_DIRECTORY_TOKEN: 'a-candle-for-the-reader',
    LAAGER_SCENARIO: scenario,
    PROVIDER_ACCOUNT: 'tern',
    PROVIDER_SECRET: ownSecret('provider'),
    DIRECTORY_KEY: ownSecret('directory'),
    ...env,
  };
  const start = (name, [program, args], more = {}) =>
    processes.start(name, program, args, { env: { ...shared, ...more }, log: log(name), onExit, again });
  const members = {};
  for (const [name, program] of Object.entries(STANDINS)) {
    members[name] = start(name, how.program(program), {
      STANDIN_PORT: String(ports[name]),
      STANDIN_DATABASE: `${prefix}_${name}`,
      PROVIDER_CATALOGUE: `${name === 'northern' ? 'northern' : 'coast'}${scenario === 'fleet' ? '-grown' : ''}`,
    });
    await untilAnswers(`${url(name)}/health`, members[name]);
  }
  // What it prints holds a token: that goes into no log.
  const loading = { write: (chunk) => tellLines(chunk) };
  const printed = await runProgram(
    processes,
    'demo',
    how.once('demo'),
    { ...shared, LAAGER_LOG: 'error' },
    loading,
  );
  const loaded = JSON.parse(printed.trim().split('\n').at(-1));
  onLoaded?.(loaded);
  for (let n = 1; n <= workers; n++) members[`worker${n}`] = start(`worker${n}`, how.program('worker'));
  members.web = start('web', how.web(ports.web), { HOST: '127.0.0.1', PORT: String(ports.web) });
  await untilAnswers(`${url('web')}/sign-in`, members.web, { patienceMs: 60_000 });
  await untilAnswers(`${url('web')}/healthz`, members.web, {
    patienceMs: 180_000,
    good: (status) => status === 200,
  });
  return { address: url('web'), members, loaded, env: shared };
}

/** What a loader tells of how far it is; its answer, which holds a token, is not told. */
function tellLines(chunk) {
  for (const line of String(chunk).split('\n')) if (line !== '' && !line.startsWith('{')) say(line);
}

export function printSignIns(address, password) {
  say('');
  say(`  Laager is at ${address}`);
  say('');
  say(`  ida@terntallow.example     engineer, every customer`);
  say(`  bram@terntallow.example    lead`);
  say(`  petra@terntallow.example   bookkeeper`);
  say(`  runa@terntallow.example    auditor, changes nothing`);
  say(`  jonah@terntallow.example   engineer, two customers only`);
  say(`  password for each: ${password}`);
  say('');
}

/** Where customers' people come in, as one of them, and where what is mailed to them is read. */
export function printDesk({ address, env }) {
  say(`  My desk, for customers' people: ${address}/desk, as aino.underhill@svg.example`);
  say(`  The mail that they get: ${env.LAAGER_MAIL_URL}`);
  say('');
}

/** An empty Laager's only sign-in, and what can be connected. */
export function printEmpty({ address, env }, password) {
  const [coast, northern] = env.LAAGER_SIMULATION_URLS.split(',');
  say('');
  say(`  Laager is at ${address}, with nothing in it yet`);
  say('');
  say(`  bram@terntallow.example    lead, password ${password}`);
  say(`  simulated providers        ${coast} and ${northern}`);
  say(`  account at both            ${env.PROVIDER_ACCOUNT}, secret ${env.PROVIDER_SECRET}`);
  say('');
}
