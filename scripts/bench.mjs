// ./laager bench: figures and ratios of one run, on the fleet: with ten of its customers, and with all five hundred. Ends
// what it started.
import { readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { createServer } from 'node:http';
import { setTimeout as pause } from 'node:timers/promises';
import { command, freePort, HOME, Refusal, runProgram, say, startMariaDb } from './lib.mjs';
import { LARGE, startParts } from './parts.mjs';
import { measureDirectory } from './bench-people.mjs';
import { scriptsOfPages } from './weights.mjs';

const PASSWORD = 'lantern-on-the-quay';
const SIZES = [10, 500];
const SECONDS = 6;

const verdict = (met) => (met ? 'met' : 'MISSED');

/** What is asked, and how long it may take; without a target it is only told. */
const QUESTIONS = [
  { name: 'Watch, what the page reads', api: '/watch', most: 100 },
  { name: 'Watch, the page', page: '/', most: 120 },
  { name: 'Customers, what the list of all reads', api: '/customers?limit=500', most: 80 },
  { name: 'Customers, the page', page: '/customers' },
  { name: 'Money, the page', page: '/money' },
  { name: 'Ground, the page', page: '/ground' },
  { name: 'Addresses, the page', page: '/ground/addresses' },
  { name: 'Networks, the page', page: '/ground/networks' },
  { name: 'Runs, the page', page: '/runs' },
  { name: 'sessions of all, first page', api: '/sessions?limit=100', most: 100 },
  { name: 'sessions of all, found by text', api: '/sessions?limit=100&find=maren', most: 100 },
  { name: 'sessions of all, idle for an hour', api: '/sessions?limit=100&idleFor=60', most: 100 },
  { name: 'sessions of all, a page far down', far: '/sessions?limit=100', most: 100 },
  { name: 'people of the largest, first page', api: '/customers/{largest}/people?limit=100', most: 100 },
  { name: 'people of the largest, far down', far: '/customers/{largest}/people?limit=100', most: 100 },
  { name: 'anyone and anything, found by text', api: '/search?text=maren.var', most: 100 },
];

await command(async (processes, end) => {
  const found = new Map();
  for (const size of SIZES) found.set(size, await measure(processes, size, size === SIZES.at(-1)));
  const [small, large] = SIZES.map((size) => found.get(size));
  say(`growth from ${SIZES[0]} to ${SIZES[1]} customers, times a bare SELECT 1 of the same run:`);
  for (const [name, ms] of large.times) {
    const [before, after] = [small.times.get(name) / small.bare, ms / large.bare];
    say(
      `  ${name.padEnd(34)} ${before.toFixed(1).padStart(7)} → ${after.toFixed(1).padStart(7)}  (× ${(after / before).toFixed(1)})`,
    );
  }
  const kB = (bytes) => `${Math.round(bytes / 1000)} kB`;
  for (const [page, bytes, chart, beside] of scriptsOfPages())
    say(
      `script of ${page}: ${kB(bytes)} compressed${chart ? ', with a chart' : ` (target under 150) ${verdict(bytes < 150_000)}`}${beside > 0 ? `, and ${kB(beside)} beside it, in a worker` : ''}`,
    );
  await end(0);
});

/** Loads a fleet of a size, asks, and takes it away again. */
async function measure(processes, customers, isWhole) {
  const { default: autocannon } = await import('autocannon');
  const folder = join(HOME, 'bench');
  rmSync(folder, { recursive: true, force: true });
  const databasePort = await freePort(5600);
  const database = await startMariaDb(processes, join(folder, 'data'), databasePort, { args: LARGE });
  const began = Date.now();
  say(`Loading ${customers} customers of the fleet …`);
  const parts = await startParts(processes, {
    databasePort,
    prefix: 'laager_bench',
    webPort: 5620,
    logs: join(folder, 'logs'),
    scenario: 'fleet',
    env: { LAAGER_FLEET_SIZE: String(customers), LAAGER_LOG: 'error' },
  });
  const { address, members, loaded } = parts;
  say(`  loaded in ${Math.round((Date.now() - began) / 1000)} s`);
  const query = await connectTo(databasePort);
  await untilCalm(query);
  const [counts] = await query(
    `SELECT (SELECT COUNT(*) FROM person) AS people, (SELECT COUNT(*) FROM session) AS sessions,
       (SELECT COUNT(*) FROM resource WHERE kind = 'host' AND returned_at IS NULL) AS hosts,
       (SELECT COUNT(*) FROM meter_interval) AS intervals,
       (SELECT c.code FROM summary s JOIN customer c ON c.id = s.customer_id ORDER BY s.people DESC LIMIT 1) AS largest`,
  );
  say(
    `  ${customers} customers, ${counts.people} people, ${counts.hosts} hosts, ${counts.sessions} sessions, ${counts.intervals} intervals`,
  );
  const running = { web: members.web, worker: members.worker1, database };
  const busy = await busyAtRest(running);
  const total = Object.values(busy).reduce((sum, one) => sum + one, 0);
  say(
    `  at rest, of one core: ${Object.entries(busy)
      .map(([name, percent]) => `${name} ${percent.toFixed(1)} %`)
      .join(
        ', ',
      )}; together ${total.toFixed(1)} %${isWhole ? ` (target under 15) ${verdict(total < 15)}` : ''}`,
  );
  const headers = { authorization: `Bearer ${loaded.token}` };
  const cookie = await signIn(address);
  const bare = await bareEndpoint(databasePort);
  const load = { connections: 1, duration: SECONDS };
  const reference = (await autocannon({ ...load, url: bare.url })).latency;
  bare.close();
  const bareMs = Math.max(0.5, reference.p97_5);
  say(`  a bare SELECT 1 endpoint: ${reference.p97_5} ms at the 97.5th percentile`);
  const times = new Map();
  for (const question of QUESTIONS) {
    const path = (question.api ?? question.far ?? question.page).replace('{largest}', counts.largest);
    const url =
      question.page === undefined
        ? `${address}/api/v1${question.far === undefined ? path : await farDown(address, path, headers)}`
        : address + path;
    const asked = { url, headers: question.page === undefined ? headers : { cookie } };
    await autocannon({ ...load, ...asked, duration: 2 });
    const answer = await autocannon({ ...load, ...asked });
    if (answer.non2xx > 0 || answer.errors > 0)
      throw new Refusal(`${question.name}: ${answer.non2xx} answers were no 2xx, ${answer.errors} failed.`);
    const ms = answer.latency.p97_5;
    times.set(question.name, ms);
    const kB = Math.round(answer.throughput.average / answer.requests.average / 1000);
    const target =
      question.most === undefined || !isWhole
        ? ''
        : ` (target under ${question.most}) ${verdict(ms < question.most)}`;
    say(`  ${question.name}: ${ms} ms, ${(ms / bareMs).toFixed(1)} times the bare one, ${kB} kB${target}`);
  }
  if (isWhole) {
    const seconds = await takeOn(address, headers, 500);
    say(`  500 more customers from one file: ${seconds} s (target under 60) ${verdict(seconds < 60)}`);
    for (const name of ['web', 'worker1']) {
      const megabytes = residentMb(members[name].child.pid);
      say(`  memory of the ${name}: ${megabytes} MB resident (target under 350) ${verdict(megabytes < 350)}`);
    }
    const [customer] = await query(
      `SELECT c.code, c.realm FROM customer c JOIN summary s ON s.customer_id = c.id WHERE c.code = '${counts.largest}'`,
    );
    // Whatever its plan allows: what is measured is how long it takes.
    await query(`UPDATE plan_version SET terms = JSON_SET(terms, '$.most.people', NULL)`);
    const { first, ten, gone } = await measureDirectory({
      address,
      cookie,
      directory: parts.env.LAAGER_DIRECTORY_URL,
      customer: { code: String(customer.code), realm: String(customer.realm) },
    });
    say(
      `  50,000 people of a directory for the first time: ${first} s (target under 60) ${verdict(first < 60)}`,
    );
    say(`  a change of ten among them: ${ten} s (target under 2) ${verdict(ten < 2)}; ten gone: ${gone} s`);
    await processes.stop(members.web);
    await processes.stop(members.worker1);
    await runProgram(processes, 'bench', ['node', ['dist/node/bench.mjs']], parts.env, {
      write: (chunk) => {
        for (const line of String(chunk).split('\n')) if (line !== '') say(`  ${line}`);
      },
    });
  }
  await query.end();
  await processes.stopAll();
  rmSync(folder, { recursive: true, force: true });
  return { bare: bareMs, times };
}

/** Takes customers on from one file. @returns the seconds that it took */
async function takeOn(address, headers, customers) {
  const one = (n) =>
    `  - {code: ZZ${n}, name: Late ${n}, state: active, plan: harbour, site: KQ, zone: Europe/Dublin, currency: EUR, card: eur}`;
  const body = ['customers:', ...Array.from({ length: customers }, (_, n) => one(n))].join('\n');
  const began = Date.now();
  const response = await fetch(`${address}/api/v1/customers/file?keep=all`, {
    method: 'POST',
    headers: { ...headers, 'content-type': 'application/yaml' },
    body,
  });
  const { kept, faults } = await response.json();
  if (kept !== true) throw new Refusal(`taking ${customers} on: ${JSON.stringify(faults?.slice(0, 3))}`);
  return Math.round((Date.now() - began) / 100) / 10;
}

/** Turns pages until it is far down a list, and gives the address of the page there. */
async function farDown(address, path, headers) {
  let at = path;
  for (let pages = 0; pages < 40; pages++) {
    const response = await fetch(`${address}/api/v1${at}`, { headers });
    const { next } = await response.json();
    if (typeof next !== 'string') break;
    at = `${path}&after=${encodeURIComponent(next)}`;
  }
  return at;
}

async function signIn(address) {
  const response = await fetch(`${address}/api/v1/session`, {
    method: 'POST',
    headers: { origin: address, 'content-type': 'application/json' },
    body: JSON.stringify({ mail: 'bram@terntallow.example', password: PASSWORD }),
  });
  if (response.status !== 204) throw new Refusal(`signing in answered ${response.status}`);
  return response.headers
    .getSetCookie()
    .map((one) => one.split(';')[0])
    .join('; ');
}

async function connectTo(port) {
  const { default: mysql } = await import('mysql2/promise');
  const connection = await mysql.createConnection({
    host: '127.0.0.1',
    port,
    user: 'root',
    database: 'laager_bench',
  });
  const query = async (sql) => {
    /** @type {[import('mysql2').RowDataPacket[], unknown]} */
    const [rows] = await connection.query(sql);
    return rows;
  };
  return Object.assign(query, { end: () => connection.end() });
}

/** Waits until everyone who is in was read, and every customer's summary was taken since. */
async function untilCalm(query) {
  const began = Date.now();
  const until = async (sql, says) => {
    for (;;) {
      const [row] = await query(sql);
      if (Number(row.left_over) === 0) break;
      if (Date.now() - began > 600_000) throw new Refusal(`${says} in ten minutes.`);
      await pause(500);
    }
  };
  await until(
    'SELECT SUM(session_place IS NULL) AS left_over FROM provider',
    'The worker did not read who is in',
  );
  await until(
    `SELECT SUM(taken_wall < ${Date.now()}) AS left_over FROM summary`,
    'The worker did not take the summaries',
  );
  say(`  who is in read, all summaries taken in ${Math.round((Date.now() - began) / 1000)} s`);
}

/** The reference: an HTTP endpoint that does nothing but SELECT 1. */
async function bareEndpoint(databasePort) {
  const { default: mysql } = await import('mysql2/promise');
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

/** How much of one core each process takes while nobody asks anything, in percent over `REST_SECONDS`. */
async function busyAtRest(members) {
  const REST_SECONDS = 60;
  const used = () =>
    Object.fromEntries(Object.entries(members).map(([name, { child }]) => [name, ticksOf(child.pid)]));
  const before = used();
  await pause(REST_SECONDS * 1_000);
  const after = used();
  return Object.fromEntries(
    Object.keys(members).map((name) => [name, (after[name] - before[name]) / REST_SECONDS]),
  );
}

/** CPU time of a process, in hundredths of a second: Linux counts it so for programs (proc(5), `utime` and `stime`). */
function ticksOf(pid) {
  // The name, in brackets, may hold blanks; what follows it is counted from the third field.
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
  return Number(fields[11]) + Number(fields[12]);
}

function residentMb(pid) {
  return Math.round(
    Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) / 1024,
  );
}
