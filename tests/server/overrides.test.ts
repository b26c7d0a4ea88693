import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Host } from '../../src/contract';
import { systemScope } from '../../src/server/access';
import { beginChange, proposeChange } from '../../src/server/changes';
import { overridesOf } from '../../src/server/overrides';
import { spied } from './setup/spied';
import { begin, change, changePath, openWorld, provisionFor, type World } from './setup/world';

const MINUTE = 60_000;
/** As many statements as a switch may take, beside the begin and the end of its transaction. */
const MOST_STATEMENTS = 12;

describe('what is set of hosts by hand', { timeout: 120_000 }, () => {
  let world: World;
  let environment = '';
  let other = '';
  beforeAll(async () => {
    world = await openWorld('overrides');
    ({ environment } = await provisionFor(world, 'SVG', 'clinic', 12, 'KQ'));
    ({ environment: other } = await provisionFor(world, 'FPS', 'studio', 6, 'KQ'));
  }, 120_000);
  afterAll(() => world.close());

  const settle = async (): Promise<void> => {
    await world.living.job('overrides');
    await world.living.untilQuiet();
    for (const job of ['feed', 'sessions'] as const) await world.living.job(job);
  };
  const hosts = async (code = 'SVG', of = environment): Promise<readonly Host[]> =>
    (await world.call('ida', 'GET', `/customers/${code}/environments/${of}/hosts`)).body.entries as Host[];
  const first = async (): Promise<Host> => {
    const [one] = await hosts();
    if (!one) throw new Error('there is no host');
    return one;
  };
  const rows = (): Promise<{ n: number }[]> => world.app.db.rows('SELECT COUNT(*) AS n FROM host_override');
  const version = async (): Promise<unknown> =>
    (
      await world.app.db.row<{ version: number }>('SELECT version FROM environment WHERE id = ?', [
        environment,
      ])
    )?.version;

  it('is cheap: few statements, nothing outside is asked, no site is locked, no version of the intent is made', async () => {
    const { id } = await first();
    await begin(world, 'SVG', 'power-off', { hosts: [id] }, { environment });
    await settle();
    const before = await version();
    const scope = systemScope((await world.inside('SVG')).customer);
    const powerOn = world.app.catalogue.changes.find(({ kind }) => kind === 'power-on');
    if (!powerOn) throw new Error('there is no such change');
    const asked = { input: { hosts: [id] }, environment };
    const { fingerprint } = await proposeChange(world.app, scope, powerOn, asked);
    const { said, outside } = await spied(world, () =>
      beginChange(world.app, scope, powerOn, { ...asked, fingerprint, reason: 'cheap' }),
    );
    expect(outside).toBe(0);
    expect(said.length).toBeGreaterThan(4);
    expect(said.length, said.join('\n')).toBeLessThanOrEqual(MOST_STATEMENTS);
    expect(said.filter((one) => /UPDATE site|FROM site/.test(one))).toEqual([]);
    expect(await version()).toBe(before);
    await settle();
    expect((await first()).status).toBe('serving');
    expect(await rows()).toEqual([{ n: 0 }]);
  });

  it('ends when it was said to, by itself, and is shown until then with who and why', async () => {
    const { id } = await first();
    const until = world.clock.at + 30 * MINUTE;
    await begin(world, 'SVG', 'power-off', { hosts: [id], until }, { environment });
    await settle();
    expect(await first()).toMatchObject({
      status: 'off',
      overrides: [{ cause: 'by hand', wants: 'off', by: 'Ida Quist', why: 'a test', until }],
    });
    await world.living.moveTo(until - 1);
    await settle();
    expect((await first()).status).toBe('off');
    await world.living.moveTo(until);
    await settle();
    expect(await first()).toMatchObject({ status: 'serving', overrides: [] });
    expect(await rows()).toEqual([{ n: 0 }]);
    const { entries } = (await world.call('ida', 'GET', '/customers/SVG/runs')).body;
    expect((entries as readonly { kind: string; actor: string }[])[0]).toMatchObject({
      kind: 'follow-overrides',
      actor: 'Laager',
    });
  });

  it('is undone from its run by the opposite, and never by retiring', async () => {
    const { id } = await first();
    const { run } = await begin(world, 'SVG', 'drain', { hosts: [id] }, { environment });
    await settle();
    const read = async (of: string) => (await world.call('ida', 'GET', `/customers/SVG/runs/${of}`)).body;
    const { undoTo, undoneBy, madeIt } = await read(run);
    expect([undoTo, undoneBy, madeIt]).toEqual([null, { kind: 'put-back', hosts: [id] }, false]);
    await begin(world, 'SVG', 'put-back', { hosts: [id] }, { environment });
    await settle();
    expect((await first()).status).toBe('serving');
    const { entries } = (await world.call('ida', 'GET', '/customers/SVG/runs')).body;
    const making = (entries as readonly { id: string; kind: string }[]).find(
      ({ kind }) => kind === 'provision',
    );
    expect(await read(making?.id ?? '')).toMatchObject({ madeIt: true, undoneBy: null, undoTo: null });
  });

  it('is of one host and one attribute: ending a drain leaves another’s, and its own power', async () => {
    const [one, two] = await hosts();
    const both = [one?.id, two?.id];
    await begin(world, 'SVG', 'drain', { hosts: both }, { environment });
    await begin(world, 'SVG', 'power-off', { hosts: [one?.id] }, { environment });
    await begin(world, 'SVG', 'put-back', { hosts: [two?.id] }, { environment });
    await settle();
    const [is, other] = await hosts();
    expect(is?.overrides.map(({ attribute }) => attribute).sort()).toEqual(['accepting', 'power']);
    expect(other).toMatchObject({ status: 'serving', overrides: [] });
    await begin(world, 'SVG', 'end-maintenance', { hosts: [one?.id] }, { environment });
    await settle();
    expect((await first()).overrides).toEqual([]);
    expect((await first()).status).toBe('serving');
  });

  it('survives another size of its pool, and the undoing of that', async () => {
    const before = await first();
    const { id } = before;
    await begin(world, 'SVG', 'maintain-hosts', { hosts: [id] }, { environment });
    await settle();
    const made = await begin(
      world,
      'SVG',
      'resize',
      { pool: 'desks', size: 's4x16' },
      { environment, policy: { drainMinutes: 0 } },
    );
    await settle();
    expect(await first()).toMatchObject({ status: 'off', size: 's4x16' });
    const { body } = await world.call('ida', 'GET', `/customers/SVG/runs/${made.run}`);
    await begin(world, 'SVG', 'undo', { version: body.undoTo }, { environment, policy: { drainMinutes: 0 } });
    await settle();
    expect(await first()).toMatchObject({ status: 'off', size: before.size });
    expect((await first()).overrides).toHaveLength(2);
    await begin(world, 'SVG', 'end-maintenance', { hosts: [id] }, { environment });
    await settle();
  });

  it('goes with its host: who comes to its place is not off', async () => {
    const all = await hosts();
    const last = all.at(-1);
    await begin(world, 'SVG', 'power-off', { hosts: [last?.id] }, { environment });
    await settle();
    await begin(world, 'SVG', 'take-hosts', { pool: 'desks', ids: [last?.id] }, { environment });
    await settle();
    expect(await rows()).toEqual([{ n: 0 }]);
    await begin(world, 'SVG', 'add-hosts', { pool: 'desks', hosts: 1 }, { environment });
    await settle();
    expect((await hosts()).map(({ status }) => status)).toEqual(all.map(() => 'serving'));
  });

  it('of one in maintenance is there again, its picture too, when it was lost and made anew', async () => {
    const { id, name } = await first();
    await begin(world, 'SVG', 'maintain-hosts', { hosts: [id], picture: true }, { environment });
    await settle();
    const there = (await world.port().resources({ customer: 'SVG' })).find((one) => one.name === name);
    await world.port().remove(there?.ref ?? '', there?.version ?? 0, 'lost in maintenance');
    await world.living.moveTo(world.clock.at + 10 * MINUTE);
    await settle();
    const path = `/customers/SVG/environments/${environment}/differences`;
    const differing = async (): Promise<{ key: string; what: string }[]> =>
      (await world.call('ida', 'GET', path)).body.differences as never;
    const [lost] = await differing();
    expect(lost?.what).toBe('missing');
    await begin(
      world,
      'SVG',
      'mend',
      { differences: [{ key: lost?.key, how: 'as wanted' }] },
      { environment },
    );
    await settle();
    expect(await differing()).toEqual([]);
    await begin(world, 'SVG', 'end-maintenance', { hosts: [id] }, { environment });
    await settle();
    expect([await differing(), (await first()).status]).toEqual([[], 'serving']);
  });

  it('of two who switch a host at the same moment is the last one’s, and nothing is doubled', async () => {
    const { id } = await first();
    const path = changePath('SVG', 'power-off', environment);
    const input = { hosts: [id] };
    const { body } = await world.call('ida', 'POST', `${path}/proposal`, { body: { input } });
    const send = (who: 'ida' | 'bram') =>
      world.call(who, 'POST', path, { body: { input, fingerprint: body.fingerprint, reason: '' } });
    const said = await Promise.all([send('ida'), send('bram')]);
    expect(said.map(({ status }) => status).sort()).toEqual([201, 422]);
    expect(await rows()).toEqual([{ n: 1 }]);
    await begin(world, 'SVG', 'power-on', { hosts: [id] }, { environment });
    await settle();
    expect((await first()).status).toBe('serving');
  });

  it('is one customer’s: no other’s host is switched or shown by it', async () => {
    const [foreign] = await hosts('FPS', other);
    const refused = await change(world, 'SVG', 'power-off', { hosts: [foreign?.id] }, { environment });
    expect([refused.status, JSON.stringify(refused.body)]).toEqual([
      422,
      expect.stringContaining('one of them is not a host of this environment'),
    ]);
    expect(
      (await change(world, 'SVG', 'power-off', { hosts: [foreign?.id] }, { environment: other })).status,
    ).toBe(404);
    const { id } = await first();
    await begin(world, 'SVG', 'power-off', { hosts: [id] }, { environment });
    await settle();
    expect((await hosts('FPS', other)).every(({ overrides }) => overrides.length === 0)).toBe(true);
    await begin(world, 'SVG', 'power-on', { hosts: [id] }, { environment });
    await settle();
  });

  it.each([
    ['over', { until: 1 }],
    ['no number', { until: 'soon' }],
    ['beyond a year', { until: Date.UTC(2100, 0, 1) }],
  ])('has no end that is %s', async (_what, more) => {
    const { id } = await first();
    const refused = await change(world, 'SVG', 'drain', { hosts: [id], ...more }, { environment });
    expect([refused.status, JSON.stringify(refused.body)]).toEqual([422, expect.stringContaining('until')]);
    expect(await rows()).toEqual([{ n: 0 }]);
  });

  it('switches the host that it names alone, also right after the customer was paused: the pause goes its own way', async () => {
    const [one, two] = await hosts();
    await world.call('ida', 'POST', '/customers/SVG/pause', {
      body: { code: 'SVG', minutes: 5, message: 'We pause.' },
    });
    // Nothing has followed yet, and somebody else switches a host.
    const { run } = await begin(world, 'SVG', 'power-off', { hosts: [two?.id] }, { environment }).catch(
      // Off already by the pause, there is nothing to set.
      async () => begin(world, 'SVG', 'drain', { hosts: [two?.id] }, { environment }),
    );
    const touched = await world.app.db.rows<{ id: string }>(
      'SELECT DISTINCT resource_id AS id FROM step WHERE run_id = ?',
      [run],
    );
    expect(touched).toEqual([{ id: two?.id }]);
    await settle();
    const now = await hosts();
    expect(now.map(({ status }) => status)).toEqual(now.map(() => 'off'));
    const policy = await world.app.db.row<{ policy: string }>(
      "SELECT policy FROM run WHERE kind = 'follow-overrides' AND environment_id = ? ORDER BY id DESC LIMIT 1",
      [environment],
    );
    expect(JSON.parse(policy?.policy ?? '{}')).toMatchObject({ drain: { minutes: 5, message: 'We pause.' } });
    await world.call('ida', 'POST', '/customers/SVG/start', { body: {} });
    await begin(world, 'SVG', 'end-maintenance', { hosts: [two?.id] }, { environment });
    await settle();
    expect((await hosts()).find(({ id }) => id === one?.id)?.status).toBe('serving');
    expect(await rows()).toEqual([{ n: 0 }]);
  });

  it('of an environment that cannot be read keeps no other waiting', async () => {
    const until = world.clock.at + 5 * MINUTE;
    const [foreign] = await hosts('FPS', other);
    const { id } = await first();
    // The one that cannot be read is due first.
    await begin(world, 'FPS', 'drain', { hosts: [foreign?.id], until: until - 1 }, { environment: other });
    await begin(world, 'SVG', 'drain', { hosts: [id], until }, { environment });
    await settle();
    const spoilt = (text: string): Promise<unknown> =>
      world.app.db.write('UPDATE intent SET document = REPLACE(document, ?, ?) WHERE environment_id = ?', [
        text === 'x' ? '"pools"' : '"x"',
        text === 'x' ? '"x"' : '"pools"',
        other,
      ]);
    await spoilt('x');
    await world.living.moveTo(until);
    await settle();
    expect((await first()).status).toBe('serving');
    await spoilt('pools');
    // It is looked at again, and then it follows too.
    await world.living.moveTo(until + MINUTE);
    await settle();
    expect((await hosts('FPS', other)).map(({ status }) => status)).not.toContain('draining');
    expect(await rows()).toEqual([{ n: 0 }]);
  });

  it('is read whole, however much of it there is', async () => {
    const { id } = await first();
    // Fifteen thousand rows of an environment, more than a megabyte.
    await world.app.db.write(
      `INSERT INTO resource (customer_id, id, environment_id, holder, site_code, kind, resource_key, name, attributes, needs, wanted, created_at)
       SELECT r.customer_id, CONCAT('x', LPAD(s.seq, 25, '0')), r.environment_id, r.holder, r.site_code, 'gone', CONCAT('gone:', s.seq), '', '{}', '[]',
         FALSE, 0 FROM resource r JOIN seq_1_to_15000 s WHERE r.id = ?`,
      [id],
    );
    await world.app.db.write(
      `INSERT INTO host_override (customer_id, subject, cause, attribute, value, resource_id, why, made_by, since_at)
       SELECT customer_id, id, 'by hand', 'power', 'off', id, REPEAT('x', 100), '', 0 FROM resource WHERE kind = 'gone'`,
    );
    const scope = await world.inside('SVG');
    expect(await overridesOf(world.app.db, scope, environment)).toHaveLength(15_000);
    await world.app.db.write('DELETE FROM host_override');
    await world.app.db.write("DELETE FROM resource WHERE kind = 'gone'");
  });

  it('takes another’s approval where the rule names the change', async () => {
    const rule = { above: [], kinds: ['power-off'], leadsToo: false };
    const kept = await world.callFromBrowser('bram', 'PUT', '/approval-rule', {
      body: rule,
      headers: { 'if-match': '*' },
    });
    expect(kept.status).toBeLessThan(300);
    const { id } = await first();
    const refused = await change(world, 'SVG', 'power-off', { hosts: [id] }, { environment });
    expect(refused.status).toBe(409);
    const paused = await world.call('ida', 'POST', '/customers/SVG/pause', { body: { code: 'SVG' } });
    expect([paused.status, paused.body.detail]).toEqual([422, expect.stringContaining('ask for it')]);
    expect(await rows()).toEqual([{ n: 0 }]);
    await world.callFromBrowser('bram', 'PUT', '/approval-rule', {
      body: { above: [], kinds: [], leadsToo: false },
      headers: { 'if-match': '*' },
    });
  });
});
