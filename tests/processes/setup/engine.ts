import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { expect } from 'vitest';
import { freePort, Processes, startMariaDb, untilAnswers, type Member } from '../../../scripts/lib.mjs';
import { own } from '../../server/setup/ports';
import { OPERATORS } from '../../../src/demo/scenario';
import { seedCustomers, seedGround, seedOperators } from '../../../src/demo/seed';
import { peopleCsv, peopleOf } from '../../../src/demo/people';
import { enter, type CustomerScope, type Scope } from '../../../src/server/access';
import { OWN_CODE, RIGHTS } from '../../../src/contract';
import { closeApp, type App } from '../../../src/server/app';
import { writeClock } from '../../../src/demo/clock';
import { openProcess } from '../../../src/main/app';
import { migrate, type DatabaseSettings } from '../../../src/server/db';
import { beginChange, proposeChange, type Begun } from '../../../src/server/changes';
import type { Change } from '../../../src/core/planning';
import { Problem } from '../../../src/server/problem';
import { importPeople } from '../../../src/server/people';
import { httpProvider, type Provider } from '../../../src/server/providers';
import { DIRECTORY_KEY, SECRET, SECRET_KEY, START } from '../../server/setup/world';

/** Simulated seconds for each second: an operation of minutes takes about half a second. */
const SPEED = 600;

/** What the processes' figures are read with. */
export const METRICS_TOKEN = 'figures for these tests';

/** Laager as it runs: MariaDB, provider, directory, mail and workers as processes that can be killed. */
export class Engine {
  readonly processes = new Processes();
  readonly members = new Map<string, Member>();
  readonly folder = mkdtempSync(join(tmpdir(), 'laager-engine-'));
  private readonly ports = new Map<string, number>();
  private env: Record<string, string> = {};
  private opened: App | undefined;
  private workers = 0;

  /** @param leaseMs for so long a step is nobody else's when its worker has died */
  constructor(private readonly leaseMs = 1_500) {}

  async open(): Promise<void> {
    for (const name of ['database', 'provider', 'northern', 'directory', 'mail'])
      this.ports.set(name, await freePort(own(5200) + this.ports.size * 20));
    await this.startDatabase();
    await this.openOn(this.port('database'));
  }

  /** The same on a MariaDB that is there already. */
  async openOn(databasePort: number): Promise<void> {
    this.ports.set('database', databasePort);
    for (const name of ['provider', 'northern', 'directory', 'mail'])
      if (!this.ports.has(name)) this.ports.set(name, await freePort(own(5300) + this.ports.size * 20));
    this.env = {
      LAAGER_METRICS_TOKEN: METRICS_TOKEN,
      LAAGER_DB_HOST: '127.0.0.1',
      LAAGER_DB_PORT: String(databasePort),
      LAAGER_DB_USER: 'root',
      LAAGER_DB_NAME: 'engine',
      LAAGER_SECRET_KEY: SECRET_KEY,
      LAAGER_DIRECTORY_URL: this.url('directory'),
      LAAGER_DIRECTORY_KEY: DIRECTORY_KEY,
      LAAGER_MAIL_URL: this.url('mail'),
      LAAGER_LEASE_MS: String(this.leaseMs),
      LAAGER_LOG: 'silent',
      LAAGER_SIMULATION_URLS: `${this.url('provider')},${this.url('northern')}`,
      PROVIDER_ACCOUNT: 'tern',
      PROVIDER_SECRET: SECRET,
      DIRECTORY_KEY,
    };
    for (const name of ['provider', 'northern', 'directory', 'mail']) await this.startStandin(name);
    await migrate(this.settings());
    await this.control('PUT', '/control/clock', { at: START, speed: SPEED });
    // Who opens after the clock is written goes by it from the first moment on: nothing is made at another time.
    const early = await this.another();
    await writeClock(early.db, { shownAt: START, wallAt: Date.now(), speed: SPEED });
    await closeApp(early);
    this.opened = await this.another();
    const urls = { coast: this.url('provider'), northern: this.url('northern') };
    await seedGround(this.app, { urls, secret: SECRET }, START, START);
    await seedCustomers(this.app);
    await seedOperators(this.app, OPERATORS);
    for (const code of ['SVG', 'MHP'])
      await importPeople(this.app, await this.inside(code), peopleCsv(peopleOf(code, 42)), false);
  }

  async close(): Promise<void> {
    if (this.opened) await closeApp(this.opened);
    await this.processes.stopAll();
    rmSync(this.folder, { recursive: true, force: true });
  }

  /** Laager's server once more, as another web process would have it; on another server of a cluster if need be. */
  async another(databasePort = this.port('database')): Promise<App> {
    const { app } = await openProcess('test', { ...this.env, LAAGER_DB_PORT: String(databasePort) });
    return app;
  }

  get app(): App {
    if (!this.opened) throw new Error('the engine is not open');
    return this.opened;
  }

  private port(name: string): number {
    return this.ports.get(name) ?? 0;
  }

  get directoryUrl(): string {
    return this.url('directory');
  }

  private url(name: string): string {
    return `http://127.0.0.1:${this.port(name)}`;
  }

  settings(port = this.port('database')): DatabaseSettings {
    return {
      host: '127.0.0.1',
      port,
      user: 'root',
      password: '',
      database: 'engine',
      connections: 6,
    };
  }

  async startDatabase(): Promise<void> {
    const folder = relative(process.cwd(), join(this.folder, 'data'));
    this.members.set('database', await startMariaDb(this.processes, folder, this.port('database')));
  }

  async startStandin(name: string): Promise<void> {
    const program = name === 'northern' ? 'provider' : name;
    const member = this.processes.start(name, 'node', [`dist/node/${program}.mjs`], {
      env: {
        ...this.env,
        STANDIN_PORT: String(this.port(name)),
        STANDIN_DATABASE: `engine_${name}`,
        PROVIDER_CATALOGUE: name === 'northern' ? 'northern' : 'coast',
        // Calls to the directory and mail take a while, so that their steps can be met at work; the provider has a fault for it.
        STANDIN_SLOW_MS: '120',
      },
    });
    this.members.set(name, member);
    await untilAnswers(`${this.url(name)}/health`, member);
  }

  startWorker(databasePort = this.port('database'), name = `worker${++this.workers}`): Member {
    const member = this.processes.start(name, 'node', ['dist/node/worker.mjs'], {
      env: { ...this.env, LAAGER_DB_PORT: String(databasePort), LAAGER_LOG: 'warn' },
    });
    this.members.set(member.name, member);
    return member;
  }

  /** A worker that bears its name again after it was killed. */
  async startNamed(name: string): Promise<void> {
    this.startWorker(this.port('database'), name);
  }

  /** The web server, as it runs; on the port that it had before. @param name another one’s, where there are several */
  async startWeb(name = 'web'): Promise<string> {
    if (!this.ports.has(name)) this.ports.set(name, await freePort(own(5390)));
    const member = this.processes.start(name, 'node', ['dist/node/web.mjs'], {
      env: {
        ...this.env,
        LAAGER_LOG: 'warn',
        NODE_ENV: 'production',
        HOST: '127.0.0.1',
        PORT: String(this.port(name)),
      },
    });
    this.members.set(name, member);
    await untilAnswers(`${this.url(name)}/sign-in`, member);
    return this.url(name);
  }

  get webAddress(): string {
    return this.url('web');
  }

  /** Ends a process at once, as a power cut would. */
  async kill(member: Member | undefined): Promise<void> {
    member?.child.kill('SIGKILL');
    await member?.exited;
  }

  /** After each test: no faults, no workers. */
  async calm(): Promise<void> {
    await this.faults();
    for (const [name, member] of this.members) if (name.startsWith('worker')) await this.kill(member);
  }

  async control(method: string, path: string, body: unknown): Promise<void> {
    const response = await fetch(this.url('provider') + path, { method, body: JSON.stringify(body) });
    expect(response.ok).toBe(true);
  }

  faults(...faults: readonly { kind: string; target?: string; amount?: number }[]): Promise<void> {
    return this.control('PUT', '/control/faults', { faults });
  }

  async scope(): Promise<Scope> {
    return { actor: { id: 'test', name: 'Test', role: 'lead', rights: RIGHTS }, customers: undefined };
  }

  async inside(code: string): Promise<CustomerScope> {
    return enter(this.app.db, await this.scope(), code, code === OWN_CODE);
  }

  /** Begins to provision for SVG. @returns the run's and the environment's ids */
  async provision(environment: string, people: number): Promise<{ run: string; environment: string }> {
    return (await this.proposed(this.app, 'SVG', environment, people)).confirm();
  }

  /** A proposal as someone sees it; `confirm` agrees to it, through any web process. */
  async proposed(
    app: App,
    code: string,
    environment: string,
    people: number,
  ): Promise<{ confirm: (through?: App) => Promise<{ run: string; environment: string }> }> {
    const scope = await this.inside(code);
    const input = { environment, people, template: 'shared-office', site: 'KQ' };
    const change = changeNamed(app, 'provision');
    const { fingerprint } = await proposeChange(app, scope, change, { input });
    return {
      confirm: (through = app) =>
        beginChange(through, scope, change, { input, fingerprint, reason: 'a test' }),
    };
  }

  /** Proposes a change of an environment and begins it as proposed; once more, as a person would, when it has changed meanwhile. */
  async change(
    kind: string,
    input: object,
    environment: string | undefined,
    { app = this.app, code = 'SVG', policy = {} }: { app?: App; code?: string; policy?: object } = {},
  ): Promise<Begun> {
    const scope = await this.inside(code);
    const change = changeNamed(app, kind);
    const asked = { input, environment, policy };
    const attempt = async (): Promise<Begun> => {
      const { fingerprint } = await proposeChange(app, scope, change, asked);
      return beginChange(app, scope, change, { ...asked, fingerprint, reason: 'a test', code });
    };
    return attempt().catch((error: unknown) => {
      if (error instanceof Problem && error.code === 'changed') return attempt();
      throw error;
    });
  }

  /** The provider as it is, past Laager. */
  provider(): Provider {
    return httpProvider({ code: 'coast', url: this.url('provider'), account: 'tern', secret: SECRET });
  }

  /** The hosts that an environment wants, by name. */
  async hosts(environment: string): Promise<{ id: string; name: string; ref: string | null }[]> {
    return this.app.db.rows(
      `SELECT id, name, ref FROM resource WHERE environment_id = ? AND kind = 'host' AND wanted AND returned_at IS NULL
       ORDER BY name`,
      [environment],
    );
  }

  async runState(run: string): Promise<string | undefined> {
    const row = await this.app.db
      .row<{ state: string }>('SELECT state FROM run WHERE id = ?', [run])
      .catch(() => undefined);
    return row?.state;
  }

  async untilRun(run: string, state: string, timeout = 45_000): Promise<void> {
    try {
      await expect.poll(() => this.runState(run), { timeout, interval: 100 }).toBe(state);
    } catch (error) {
      throw new Error(`${String(error)}\n${await this.tell(run)}`);
    }
  }

  /** What stands in the way of a run: its steps that are not done, and what the processes last said. */
  private async tell(run: string): Promise<string> {
    const steps = await this.app.db
      .rows(
        "SELECT kind, action, subject, state, needs_left, attempt, due_wall - ? AS due, lease_wall - ? AS lease, operation, says FROM step WHERE run_id = ? AND state NOT IN ('done','overtaken')",
        [Date.now(), Date.now(), run],
      )
      .catch((error: unknown) => [String(error)]);
    const said = [...this.members].map(
      ([name, member]) => `${name}: ${member.gone ? 'gone' : 'lives'} ${member.tail()}`,
    );
    return [...steps.map((step) => JSON.stringify(step)), ...said].join('\n');
  }

  /** Waits until a step like `host make` is under way in a run. */
  async untilWorking(run: string, step: string): Promise<void> {
    await this.untilOneWorks(run, new Set([step]));
  }

  /** Waits until one of several is under way. @returns which one */
  async untilOneWorks(run: string, steps: ReadonlySet<string>): Promise<string> {
    let found: string | undefined;
    await expect
      .poll(
        async () => {
          const working = await this.app.db.rows<{ step: string }>(
            "SELECT CONCAT(kind, ' ', action) AS step FROM step WHERE run_id = ? AND state = 'working'",
            [run],
          );
          found = working.map((one) => one.step).find((step) => steps.has(step));
          return found;
        },
        { timeout: 60_000, interval: 15, message: `none of ${[...steps].join(', ')} is under way` },
      )
      .toBeDefined();
    return found ?? '';
  }

  /** What the provider has for an environment: each wanted thing once, and nothing that nobody wants. */
  async expectExactlyWanted(environment: string, code = 'SVG'): Promise<void> {
    const all = await this.provider().resources({ customer: code });
    const present = all.filter((one) => one.tags.environment === environment);
    const wanted = await this.app.db.rows<{ id: string; kind: string; name: string; ref: string | null }>(
      `SELECT id, kind, name, ref FROM resource WHERE environment_id = ? AND wanted AND returned_at IS NULL
       ORDER BY kind, name`,
      [environment],
    );
    const named = (list: readonly { kind: string; name: string }[]): string[] =>
      list.map((one) => `${one.kind} ${one.name}`).sort();
    expect(named(present)).toEqual(named(wanted));
    expect(present.map((one) => one.ref).sort()).toEqual(wanted.map((one) => one.ref ?? '').sort());
    expect(all.filter((one) => one.kind === 'network')).toHaveLength(1);
    for (const host of present.filter((one) => one.kind === 'host'))
      expect(host).toMatchObject({
        state: 'on',
        attributes: { agent: 'ready', joined: `${code.toLowerCase()}.example` },
      });
  }
}

function changeNamed(app: App, kind: string): Change {
  const found = app.catalogue.changes.find((one) => one.kind === kind);
  if (!found) throw new Error(`${kind} is no change`);
  return found;
}
