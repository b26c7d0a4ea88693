// Starts the parts of a demo: stand-ins, loader, worker and web server, on a MariaDB that runs already.
import { createWriteStream, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { freePort, ownSecret, runProgram, say, untilAnswers } from './lib.mjs';

/**
 * @param options databasePort; prefix of the database names; webPort wanted; logs: folder for log files;
 *   workers: how many
 * @returns the address, the members by name, and the environment they were given
 */
export async function startParts(
  processes,
  { databasePort, prefix, webPort, logs, workers = 1, env = {}, onExit },
) {
  mkdirSync(logs, { recursive: true });
  const log = (name) => createWriteStream(join(logs, `${name}.log`), { flags: 'a' });
  const ports = {
    provider: await freePort(webPort + 10),
    northern: await freePort(webPort + 13 + 600),
    directory: await freePort(webPort + 11 + 200),
    mail: await freePort(webPort + 12 + 400),
    web: await freePort(webPort),
  };
  const url = (part) => `http://127.0.0.1:${ports[part]}`;
  const shared = {
    NODE_ENV: 'production',
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
    PROVIDER_ACCOUNT: 'tern',
    PROVIDER_SECRET: ownSecret('provider'),
    DIRECTORY_KEY: ownSecret('directory'),
    ...env,
  };
  const start = (name, file, more = {}) =>
    processes.start(name, 'node', [file], { env: { ...shared, ...more }, log: log(name), onExit });
  const members = {};
  const programs = { provider: 'provider', northern: 'provider', directory: 'directory', mail: 'mail' };
  for (const [name, program] of Object.entries(programs)) {
    members[name] = start(name, `dist/node/${program}.mjs`, {
      STANDIN_PORT: String(ports[name]),
      STANDIN_DATABASE: `${prefix}_${name}`,
      PROVIDER_CATALOGUE: name === 'northern' ? 'northern' : 'coast',
    });
    await untilAnswers(`${url(name)}/health`, members[name]);
  }
  const printed = await runProgram(
    processes,
    'demo',
    'dist/node/demo.mjs',
    { ...shared, LAAGER_LOG: 'error' },
    log('demo'),
  );
  const loaded = JSON.parse(printed.trim().split('\n').at(-1));
  for (let n = 1; n <= workers; n++) members[`worker${n}`] = start(`worker${n}`, 'dist/node/worker.mjs');
  members.web = start('web', 'dist/server/entry.mjs', { HOST: '127.0.0.1', PORT: String(ports.web) });
  await untilAnswers(`${url('web')}/sign-in`, members.web);
  await untilAnswers(`${url('web')}/healthz`, members.web, { good: (status) => status === 200 });
  return { address: url('web'), members, loaded, env: shared };
}

export function printSignIns(address, password) {
  say('');
  say(`  Laager is at ${address}`);
  say('');
  say(`  ida@terntallow.example     engineer, every customer`);
  say(`  bram@terntallow.example    lead`);
  say(`  petra@terntallow.example   bookkeeper`);
  say(`  jonah@terntallow.example   engineer, two customers only`);
  say(`  password for each: ${password}`);
  say('');
}
