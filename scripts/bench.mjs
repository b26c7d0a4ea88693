// ./laager bench: figures and ratios of one run, on a fleet of its own. Ends what it started.
import { readFileSync, readdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { createServer } from 'node:http';
import { gzipSync } from 'node:zlib';
import { setTimeout as pause } from 'node:timers/promises';
import {
  command,
  freePort,
  HOME,
  ownSecret,
  Refusal,
  runProgram,
  say,
  startMariaDb,
  untilAnswers,
} from './lib.mjs';

await command(async (processes, end) => {
  const { default: autocannon } = await import('autocannon');
  const { default: mysql } = await import('mysql2/promise');
  ownSecret('provider');
  const folder = join(HOME, 'bench');
  rmSync(folder, { recursive: true, force: true });
  const databasePort = await freePort(5600);
  await startMariaDb(processes, folder, databasePort, { args: ['--innodb-buffer-pool-size=1G'] });
  const [providerPort, northernPort] = [await freePort(5610), await freePort(5615)];
  const webPort = await freePort(5620);
  const env = {
    NODE_ENV: 'production',
    LAAGER_LOG: 'error',
    LAAGER_DB_HOST: '127.0.0.1',
    LAAGER_DB_PORT: String(databasePort),
    LAAGER_DB_USER: 'root',
    LAAGER_DB_NAME: 'laager_bench',
    LAAGER_SECRET_KEY: ownSecret('key'),
    LAAGER_SIMULATION_URLS: `http://127.0.0.1:${providerPort},http://127.0.0.1:${northernPort}`,
    PROVIDER_SECRET: ownSecret('provider'),
    STANDIN_PORT: String(providerPort),
    STANDIN_DATABASE: 'laager_bench_provider',
  };
  const provider = processes.start('provider', 'node', ['dist/node/provider.mjs'], { env });
  await untilAnswers(`http://127.0.0.1:${providerPort}/health`, provider);
  const northern = processes.start('northern', 'node', ['dist/node/provider.mjs'], {
    env: {
      ...env,
      STANDIN_PORT: String(northernPort),
      STANDIN_DATABASE: 'laager_bench_northern',
      PROVIDER_CATALOGUE: 'northern',
    },
  });
  await untilAnswers(`http://127.0.0.1:${northernPort}/health`, northern);
  let token;
  let cookie;
  const out = {
    write: (chunk) => {
      for (const line of String(chunk).split('\n')) {
        if (line.startsWith('TOKEN ')) token = line.slice(6).trim();
        else if (line.startsWith('COOKIE ')) cookie = line.slice(7).trim();
        else if (line !== '') say(line);
      }
    },
  };
  await runProgram(processes, 'bench', ['node', ['dist/node/bench.mjs']], env, out);

  const worker = processes.start('worker', 'node', ['dist/node/worker.mjs'], { env });
  const web = processes.start('web', 'node', ['dist/node/web.mjs'], {
    env: { ...env, HOST: '127.0.0.1', PORT: String(webPort) },
  });
  const address = `http://127.0.0.1:${webPort}`;
  await untilAnswers(`${address}/sign-in`, web);
  await untilSummarised(mysql, databasePort);

  const bare = await bareEndpoint(mysql, databasePort);
  const load = { connections: 4, duration: 8, headers: { authorization: `Bearer ${token}` } };
  await autocannon({ ...load, url: `${address}/api/v1/watch`, duration: 3 });
  const watch = await autocannon({ ...load, connections: 1, url: `${address}/api/v1/watch` });
  const reference = await autocannon({ ...load, connections: 1, url: bare.url });
  bare.close();
  if (watch.non2xx > 0)
    throw new Refusal(`Watch answered ${watch.non2xx} times with something else than 2xx.`);
  const [own, select] = [watch.latency.p97_5, Math.max(0.5, reference.latency.p97_5)];
  say(
    `Watch with 500 customers and 20,000 hosts: ${own} ms at the 97.5th percentile (target under 100 at the 95th) ${verdict(own < 100)}; ` +
      `a bare SELECT 1 endpoint ${reference.latency.p97_5} ms; ratio ${(own / select).toFixed(1)}`,
  );

  const page = await autocannon({
    connections: 1,
    duration: 8,
    headers: { cookie: `laager_session=${cookie}` },
    url: `${address}/`,
  });
  if (page.non2xx > 0)
    throw new Refusal(`The Watch page answered ${page.non2xx} times with something else than 2xx.`);
  say(
    `the whole Watch page, rendered: ${page.latency.p97_5} ms at the 97.5th percentile, ${Math.round(page.throughput.average / page.requests.average / 1000)} kB`,
  );
  for (const member of [web, worker]) {
    const megabytes = residentMb(member.child.pid);
    say(
      `memory of the ${member.name} with the fleet: ${megabytes} MB resident (target under 350) ${verdict(megabytes < 350)}`,
    );
  }
  for (const [page, bytes, chart] of scriptsOfPages())
    say(
      `script of ${page}: ${Math.round(bytes / 1000)} kB compressed${chart ? ', with a chart' : ` (target under 150) ${verdict(bytes < 150_000)}`}`,
    );
  await processes.stopAll();
  rmSync(folder, { recursive: true, force: true });
  await end(0);
});

function verdict(met) {
  return met ? 'met' : 'MISSED';
}

/** Waits until the worker has taken every customer's summary once. */
async function untilSummarised(mysql, port) {
  const connection = await mysql.createConnection({
    host: '127.0.0.1',
    port,
    user: 'root',
    database: 'laager_bench',
  });
  const began = Date.now();
  for (;;) {
    const [[row]] = await connection.query('SELECT SUM(hosts = 0) AS missing FROM summary');
    if (Number(row.missing) === 0) break;
    if (Date.now() - began > 300_000)
      throw new Refusal('The worker did not take the summaries in five minutes.');
    await pause(500);
  }
  say(`all summaries taken in ${Math.round((Date.now() - began) / 1000)} s`);
  await connection.end();
}

/** The reference: an HTTP endpoint that does nothing but SELECT 1. */
async function bareEndpoint(mysql, databasePort) {
  const pool = mysql.createPool({
    host: '127.0.0.1',
    port: databasePort,
    user: 'root',
    database: 'laager_bench',
  });
  const server = createServer((_request, response) => {
    pool.execute('SELECT 1').then(() => response.end('{}'));
  });
  const port = await freePort(5640);
  await new Promise((resolve) => server.listen(port, '127.0.0.1', () => resolve(undefined)));
  return {
    url: `http://127.0.0.1:${port}/`,
    close: () => {
      server.close();
      void pool.end();
    },
  };
}

function residentMb(pid) {
  return Math.round(
    Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024,
  );
}

/** What each island of a page brings, with all that it imports; each file once, compressed as a server would. */
function scriptsOfPages() {
  const folder = 'dist/client/_astro';
  const files = readdirSync(folder).filter((name) => name.endsWith('.js'));
  const size = new Map(files.map((name) => [name, gzipSync(readFileSync(join(folder, name))).length]));
  const imports = new Map(
    files.map((name) => {
      const text = readFileSync(join(folder, name), 'utf8');
      return [
        name,
        // Static imports only: what is fetched later, when it is first needed, is not sent with the page.
        [...text.matchAll(/(?:from|import)\s*["']\.\/([\w.-]+\.js)["']/g)]
          .map(([, file]) => file)
          .filter((file) => size.has(file)),
      ];
    }),
  );
  const withAll = (name, seen = new Set()) => {
    if (seen.has(name)) return seen;
    seen.add(name);
    for (const next of imports.get(name) ?? []) withAll(next, seen);
    return seen;
  };
  const part = (prefix) => files.find((name) => new RegExp(`^${prefix}\\.[\\w-]+\\.js$`).test(name));
  const shared = ['client', 'Bar'].map(part).filter(Boolean);
  const views = [
    'Watch',
    'Customers',
    'Customer',
    'People',
    'Provision',
    'Run',
    'Runs',
    'Environment',
    'Retire',
    'Proof',
    'Costs',
    'MoneyAcross',
    'Serve',
    'Ground',
    'Trail',
    'SignIn',
  ];
  return views.flatMap((view) => {
    const own = part(view);
    if (!own) return [];
    const all = new Set([...shared, own].flatMap((name) => [...withAll(name)]));
    return [[view, [...all].reduce((sum, name) => sum + size.get(name), 0), view === 'Costs']];
  });
}
