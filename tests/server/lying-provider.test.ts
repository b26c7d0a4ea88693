import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { CHANGES } from '../../src/core/changes';
import type { App } from '../../src/server/app';
import { proposeChange } from '../../src/server/changes';
import { inTime } from '../../src/server/outside';
import { readFeed } from '../../src/server/present';
import { noteOddity, type Connected, type PresentResource, type Provider } from '../../src/server/providers';
import { JOBS, ROOMS } from '../../src/server/rooms';
import { advance } from '../../src/server/worker/advance';
import { begin, openWorld, provisionFor, type Made, type World } from './setup/world';

/** Providers that for a while say what is not so. */
describe('a provider that is wrong', { timeout: 120_000 }, () => {
  let world: World;
  let svg: Made;
  beforeAll(async () => {
    world = await openWorld('lying');
    svg = await provisionFor(world, 'SVG', 'clinic', 12, 'KQ');
  });
  afterAll(() => world.close());

  /** The same server, whose providers answer otherwise. */
  const withPort = (change: (port: Provider) => Partial<Provider>): App => {
    const over = (one: Connected): Connected => ({ ...one, port: { ...one.port, ...change(one.port) } });
    const { providers } = world.app;
    return {
      ...world.app,
      providers: {
        all: async () => (await providers.all()).map(over),
        named: async (code) => over(await providers.named(code)),
        at: async (site) => over(await providers.at(site)),
      },
    };
  };
  const feedOf = async (app: App): Promise<void> => {
    const job = JOBS.find(({ name }) => name === 'feed');
    const lease = { name: 'feed', place: '', fence: 0 };
    await job?.run(app, { lease, stop: new AbortController().signal, rooms: ROOMS });
  };
  const held = async (): Promise<number> =>
    (
      await world.app.db.row<{ n: number }>(
        "SELECT COUNT(*) AS n FROM allocation a JOIN customer c ON c.id = a.customer_id WHERE c.code = 'SVG'",
      )
    )?.n ?? 0;
  const there = async (): Promise<number> =>
    (await world.port().resources({ customer: 'SVG' })).filter(({ kind }) => kind === 'host').length;
  const oddities = async (kind: string): Promise<string[]> =>
    (
      await world.app.db.rows<{ after: string }>(
        'SELECT after_text AS `after` FROM ground_change WHERE kind = ? AND noted_by IS NULL',
        [kind],
      )
    ).map(({ after }) => after);

  it('for a moment knowing nothing, is not believed while something is retired', async () => {
    const { environment } = await provisionFor(world, 'SVG', 'annexe', 8, 'KQ');
    const [before, hosts] = [await held(), await there()];
    const { run } = await begin(world, 'SVG', 'retire', {}, { environment });
    const silent = withPort(() => ({
      resource: async () => undefined,
      resources: async () => [],
    }));
    // As long as it says so nothing is given back, however often it is asked.
    for (let n = 0; n < 30; n++) {
      await advance(silent);
      world.clock.at += 2_000;
    }
    expect([await held(), await there()]).toEqual([before, hosts]);
    // Once it knows again, all of it goes, and then everything is given back.
    await world.living.untilQuiet();
    const { body } = await world.call('ida', 'GET', `/customers/SVG/runs/${run}`);
    expect(body.state).toBe('done');
    expect(await held()).toBeLessThan(before);
    expect((await world.port().resources({ customer: 'SVG', environment })).length).toBe(0);
    const proof = await world.call('ida', 'GET', `/customers/SVG/environments/${environment}/proof`);
    expect(proof.body.clean).toBe(true);
  });

  const stateOf = async (ref: string): Promise<string | undefined> =>
    (
      await world.app.db.row<{ state: string }>(
        'SELECT CONCAT(present_condition, " ", power) AS state FROM present_resource WHERE ref = ?',
        [ref],
      )
    )?.state;
  const hostsOf = async (): Promise<PresentResource[]> =>
    (await world.port().resources({ customer: 'SVG', environment: svg.environment })).filter(
      ({ kind }) => kind === 'host',
    );

  it('whose record starts again, is read anew, and a person is told', async () => {
    await world.living.job('feed');
    const [first, second] = await hostsOf();
    if (!first || !second) throw new Error('there are no hosts');
    // It forgot its record, and meanwhile one host went off and another is gone.
    await world.app.db.write("UPDATE provider SET feed_place = '999999999' WHERE code = 'coast'");
    const changed = withPort((port) => ({
      everything: async () =>
        (await port.everything()).flatMap((one) =>
          one.ref === second.ref ? [] : [one.ref === first.ref ? { ...one, state: 'off' } : one],
        ),
      resource: async (ref) => (ref === second.ref ? undefined : port.resource(ref)),
    }));
    await feedOf(changed);
    expect([await stateOf(first.ref), await stateOf(second.ref)]).toEqual([
      'well off',
      expect.stringMatching(/^gone/),
    ]);
    const open = await world.app.db.rows<{ ref: string; state: string }>(
      "SELECT ref, state FROM meter_interval WHERE to_at IS NULL AND meter = 'host' AND ref IN (?, ?)",
      [first.ref, second.ref],
    );
    expect(open).toEqual([{ ref: first.ref, state: 'off' }]);
    const place = await world.app.db.row<{ place: string }>(
      "SELECT feed_place AS place FROM provider WHERE code = 'coast'",
    );
    expect(Number(place?.place)).toBeLessThan(999_999_999);
    expect(await oddities('record restarted')).toEqual([expect.stringContaining('1 gone')]);
    const watch = await world.call('bram', 'GET', '/watch');
    expect(watch.text).toContain('record restarted');
    // From there on its record is read as ever.
    await feedOf(world.app);
  });

  it('whose record starts again with hardly anything in it, is not believed until somebody noted it', async () => {
    await world.app.db.write('DELETE FROM ground_change');
    await world.app.db.write("UPDATE provider SET feed_place = '999999999' WHERE code = 'coast'");
    const standing = async (): Promise<number> =>
      (
        await world.app.db.row<{ n: number }>(
          "SELECT COUNT(*) AS n FROM present_resource WHERE provider_code = 'coast' AND present_condition <> 'gone'",
        )
      )?.n ?? 0;
    const before = await standing();
    expect(before).toBeGreaterThan(5);
    const empty = withPort(() => ({ everything: async () => [], resource: async () => undefined }));
    for (let n = 0; n < 3; n++) await feedOf(empty);
    expect(await standing()).toBe(before);
    expect(await oddities('record restarted')).toHaveLength(1);
    // It comes to itself: then it is as it was.
    await feedOf(world.app);
    expect(await standing()).toBeGreaterThanOrEqual(before);
  });

  it('about one entry, is believed about all others, and that is told', async () => {
    const [one, other] = await hostsOf();
    if (!one || !other) throw new Error('there are no hosts');
    await world.app.db.write('DELETE FROM ground_change');
    const at = world.clock.at;
    const odd = [
      { ...one, name: 'ü'.repeat(120), kind: 'höst' },
      { ...other, tags: { ...other.tags, environment: 'Prüfung', resource: '💥', customer: 'svĝ' } },
      { ...one, attributes: { ...one.attributes, power: 'off' }, state: 'off' },
    ];
    const { db } = world.app;
    await readFeed(world.app, db, 'coast', {
      entries: odd.map((present, seq) => ({ seq, at, present })),
      more: false,
    });
    expect(await stateOf(one.ref)).toBe('well off');
    // What stands stays whose it was, whatever its tags say now.
    const owner = await db.row<{ code: string }>(
      'SELECT c.code FROM present_resource p JOIN customer c ON c.id = p.customer_id WHERE p.ref = ?',
      [other.ref],
    );
    expect(owner?.code).toBe('SVG');
  });

  it('about whole lists, with names that cannot be, is passed over and named', async () => {
    await world.app.db.write('DELETE FROM ground_change');
    expect(await noteOddity(world.app, 'coast', 'entries ignored', '3 of /v1/feed: "id" is too long')).toBe(
      false,
    );
    expect(await noteOddity(world.app, 'coast', 'entries ignored', '4 of /v1/feed: "id" is too long')).toBe(
      false,
    );
    expect(await oddities('entries ignored')).toEqual(['4 of /v1/feed: "id" is too long']);
  });

  it('again in the very same way, is not believed because somebody noted it once', async () => {
    const { db } = world.app;
    await db.write('DELETE FROM ground_change');
    const standing = async (): Promise<number> =>
      (
        await db.row<{ n: number }>(
          "SELECT COUNT(*) AS n FROM present_resource WHERE provider_code = 'coast' AND present_condition <> 'gone'",
        )
      )?.n ?? 0;
    const restart = () => db.write("UPDATE provider SET feed_place = '999999999' WHERE code = 'coast'");
    const empty = withPort(() => ({ everything: async () => [], resource: async () => undefined }));
    // All of it as it really is, so that the numbers are the same both times.
    await restart();
    await feedOf(world.app);
    const before = await standing();
    await restart();
    await feedOf(empty);
    expect(await standing()).toBe(before);
    await db.write("UPDATE ground_change SET noted_by = 'bram' WHERE kind = 'record restarted'");
    await feedOf(empty);
    expect(await standing()).toBe(0);
    await restart();
    await feedOf(world.app);
    expect(await standing()).toBe(before);
    await restart();
    await feedOf(empty);
    expect(await standing()).toBe(before);
  });

  it('or silent, with a silent directory, delays a proposal by no more than 8 s', async () => {
    const never = (): Promise<never> => new Promise(() => undefined);
    const silent = withPort(() => ({ probe: never, signIn: never }));
    const app = { ...silent, directory: { ...silent.directory, check: never } };
    const addHosts = CHANGES.find(({ kind }) => kind === 'add-hosts');
    if (!addHosts) throw new Error('hosts cannot be added');
    const { proposal } = await proposeChange(app, await world.inside('SVG'), addHosts, {
      input: { pool: 'desks', hosts: 1 },
      environment: svg.environment,
    });
    expect(proposal.checks.find(({ key }) => key === 'directory')).toMatchObject({
      state: 'blocks',
      says: expect.stringContaining('gave no answer within 8 s') as string,
    });
  });

  it('may fail after nobody waits for it any more', async () => {
    let fail = (_why: Error): void => undefined;
    const failing = new Promise<string>((_resolve, reject) => (fail = reject));
    expect(await inTime(failing, 0, 'late')).toBe('late');
    fail(new Error('too late'));
    await new Promise((resolve) => setImmediate(resolve));
    expect(await inTime(Promise.resolve('in time'), 1_000, 'late')).toBe('in time');
  });
});
