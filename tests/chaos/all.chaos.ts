import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeToken, scopeOfMail } from '../../src/server/sign-in';
import { Engine } from '../processes/setup/engine';
import {
  begunOtherwise,
  lossesOf,
  lostData,
  notFollowing,
  notOnce,
  recordOf,
  unproven,
  wronglyMetered,
} from './audit';
import { makeTrouble, randomFrom } from './monkey';
import {
  CHAOS_PLAN,
  letGo,
  moveSeveral,
  startAgain,
  takeUp,
  takeUpSeveral,
  workFor,
  type Api,
  type Deed,
  type Moving,
} from './people';

/*
 * ./laager chaos: people change the same environments at the same time, through the API, while processes are killed and
 * stopped and the provider has every fault it knows. Afterwards everything that is wanted stands exactly once, is metered
 * exactly as the provider's record says, and what was retired is proven to be gone.
 */

const MINUTES = Number(process.env.LAAGER_CHAOS_MINUTES ?? 20);
const SEED = Number(process.env.LAAGER_CHAOS_SEED ?? Date.now() % 1_000_000);
const CUSTOMERS = ['SVG', 'SVG', 'MHP'] as const;
/** Lets all go half-way, from three environments. */
const LEAVER = 'WAP';
const MOVED = ['SVG', 'MHP', 'FPS', 'HSB', 'APT'] as const;
const LONG = (MINUTES + 15) * 60_000;

const tell = (line: string): void =>
  void process.stdout.write(`${new Date().toISOString().slice(11, 19)} ${line}\n`);

describe(`chaos for ${MINUTES} minutes, seed ${SEED}`, { timeout: LONG }, () => {
  const engine = new Engine();
  let api: Api;
  const deeds: Deed[] = [];
  const moves: Moving[] = [];
  let leaving = '';
  let stolen: ReadonlySet<string> = new Set();

  beforeAll(async () => {
    await engine.open();
    for (const environment of ['one', 'two', 'three'])
      await (await engine.proposed(engine.app, LEAVER, environment, 4)).confirm();
    await engine.startWeb();
    for (const name of ['worker1', 'worker2']) await engine.startNamed(name);
    const lead = await scopeOfMail(engine.app.db, 'bram@terntallow.example');
    if (!lead) throw new Error('the lead is missing');
    const { token } = await makeToken(engine.app, lead, { name: 'chaos', days: 1 });
    api = { url: () => engine.webAddress, token, now: () => engine.app.clock.now() };
  }, 180_000);
  afterAll(() => engine.close(), 60_000);

  it('is lived through', async () => {
    const stop = new AbortController();
    const timer = setTimeout(() => stop.abort(), MINUTES * 60_000);
    const people = CUSTOMERS.map((code, n) => workFor(code, api, randomFrom(SEED + n + 1), stop.signal));
    const moving = moveSeveral(MOVED, api, randomFrom(SEED + 99), stop.signal);
    const half = setTimeout(() => {
      letGo(LEAVER, api, stop.signal).then(
        (run) => (leaving = run),
        (error: unknown) => (leaving = String(error)),
      );
    }, MINUTES * 30_000);
    const trouble = await makeTrouble(engine, randomFrom(SEED), stop.signal, tell);
    const { made } = trouble;
    stolen = trouble.stolen;
    const done = await Promise.all(people);
    clearTimeout(timer);
    clearTimeout(half);
    moves.push(...(await moving));
    deeds.push(...done.flatMap((one) => one.deeds));
    const refused = done.reduce((sum, one) => sum + one.refused, 0);
    tell(`${made} troubles, ${deeds.length} changes begun, ${refused} refused`);
    expect(done.flatMap((one) => one.faults)).toEqual([]);
    expect(made).toBeGreaterThan(MINUTES * 5);
    expect(deeds.length).toBeGreaterThan(MINUTES * 2);
    tell(`${moves.length} times ${MOVED.length} customers were moved; ${LEAVER} left in run ${leaving}`);
    expect(moves.length).toBeGreaterThan(MINUTES);
    expect(leaving).toMatch(/^\w{26}$/);
  });

  it('began each change once, however often it was sent', async () => {
    expect(await begunOtherwise(engine, new Map(deeds.map(({ key, run }) => [key, run])))).toEqual([]);
    const runs = await engine.app.db.rows<{ id: string }>("SELECT id FROM run WHERE reason LIKE 'chaos %'");
    const answered = new Set(deeds.map((one) => one.run));
    // Of what was under way when it ended nobody heard: at most one for each of those at work.
    expect(runs.filter((one) => !answered.has(one.id)).length).toBeLessThanOrEqual(CUSTOMERS.length);
  });

  it('comes to rest: when nothing is in their way, and what was taken away is made again, every run ends', async () => {
    await engine.faults();
    for (const name of ['provider', 'northern', 'directory', 'mail'])
      if (engine.members.get(name)?.gone) await engine.startStandin(name);
    const going = new AbortController();
    for (const code of new Set(CUSTOMERS)) await startAgain(code, api, going.signal, `start ${code} at last`);
    const open = (): Promise<{ state: string }[]> =>
      engine.app.db.rows(
        `SELECT id, kind, state, cause FROM run WHERE state <> 'done'
         UNION ALL SELECT id, kind, state, cause FROM parent_run WHERE state <> 'done'`,
      );
    await expect
      .poll(
        async () => {
          const runs = await open();
          if (runs.some((run) => run.state !== 'stopped')) return { runs, losses: -1 };
          // A run that stopped because something was taken away goes on when that is made anew.
          const { losses } = await lossesOf(engine, stolen);
          for (const { environment, code, differences } of losses)
            await engine.change('mend', { differences: [...differences] }, environment, { code });
          if (losses.length === 0)
            for (const code of new Set([...CUSTOMERS, LEAVER])) await takeUp(code, api, going.signal);
          await takeUpSeveral(api, going.signal);
          return { runs, losses: losses.length };
        },
        { timeout: 8 * 60_000, interval: 1_500 },
      )
      .toEqual({ runs: [], losses: 0 });
    expect(await lossesOf(engine, new Set())).toEqual({ losses: [], faults: [] });
  });

  it('moved each customer once to each version, and to the last one at last', async () => {
    const stays = await engine.app.db.rows<{ code: string; version: number; n: number }>(
      `SELECT c.code, p.version, COUNT(*) AS n FROM customer_plan p JOIN customer c ON c.id = p.customer_id
       WHERE p.plan_code = ? GROUP BY c.code, p.version ORDER BY p.version`,
      [CHAOS_PLAN],
    );
    expect(stays.filter(({ n }) => n > 1)).toEqual([]);
    const last = Math.max(...moves.map(({ version }) => version));
    expect(
      stays
        .filter(({ version }) => version === last)
        .map(({ code }) => code)
        .sort(),
    ).toEqual([...MOVED].sort());
  });

  it('let the customer go whole: nothing of them is left, and they are retired', async () => {
    const state = async () =>
      (await engine.app.db.row<{ state: string }>('SELECT state FROM customer WHERE code = ?', [LEAVER]))
        ?.state;
    await expect.poll(state, { timeout: 60_000 }).toBe('retired');
    const runs = await engine.app.db.rows<{ n: number }>(
      `SELECT COUNT(*) AS n FROM run r JOIN customer c ON c.id = r.customer_id
       WHERE c.code = ? AND r.kind = 'retire' GROUP BY r.environment_id`,
      [LEAVER],
    );
    expect(runs).toEqual([{ n: 1 }, { n: 1 }, { n: 1 }]);
  });

  it('has everything that is wanted exactly once, and nothing else', async () => {
    for (const code of new Set(CUSTOMERS)) expect([code, await notOnce(engine, code)]).toEqual([code, []]);
  });

  it('has every host as its intent and what overrides it say', () =>
    expect.poll(() => notFollowing(engine), { timeout: 60_000 }).toEqual([]));

  it('metered every host to the second as the provider’s record says', async () => {
    const entries = await recordOf(engine);
    const last = entries.at(-1);
    const readUpTo = async (): Promise<number> =>
      Number(
        (
          await engine.app.db.row<{ place: string }>(
            "SELECT feed_place AS place FROM provider WHERE code = 'coast'",
          )
        )?.place,
      );
    await expect.poll(readUpTo, { timeout: 30_000 }).toBeGreaterThanOrEqual(last?.seq ?? 0);
    expect(await wronglyMetered(engine)).toEqual([]);
  });

  it('destroyed nobody’s data that it was not asked to', async () =>
    expect(await lostData(engine, stolen)).toEqual([]));

  it('has proof of everything that was retired', async () => expect(await unproven(engine)).toEqual([]));
});
