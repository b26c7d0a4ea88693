import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { expect } from 'vitest';
import { freePort, Household, startMariaDb, untilAnswers, type Member } from '../../../scripts/lib.mjs';
import { seedCustomers, seedGround } from '../../../src/demo/seed';
import { peopleCsv, peopleOf } from '../../../src/demo/people';
import { enter, type CustomerScope, type Scope } from '../../../src/server/access';
import { closeApp, openAppOn, type App } from '../../../src/server/app';
import { writeClock } from '../../../src/server/clock';
import { migrate, type DatabaseSettings } from '../../../src/server/db';
import { proposeHere, provision } from '../../../src/server/environments';
import { importPeople } from '../../../src/server/people';
import { DIRECTORY_KEY, SECRET, SECRET_KEY, START } from './world';

/** Simulated seconds for each second: an operation of minutes takes about half a second. */
const SPEED = 600;

/** Laager as it runs: MariaDB, provider, directory, mail and workers as processes that can be killed. */
export class Engine {
  readonly household = new Household();
  readonly members = new Map<string, Member>();
  readonly folder = mkdtempSync(join(tmpdir(), 'laager-engine-'));
  private readonly ports = new Map<string, number>();
  private env: Record<string, string> = {};
  private opened: App | undefined;
  private workers = 0;

  async open(): Promise<void> {
    for (const name of ['database', 'provider', 'directory', 'mail'])
      this.ports.set(name, await freePort(5200 + this.ports.size * 20));
    await this.startDatabase();
    await this.openOn(this.port('database'));
  }

  /** The same on a MariaDB that is there already. */
  async openOn(databasePort: number): Promise<void> {
    this.ports.set('database', databasePort);
    for (const name of ['provider', 'directory', 'mail'])
      if (!this.ports.has(name)) this.ports.set(name, await freePort(5300 + this.ports.size * 20));
    this.env = {
      LAAGER_DB_HOST: '127.0.0.1',
      LAAGER_DB_PORT: String(databasePort),
      LAAGER_DB_USER: 'root',
      LAAGER_DB_NAME: 'engine',
      LAAGER_SECRET_KEY: SECRET_KEY,
      LAAGER_DIRECTORY_URL: this.url('directory'),
      LAAGER_DIRECTORY_KEY: DIRECTORY_KEY,
      LAAGER_MAIL_URL: this.url('mail'),
      LAAGER_LEASE_MS: '1500',
      PROVIDER_ACCOUNT: 'tern',
      PROVIDER_SECRET: SECRET,
      DIRECTORY_KEY,
    };
    for (const name of ['provider', 'directory', 'mail']) await this.startStandin(name);
    await migrate(this.settings());
    await this.control('PUT', '/control/clock', { at: START, speed: SPEED });
    this.opened = await this.another();
    await writeClock(this.app.db, { shownAt: START, wallAt: Date.now(), speed: SPEED });
    await this.app.clock.refresh();
    await seedGround(this.app, { url: this.url('provider'), secret: SECRET }, START, START);
    await seedCustomers(this.app, START);
    for (const code of ['SVG', 'MHP'])
      await importPeople(this.app, await this.inside(code), peopleCsv(peopleOf(code, 42)), false);
  }

  async close(): Promise<void> {
    if (this.opened) await closeApp(this.opened);
    await this.household.stopAll();
    rmSync(this.folder, { recursive: true, force: true });
  }

  /** Laager's server once more, as another web process would have it; on another server of a cluster if need be. */
  async another(databasePort = this.port('database')): Promise<App> {
    const app = await openAppOn(this.settings(databasePort), 'test', {
      secretKey: SECRET_KEY,
      directoryUrl: this.url('directory'),
      directoryKey: DIRECTORY_KEY,
      mailUrl: this.url('mail'),
    });
    app.log.level = 'silent';
    return app;
  }

  get app(): App {
    if (!this.opened) throw new Error('the engine is not open');
    return this.opened;
  }

  private port(name: string): number {
    return this.ports.get(name) ?? 0;
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
    this.members.set('database', await startMariaDb(this.household, folder, this.port('database')));
  }

  async startStandin(name: string): Promise<void> {
    const member = this.household.start(name, 'node', [`dist/node/${name}.mjs`], {
      env: {
        ...this.env,
        STANDIN_PORT: String(this.port(name)),
        STANDIN_DATABASE: `engine_${name}`,
        // Calls to the directory and mail take a while, so that their steps can be met at work; the provider has a fault for it.
        STANDIN_SLOW_MS: '120',
      },
    });
    this.members.set(name, member);
    await untilAnswers(`${this.url(name)}/health`, member);
  }

  startWorker(databasePort = this.port('database')): Member {
    const member = this.household.start(`worker${++this.workers}`, 'node', ['dist/node/worker.mjs'], {
      env: { ...this.env, LAAGER_DB_PORT: String(databasePort), LAAGER_LOG: 'warn' },
    });
    this.members.set(member.name, member);
    return member;
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
    return { actor: { id: 'test', name: 'Test', role: 'lead' }, customers: undefined };
  }

  async inside(code: string): Promise<CustomerScope> {
    return enter(this.app.db, await this.scope(), code);
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
    const request = {
      environment,
      people,
      profile: 'standard' as const,
      template: 'shared-office',
      site: 'KQ',
    };
    const { stamp } = await proposeHere(app, scope, request);
    return {
      confirm: (through = app) => provision(through, scope, { ...request, stamp, reason: 'a test' }),
    };
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
        "SELECT kind, subject, state, needs_left, attempt, due_wall - ? AS due, lease_wall - ? AS lease, operation, says FROM step WHERE run_id = ? AND state <> 'done'",
        [Date.now(), Date.now(), run],
      )
      .catch((error: unknown) => [String(error)]);
    const said = [...this.members].map(
      ([name, member]) => `${name}: ${member.gone ? 'gone' : 'lives'} ${member.tail()}`,
    );
    return [...steps.map((step) => JSON.stringify(step)), ...said].join('\n');
  }

  /** Waits until a step of a kind is under way in a run. */
  async untilWorking(run: string, kind: string): Promise<void> {
    await expect
      .poll(
        async () => {
          const row = await this.app.db.row<{ n: number }>(
            "SELECT COUNT(*) AS n FROM step WHERE run_id = ? AND kind = ? AND state = 'working'",
            [run, kind],
          );
          return row?.n ?? 0;
        },
        { timeout: 60_000, interval: 15 },
      )
      .toBeGreaterThan(0);
  }

  /** What the provider has for an environment: each wanted thing once, and nothing that nobody wants. */
  async expectExactlyWanted(environment: string, code = 'SVG'): Promise<void> {
    const all = await this.app.provider.resources(code);
    const seen = all.filter((one) => one.tags.environment === environment);
    const hosts = await this.app.db.rows<{ id: string; name: string }>(
      'SELECT h.id, h.name FROM host h JOIN pool p ON p.id = h.pool_id WHERE p.environment_id = ? ORDER BY h.name',
      [environment],
    );
    const kinds = (kind: string): string[] => seen.filter((one) => one.kind === kind).map((one) => one.name);
    expect(kinds('host').sort()).toEqual(hosts.map((host) => host.name));
    expect([kinds('subnet').length, kinds('share').length, kinds('pool').length]).toEqual([1, 1, 1]);
    const networks = all.filter((one) => one.kind === 'network');
    expect(networks).toHaveLength(1);
    for (const host of seen.filter((one) => one.kind === 'host'))
      expect(host).toMatchObject({ state: 'on', agent: 'ready', joined: `${code.toLowerCase()}.example` });
  }
}
