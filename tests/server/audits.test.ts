import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import {
  begunOtherwise,
  lossesOf,
  lostData,
  notFollowing,
  notOnce,
  reasonFor,
  unproven,
  wronglyMetered,
  type Audited,
} from '../chaos/audit';
import { begin, openWorld, provisionFor, type Made, type World } from './setup/world';

/** What `./laager chaos` looks at in the end sees each thing that may have gone wrong. */
describe('the audits', { timeout: 120_000 }, () => {
  let world: World;
  let of: Audited;
  let svg: Made;
  let gone: Made;

  beforeAll(async () => {
    world = await openWorld('audits');
    of = { app: world.app, provider: () => world.port(), inside: (code) => world.inside(code) };
    svg = await provisionFor(world, 'SVG', 'clinic', 8, 'KQ');
    gone = await provisionFor(world, 'MHP', 'office', 8, 'KQ');
    await begin(world, 'MHP', 'retire', {}, { environment: gone.environment });
    await world.living.untilQuiet();
  });
  afterAll(() => world.close());
  beforeEach(() => world.living.job('feed'));

  /** What was begun at the provider has ended, and we have read of it. */
  const atTheProvider = async (): Promise<void> => {
    await world.living.moveTo(world.clock.at + 30 * 60_000);
    await world.living.job('feed');
  };
  const hosts = async () =>
    (await world.port().resources({ customer: 'SVG', environment: svg.environment })).filter(
      ({ kind }) => kind === 'host',
    );

  it('find nothing where all is well', async () => {
    expect(await notOnce(of, 'SVG')).toEqual([]);
    expect(await lossesOf(of, new Set())).toEqual({ losses: [], faults: [] });
    expect(await wronglyMetered(of)).toEqual([]);
    expect(await lostData(of, new Set())).toEqual([]);
    expect(await unproven(of)).toEqual([]);
    expect(await begunOtherwise(of, new Map())).toEqual([]);
    expect(await notFollowing(of)).toEqual([]);
  });

  it('find a host that does not follow what overrides it, and one that does so without a reason', async () => {
    const [host] = await hosts();
    const switchTo = (power: string): Promise<unknown> =>
      world.app.db.write(
        "UPDATE resource SET attributes = JSON_SET(attributes, '$.power', ?) WHERE ref = ? AND kind = 'host'",
        [power, host?.ref ?? ''],
      );
    await switchTo('off');
    expect(await notFollowing(of)).toEqual([`SVG: ${host?.name ?? ''} does not follow what overrides it`]);
    await switchTo('on');
    await world.app.db.write(
      `INSERT INTO host_override (customer_id, subject, cause, attribute, value, resource_id, why, made_by, since_at)
       SELECT customer_id, id, 'by hand', 'power', 'off', id, '', '', 0 FROM resource WHERE ref = ?`,
      [host?.ref ?? ''],
    );
    expect(await notFollowing(of)).toHaveLength(1);
    await world.app.db.write('DELETE FROM host_override');
    expect(await notFollowing(of)).toEqual([]);
  });

  it('find a host that was made twice, and mending does not hide it', async () => {
    const [host] = await hosts();
    if (!host) throw new Error('there is no host');
    const before = (await hosts()).length;
    const { kind, site, name, attributes, tags } = host;
    const { resource } = await world.port().make({ kind, site, name, attributes, tags }, 'a second time');
    await atTheProvider();
    const twin = (await hosts()).filter((one) => one.name === name).find(({ ref }) => ref !== host.ref);
    expect([resource, twin?.ref === undefined]).toEqual([twin?.ref, false]);
    const seen = await notOnce(of, 'SVG');
    expect(seen).toContain(`host ${name} (${twin?.ref ?? ''}) is there and not wanted`);
    expect(seen).toContain(`host ${name} (${host.ref}) is there more than once`);
    // Even where it is said to have been taken away: only what is missing is made again.
    const { losses, faults } = await lossesOf(of, new Set([name]));
    expect(losses).toEqual([]);
    expect(faults.length).toBeGreaterThan(0);
    const now = (await hosts()).find(({ ref }) => ref === twin?.ref);
    if (now) await world.port().remove(now.ref, now.version, 'the second one');
    await atTheProvider();
    expect(await hosts()).toHaveLength(before);
  });

  it('have made again what was taken away past us, and nothing else', async () => {
    const [host] = await hosts();
    if (!host) throw new Error('there is no host');
    await world.port().remove(host.ref, host.version, 'taken away');
    await atTheProvider();
    expect((await lossesOf(of, new Set())).faults).toHaveLength(1);
    const { losses, faults } = await lossesOf(of, new Set([host.name]));
    expect([losses.length, losses[0]?.differences.length, faults]).toEqual([1, 1, []]);
    expect((await notOnce(of, 'SVG')).join()).toContain(`host ${host.name} is wanted and not there`);
    await begin(world, 'SVG', 'mend', { differences: losses[0]?.differences }, svg);
    await world.living.untilQuiet();
    expect(await notOnce(of, 'SVG')).toEqual([]);
  });

  it('find a request for which two runs were begun, and a run that was answered and is not there', async () => {
    const { db } = world.app;
    await db.write('UPDATE run SET reason = ? WHERE id = ?', [reasonFor('k1'), svg.run]);
    expect(await begunOtherwise(of, new Map([['k1', svg.run]]))).toEqual([]);
    expect(await begunOtherwise(of, new Map([['k1', gone.run]]))).toHaveLength(1);
    await db.write('UPDATE run SET reason = ? WHERE id = ?', [reasonFor('k1'), gone.run]);
    expect(await begunOtherwise(of, new Map([['k1', svg.run]]))).toEqual(['chaos k1: 2 runs were begun']);
  });

  it('find what is metered too little and too much', async () => {
    const { db } = world.app;
    const [host] = await hosts();
    const on = "meter = 'host' AND state = 'on' AND ref = ?";
    const row = await db.row<{ from: number }>(`SELECT from_at AS \`from\` FROM meter_interval WHERE ${on}`, [
      host?.ref ?? '',
    ]);
    const set = (from: number): Promise<number> =>
      db.write(`UPDATE meter_interval SET from_at = ? WHERE ${on}`, [from, host?.ref ?? '']);
    for (const shift of [1_000, -1_000]) {
      await set((row?.from ?? 0) + shift);
      expect([shift, (await wronglyMetered(of)).length]).toEqual([shift, 1]);
    }
    await set(row?.from ?? 0);
    expect(await wronglyMetered(of)).toEqual([]);
    const grow = (by: number): Promise<number> =>
      db.write("UPDATE meter_interval SET quantity = quantity + ? WHERE meter = 'disk' AND ref = ?", [
        by,
        host?.ref ?? '',
      ]);
    await grow(1);
    expect(await wronglyMetered(of)).toHaveLength(1);
    await grow(-1);
    expect(await wronglyMetered(of)).toEqual([]);
  });

  it('find data that nobody asked to be destroyed', async () => {
    const share = (await world.port().resources({ customer: 'MHP' })).find(({ kind }) => kind === 'share');
    if (!share) throw new Error('nothing was kept');
    await world.port().remove(share.ref, share.version, 'swept by mistake');
    await atTheProvider();
    expect(await lostData(of, new Set())).toEqual([
      `MHP: share ${share.name} (${share.ref}) is gone, and nobody asked for that`,
    ]);
    expect(await lostData(of, new Set([share.name]))).toEqual([]);
  });

  it('find what is said to be retired and is there', async () => {
    const [host] = await hosts();
    if (!host) throw new Error('there is no host');
    const { kind, site, attributes, tags } = host;
    await world.port().make(
      {
        kind,
        site,
        name: 'MHP-LEFT01',
        attributes,
        tags: { ...tags, customer: 'MHP', environment: gone.environment },
      },
      'left behind',
    );
    await atTheProvider();
    expect((await unproven(of)).join()).toMatch(/MHP: host MHP-LEFT01 is still there,MHP: no proof of/);
  });
});
