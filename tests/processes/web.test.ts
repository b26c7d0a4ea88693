import { randomUUID } from 'node:crypto';
import { setTimeout as pause } from 'node:timers/promises';
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { makeToken, scopeOfMail } from '../../src/server/sign-in';
import { Engine } from './setup/engine';

/** The web server as a process of its own, killed between the deed and its answer; and what it says of those outside. */
describe('the web server', { timeout: 180_000 }, () => {
  const engine = new Engine();
  let token = '';
  beforeAll(async () => {
    await engine.open();
    await engine.startWeb();
    const lead = await scopeOfMail(engine.app.db, 'bram@terntallow.example');
    if (!lead) throw new Error('the lead is missing');
    token = (await makeToken(engine.app, lead, { name: 'test', days: 1 })).token;
  });
  afterEach(() => engine.calm());
  afterAll(() => engine.close());

  interface Answered {
    readonly status: number;
    readonly body: Record<string, unknown>;
  }

  const post = async (path: string, body: unknown, key?: string): Promise<Answered> => {
    const response = await fetch(`${engine.webAddress}/api/v1${path}`, {
      method: 'POST',
      headers: {
        authorization: `Bearer ${token}`,
        'content-type': 'application/json',
        ...(key === undefined ? {} : { 'idempotency-key': key }),
      },
      body: JSON.stringify(body),
      signal: AbortSignal.timeout(20_000),
    });
    return { status: response.status, body: (await response.json()) as Record<string, unknown> };
  };
  /** Sends until there is an answer that means something, as a client does that keeps its key. */
  const insist = async (path: string, body: unknown, key: string): Promise<Answered> => {
    let last: Answered | undefined;
    await expect
      .poll(
        async () => {
          last = await post(path, body, key).catch(() => undefined);
          return last !== undefined && last.status < 500;
        },
        { timeout: 60_000, interval: 200 },
      )
      .toBe(true);
    return last ?? { status: 0, body: {} };
  };

  const CHANGE = '/customers/SVG/changes/provision';
  const wish = (environment: string) => ({
    input: { environment, people: 6, template: 'shared-office', site: 'KQ' },
  });
  const proposed = async (environment: string): Promise<object> => {
    const { body } = await post(`${CHANGE}/proposal`, wish(environment));
    return { ...wish(environment), fingerprint: body.fingerprint, reason: 'a test' };
  };
  const madeOf = async (environment: string): Promise<{ runs: number; environments: number }> => {
    const row = await engine.app.db.row<{ runs: number; environments: number }>(
      `SELECT COUNT(DISTINCT r.id) AS runs, COUNT(DISTINCT e.id) AS environments
       FROM environment e LEFT JOIN run r ON r.customer_id = e.customer_id AND r.environment_id = e.id WHERE e.name = ?`,
      [environment],
    );
    return { runs: Number(row?.runs), environments: Number(row?.environments) };
  };

  const health = async (): Promise<Record<string, { works: boolean; says: string }>> => {
    const response = await fetch(`${engine.webAddress}/healthz`, { signal: AbortSignal.timeout(20_000) });
    return ((await response.json()) as { parts: Record<string, { works: boolean; says: string }> }).parts;
  };

  it('says within seconds that a stopped provider does not work, and that it does again', async () => {
    engine.startWorker();
    await expect.poll(async () => (await health()).provider?.works, { timeout: 20_000 }).toBe(true);
    const provider = engine.members.get('provider');
    provider?.child.kill('SIGSTOP');
    const began = Date.now();
    await expect
      .poll(async () => (await health()).provider, { timeout: 15_000, interval: 250 })
      // The other one answers all the while.
      .toEqual({ works: false, says: 'Coast Compute has not answered for a while' });
    // Its last good answer may be five seconds old, and no older.
    expect(Date.now() - began).toBeLessThan(10_000);
    // Stopped for as long as it takes a call to be given up, and a little longer.
    await pause(Math.max(0, 8_000 - (Date.now() - began)));
    provider?.child.kill('SIGCONT');
    await expect
      .poll(async () => (await health()).provider, { timeout: 15_000, interval: 250 })
      .toEqual({ works: true, says: 'answer' });
    // What it does is read as it happens again: no job rests for long because it had to wait.
    const readUntil = async (): Promise<number> =>
      (await engine.app.db.row<{ at: number }>("SELECT read_until AS at FROM provider WHERE code = 'coast'"))
        ?.at ?? 0;
    await expect
      .poll(async () => engine.app.clock.now() - (await readUntil()), { timeout: 10_000 })
      // At 600 times the wall's pace: three seconds of it.
      .toBeLessThan(3_000 * 600);
  });

  it('takes an answer that begins and never ends for what it is: trouble outside, counted, and got over', async () => {
    const { run, environment } = await engine.provision('stalled', 6);
    await engine.faults({ kind: 'stall' });
    engine.startWorker();
    const tried = async (): Promise<{ most: number; says: string }> => {
      const row = await engine.app.db.row<{ most: number; says: string }>(
        'SELECT MAX(attempt) AS most, MAX(says) AS says FROM step WHERE run_id = ?',
        [run],
      );
      return { most: row?.most ?? 0, says: row?.says ?? '' };
    };
    await expect.poll(async () => (await tried()).most, { timeout: 40_000 }).toBeGreaterThan(0);
    expect((await tried()).says).toContain('does not answer');
    await engine.faults();
    await engine.untilRun(run, 'done', 90_000);
    await engine.expectExactlyWanted(environment);
  });

  it.each([0, 8, 20, 45, 90])(
    'killed %i ms after a change was sent: sent again with its key, there is one run',
    async (after) => {
      const name = `killed${after}`;
      const body = await proposed(name);
      const key = randomUUID();
      const first = post(CHANGE, body, key).catch(() => undefined);
      await pause(after);
      await engine.kill(engine.members.get('web'));
      await first;
      await engine.startWeb();
      const again = await insist(CHANGE, body, key);
      expect(again.status).toBe(201);
      expect(await madeOf(name)).toEqual({ runs: 1, environments: 1 });
      // And once more: the same answer.
      expect((await insist(CHANGE, body, key)).body).toEqual(again.body);
      expect(await madeOf(name)).toEqual({ runs: 1, environments: 1 });
    },
  );

  it('killed right after the change was kept, before it could answer: the answer is made again from what was kept', async () => {
    const body = await proposed('kept');
    const key = randomUUID();
    const first = post(CHANGE, body, key).catch(() => undefined);
    await expect
      .poll(() => engine.app.db.row('SELECT 1 FROM idempotency WHERE idempotency_key = ?', [key]), {
        timeout: 10_000,
        interval: 2,
      })
      .toBeDefined();
    await engine.kill(engine.members.get('web'));
    await first;
    await engine.startWeb();
    const again = await insist(CHANGE, body, key);
    const run = await engine.app.db.row<{ id: string }>(
      "SELECT r.id FROM run r JOIN environment e ON e.id = r.environment_id WHERE e.name = 'kept'",
    );
    expect(again).toMatchObject({ status: 201, body: { run: run?.id } });
  });

  it('goes on when its database was killed while it wrote: nothing is half done, nothing is in the way', async () => {
    const body = await proposed('halved');
    const key = randomUUID();
    const first = post(CHANGE, body, key).catch(() => undefined);
    await pause(25);
    await engine.kill(engine.members.get('database'));
    await engine.startDatabase();
    const early = await first;
    if (early && early.status >= 500) expect(String(early.body.detail)).toMatch(/again/);
    const again = await insist(CHANGE, body, key);
    expect(again.status).toBe(201);
    expect(await madeOf('halved')).toEqual({ runs: 1, environments: 1 });
  });
});
