import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { NO_LIMITS } from '../../src/core/plans';
import type { ParentWithParts, Watch } from '../../src/contract';
import { DatabaseError } from '../../src/server/db';
import { carryOnParents, type ParentWork } from '../../src/server/parent-runs';
import { advance } from '../../src/server/worker';
import { parentWork } from '../../src/server/parent-runs/manifest';
import { ROOMS } from '../../src/server/rooms';
import { provisionFor, openWorld, type CallOptions, type World } from './setup/world';

/** As when the process is killed: what was done is done, and nothing more is noted. */
const killed = (): DatabaseError => new DatabaseError('killed', 0, undefined);

const CODES = ['APT', 'FPS', 'HSB', 'MHP', 'QFB', 'SVG', 'WAP'];

describe('a run over several customers', { timeout: 120_000 }, () => {
  let world: World;
  let version = 0;
  beforeAll(async () => {
    world = await openWorld('parent-runs');
    await keep();
    for (const code of CODES)
      expect((await lead('POST', `/customers/${code}/plan`, { plan: 'fleet' })).status).toBe(201);
  }, 120_000);
  afterAll(() => world.close());

  const lead = (method: string, path: string, body?: object, options: CallOptions = {}) =>
    world.call('bram', method, path, { ...options, ...(body ? { body } : {}) });
  /** A further version of the plan: nobody is on it yet. */
  const keep = async (): Promise<void> => {
    world.clock.at += 1_000;
    const { body } = await lead('PUT', '/plans/fleet', { name: 'Punt', most: NO_LIMITS });
    version = Number(body.version);
  };
  const move = (over: object = {}, key?: string) =>
    lead(
      'POST',
      '/plans/fleet/moves',
      { version, customers: CODES, count: CODES.length, reason: 'a test', ...over },
      key === undefined ? {} : { headers: { 'idempotency-key': key } },
    );
  const read = async (id: unknown, who: 'bram' | 'jonah' = 'bram'): Promise<ParentWithParts> =>
    (await world.call(who, 'GET', `/parent-runs/${String(id)}`)).body as unknown as ParentWithParts;
  const states = async (id: unknown) => (await read(id)).list.map(({ state }) => state);
  const once = () => world.living.job('parents');
  const on = async (code: string): Promise<unknown> =>
    (await lead('GET', `/customers/${code}/plan`)).body.version;

  it('is begun once by one key, however often it is sent', async () => {
    await keep();
    const [first, second] = await Promise.all([move({}, 'once'), move({}, 'once')]);
    expect([first.status, second.status]).toEqual([201, 201]);
    expect(first.body).toEqual(second.body);
    expect((await move({}, 'once')).body).toEqual(first.body);
    const listed = await lead('GET', '/parent-runs');
    expect([listed.status, listed.text]).toEqual([200, expect.any(String)]);
    const { entries } = listed.body as unknown as { entries: unknown[] };
    expect(entries).toHaveLength(1);
    expect((await move({ customers: ['APT'], count: 1 }, 'once')).status).toBe(422);
    await once();
    expect(await read(first.body.run)).toMatchObject({ state: 'done', done: 7, failed: 0, parts: 7 });
    for (const code of CODES) expect(await on(code)).toBe(version);
  });

  it('goes on after its worker died, at whichever part, and does no part twice', async () => {
    for (let at = 1; at <= 3; at++) {
      await keep();
      const { run } = (await move({ atATime: 2 })).body;
      let left = at;
      const dying: ParentWork = {
        ...parentWork(ROOMS),
        kinds: parentWork(ROOMS).kinds.map((kind) => ({
          ...kind,
          carryOut: async (...asked: Parameters<typeof kind.carryOut>) => {
            const made = await kind.carryOut(...asked);
            // It was done, and nobody was told: as when the process is killed here.
            if (--left <= 0) throw killed();
            return made;
          },
        })),
      };
      await expect(carryOnParents(world.app, dying, new AbortController().signal)).rejects.toThrow('killed');
      expect((await states(run)).includes('working')).toBe(true);
      await once();
      expect(await read(run)).toMatchObject({ state: 'done', done: 7 });
      for (const code of CODES) {
        const { stays } = (await lead('GET', `/customers/${code}/plan`)).body as unknown as {
          stays: readonly { plan: string; version: number }[];
        };
        expect(stays.filter((one) => one.plan === 'fleet' && one.version === version)).toHaveLength(1);
      }
    }
  });

  it('sends its pilots first, and stops where one fails; resumed, it tries that again and goes on', async () => {
    await keep();
    const { run } = (await move({ pilots: 1 })).body;
    await world.app.db.write(
      "UPDATE plan_version SET terms = JSON_SET(terms, '$.most.hosts', 0) WHERE plan_code = 'fleet' AND version = ?",
      [version],
    );
    const first = await read(run);
    await provisionFor(world, 'APT', 'press', 4, 'KQ');
    expect(first.list[0]?.customer).toBe('APT');
    await once();
    expect(await read(run)).toMatchObject({ state: 'stopped', cause: 'steps failed', done: 0, failed: 1 });
    await world.app.db.write(
      "UPDATE plan_version SET terms = JSON_SET(terms, '$.most.hosts', NULL) WHERE plan_code = 'fleet' AND version = ?",
      [version],
    );
    expect((await lead('POST', `/parent-runs/${String(run)}/resume`)).body.state).toBe('running');
    await once();
    expect(await read(run)).toMatchObject({ state: 'done', done: 7, failed: 0 });
  });

  it('is stopped: no other part begins; and waits between lots', async () => {
    await keep();
    const { run } = (await move({ atATime: 3, pauseMinutes: 10 })).body;
    await once();
    expect(await read(run)).toMatchObject({ state: 'running', done: 3 });
    const stopped = await lead('POST', `/parent-runs/${String(run)}/stop`);
    expect([stopped.body.state, stopped.body.cause]).toEqual(['stopped', 'by hand']);
    await world.living.moveTo(world.clock.at + 10 * 60_000);
    await once();
    expect((await read(run)).done).toBe(3);
    await lead('POST', `/parent-runs/${String(run)}/resume`);
    await once();
    expect((await read(run)).done).toBe(6);
    await world.living.untilQuiet();
    expect(await read(run)).toMatchObject({ state: 'done', done: 7 });
  });

  it('that has stopped needs a look on Watch, until it is resumed or ended for good', async () => {
    await keep();
    const { run } = (await move({ atATime: 3, pauseMinutes: 10 })).body;
    await once();
    const path = `/parent-runs/${String(run)}`;
    const lines = async (who: 'bram' | 'jonah'): Promise<string[]> =>
      ((await world.call(who, 'GET', '/watch')).body as unknown as Watch).looks
        .filter(({ href }) => href === `/runs/${String(run)}`)
        .map(({ says, customers }) => `${says}: ${customers.join(' ')}`);
    expect((await lead('POST', `${path}/end`)).status).toBe(409);
    expect(await lines('bram')).toEqual([]);
    await lead('POST', `${path}/stop`);
    const [line] = await lines('bram');
    expect(line).toMatch(/^Move .*: stopped, by hand: \w{3}( \w{3}){3}$/);
    // Who reaches two of its customers cannot resume it, and is told nothing that was said of it.
    expect(await lines('jonah')).toEqual([]);
    const marked = await world.call('jonah', 'PUT', '/watch/marks', {
      body: { key: `run ${String(run)}`, state: 'taken' },
    });
    expect(marked.status).toBe(404);
    const ended = (await lead('POST', `${path}/end`)).body;
    expect([ended.state, ended.cause, ended.done]).toEqual(['done', 'ended by hand', 3]);
    expect(ended.endedAt).not.toBeNull();
    expect(await lines('bram')).toEqual([]);
    await lead('POST', `${path}/resume`);
    await world.living.untilQuiet();
    expect(await read(run)).toMatchObject({ state: 'done', cause: 'ended by hand', done: 3 });
  });

  it('tells each only of the parts in reach, and is stopped by those alone who reach them all', async () => {
    await keep();
    const { run } = (await move({})).body;
    const seen = await read(run, 'jonah');
    expect([seen.parts, seen.list.map(({ customer }) => customer)]).toEqual([2, ['FPS', 'SVG']]);
    // Why it was begun may name a customer beyond their reach.
    expect([seen.whole, seen.reason]).toEqual([false, '']);
    expect(await read(run)).toMatchObject({ whole: true, reason: 'a test' });
    await world.app.db.write("UPDATE operator SET role = 'lead' WHERE mail = 'jonah@terntallow.example'");
    const stopping = await world.call('jonah', 'POST', `/parent-runs/${String(run)}/stop`);
    expect([stopping.status, stopping.body.type]).toEqual([403, 'urn:laager:problem:reach']);
    const { run: other } = (await move({ customers: ['HSB'], count: 1 })).body;
    for (const [method, path] of [
      ['GET', ''],
      ['POST', '/stop'],
      ['POST', '/end'],
    ] as const)
      expect((await world.call('jonah', method, `/parent-runs/${String(other)}${path}`)).status).toBe(404);
    await world.app.db.write("UPDATE operator SET role = 'engineer' WHERE mail = 'jonah@terntallow.example'");
    await world.living.untilQuiet();
  });

  /** The work, but that for one customer a part does something else first. */
  const workBut = (code: string, first: () => Promise<void>): ParentWork => ({
    ...parentWork(ROOMS),
    kinds: parentWork(ROOMS).kinds.map((kind) => ({
      ...kind,
      carryOut: async (...asked: Parameters<typeof kind.carryOut>) => {
        if (asked[1].customer.code === code) await first();
        return kind.carryOut(...asked);
      },
    })),
  });
  const carriedOn = (work: ParentWork) => carryOnParents(world.app, work, new AbortController().signal);

  it('holds up none of the others where the database does not answer it', async () => {
    await keep();
    const { run: broken } = (await move({ customers: ['APT'], count: 1 })).body;
    const { run: other } = (await move({ customers: ['HSB', 'WAP'], count: 2 })).body;
    await expect(carriedOn(workBut('APT', () => Promise.reject(killed())))).rejects.toThrow('killed');
    expect((await read(other)).state).toBe('done');
    expect(await read(broken)).toMatchObject({ state: 'running', list: [{ state: 'working' }] });
    await once();
    expect((await read(broken)).state).toBe('done');
  });

  it('shows a mistake of ours at the part that met it, tries it again, and ends as failed', async () => {
    await keep();
    const { run } = (await move({ customers: ['APT'], count: 1 })).body;
    const mistaken = workBut('APT', () => Promise.reject(new TypeError('a fault of ours')));
    await carriedOn(mistaken);
    expect((await read(run)).list).toMatchObject([{ state: 'waiting', says: 'broke: a fault of ours' }]);
    for (let n = 0; n < 60 && (await read(run)).state === 'running'; n++) {
      await world.living.moveTo(world.clock.at + 31_000);
      await carriedOn(mistaken);
    }
    expect(await read(run)).toMatchObject({ state: 'stopped', list: [{ state: 'failed' }] });
    await lead('POST', `/parent-runs/${String(run)}/resume`);
    await once();
    expect((await read(run)).state).toBe('done');
  });

  it('ends what was under way also where it was stopped after its worker died', async () => {
    await keep();
    const { run } = (await move({ customers: ['APT', 'HSB'], count: 2, atATime: 1 })).body;
    await expect(carriedOn(workBut('APT', () => Promise.reject(killed())))).rejects.toThrow('killed');
    expect((await lead('POST', `/parent-runs/${String(run)}/stop`)).body.state).toBe('stopping');
    await once();
    expect(await states(run)).toEqual(['done', 'waiting']);
    expect(await read(run)).toMatchObject({ state: 'stopped', cause: 'by hand' });
  });

  it('does a part once where two do it at the same moment, and says of it that it is done', async () => {
    await keep();
    const { run } = (await move({ customers: ['APT'], count: 1 })).body;
    let wake = (): void => undefined;
    const awake = new Promise<void>((resolve) => (wake = resolve));
    const asleep = carriedOn(workBut('APT', () => awake));
    await expect.poll(() => states(run)).toEqual(['working']);
    // Another worker takes over from one that does not answer any more; then that wakes up.
    await once();
    expect((await read(run)).state).toBe('done');
    wake();
    await asleep;
    expect(await read(run)).toMatchObject({ state: 'done', list: [{ state: 'done' }] });
    expect(await on('APT')).toBe(version);
  });

  it('is not begun for a day that is over, nor for a version that cannot be had yet', async () => {
    const over = await move({ from: world.clock.at - 86_400_000 });
    expect([over.status, over.body.fields]).toEqual([
      422,
      { from: 'is over: what was charged then stays charged' },
    ]);
    expect((await move({ version: 99 })).body.fields).toEqual({ version: 'is not known' });
  });

  it('does as whoever asked for it may do now: who lost the role or the reach does nothing more', async () => {
    await keep();
    const before = await on('SVG');
    const { run } = (await move({ customers: ['SVG'], count: 1 })).body;
    await world.app.db.write("UPDATE operator SET role = 'engineer' WHERE mail = 'bram@terntallow.example'");
    await once();
    await world.app.db.write("UPDATE operator SET role = 'lead' WHERE mail = 'bram@terntallow.example'");
    expect((await read(run)).list).toMatchObject([
      { state: 'failed', says: 'This requires the right “sell”.' },
    ]);
    expect(await on('SVG')).toBe(before);
    await lead('POST', `/parent-runs/${String(run)}/resume`);
    await once();
    expect(await on('SVG')).toBe(version);
  });
});

describe('a customer with several environments who leaves', { timeout: 180_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('parent-leave');
    for (const [name, site] of [
      ['clinic', 'KQ'],
      ['front', 'KQ'],
      ['north', 'NL'],
    ] as const)
      await provisionFor(world, 'SVG', name, 4, site);
    await world.living.untilQuiet();
  }, 180_000);
  afterAll(() => world.close());

  const leave = (key: string) =>
    world.call('bram', 'POST', '/customers/SVG/leave', {
      body: { code: 'SVG', reason: 'they leave' },
      headers: { 'idempotency-key': key },
    });
  const read = async (id: unknown) =>
    (await world.call('bram', 'GET', `/parent-runs/${String(id)}`)).body as unknown as ParentWithParts;

  it('is retired whole, asked twice with one key, its worker killed after each environment', async () => {
    const [one, two] = await Promise.all([leave('gone'), leave('gone')]);
    expect([one.status, two.body]).toEqual([201, one.body]);
    const { run } = one.body;
    expect((await read(run)).list.map(({ about }) => about).sort()).toEqual(['clinic', 'front', 'north']);
    const dying: ParentWork = {
      ...parentWork(ROOMS),
      kinds: parentWork(ROOMS).kinds.map((kind) => ({
        ...kind,
        carryOut: async (...asked: Parameters<typeof kind.carryOut>) => {
          await kind.carryOut(...asked);
          throw killed();
        },
      })),
    };
    for (let n = 0; n < 3; n++) {
      await expect(carryOnParents(world.app, dying, new AbortController().signal)).rejects.toThrow('killed');
      // Another worker goes on, until the run of this environment is at work; and that ends.
      await world.living.job('parents');
      const { list } = await read(run);
      expect(list.filter(({ run: child }) => child !== null)).toHaveLength(n + 1);
      for (const { id } of await world.app.db.rows<{ id: string }>(
        "SELECT id FROM run WHERE kind = 'retire' AND state = 'running'",
      ))
        await finished(id);
    }
    await world.living.untilQuiet();
    expect(await read(run)).toMatchObject({ state: 'done', done: 3, failed: 0 });
    const retired = await world.app.db.rows<{ n: number }>(
      "SELECT COUNT(*) AS n FROM run r JOIN customer c ON c.id = r.customer_id WHERE r.kind = 'retire' AND c.code = 'SVG'",
    );
    expect(retired).toEqual([{ n: 3 }]);
    await world.living.job('leaving');
    const life = (await world.call('bram', 'GET', '/customers/SVG/life')).body;
    expect([life.state, life.leaving]).toEqual(['retired', { run, state: 'done', done: 3, parts: 3 }]);
    for (const provider of ['coast', 'northern'] as const)
      // Only what people kept is left, as their plan promises.
      expect(
        (await world.port(provider).resources({ customer: 'SVG' })).filter(({ kind }) => kind !== 'share'),
      ).toEqual([]);
  });

  /** Lets the provider's time pass until one run is done; the parent run is not carried on meanwhile. */
  async function finished(id: string): Promise<void> {
    for (let n = 0; n < 400; n++) {
      while (await advance(world.app));
      const [row] = await world.app.db.rows<{ state: string }>('SELECT state FROM run WHERE id = ?', [id]);
      if (row?.state !== 'running') return;
      await world.living.job('feed');
      await world.living.moveTo(world.clock.at + 20_000);
    }
    throw new Error('the run did not end');
  }
});
