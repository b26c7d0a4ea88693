import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import type { Host, HostDetail, Look, Session } from '../../src/contract';
import { control } from '../../src/demo/living';
import { tellOutside } from '../../src/server/notices';
import { OutsideError } from '../../src/server/outside';
import { readSigns } from '../../src/server/signs';
import { begin, change, openWorld, provisionFor, type World } from './setup/world';

/** FPS and MHP are at work on a Thursday morning; Jonah reaches FPS alone. */
describe('what hosts show before anyone calls', { timeout: 120_000 }, () => {
  let world: World;
  const environments: Record<string, string> = {};
  beforeAll(async () => {
    world = await openWorld('signs');
    for (const code of ['FPS', 'MHP'])
      ({ environment: environments[code] } = await provisionFor(world, code, 'office', 24, 'KQ'));
    await world.living.moveTo(Date.UTC(2026, 10, 19, 10, 0));
    await world.living.job('ground');
  });
  beforeEach(async () => {
    // Whoever was signed out in the test before has been out for a while.
    await later(120_000);
    for (const code of ['FPS', 'MHP']) for (const host of await hosts(code)) await ail(host, {});
    await control(world.simulationUrl, 'PUT', '/control/faults', { faults: [] });
    await read();
  });
  afterAll(() => world.close());

  const hosts = async (code: string): Promise<Host[]> =>
    (await world.call('ida', 'GET', `/customers/${code}/environments/${environments[code] ?? ''}/hosts`)).body
      .entries as Host[];
  const first = async (code: string): Promise<Host> => {
    const all = await hosts(code);
    const busiest = [...all].sort((a, b) => b.sessions - a.sessions)[0];
    if (!busiest) throw new Error(`${code} has no host`);
    return busiest;
  };
  const ail = (host: Host, given: object): Promise<unknown> =>
    control(world.simulationUrl, 'PUT', `/control/ailments/${host.ref ?? ''}`, { given });
  const read = async (): Promise<void> => {
    await world.living.job('feed');
    await world.living.job('sessions');
    await world.living.job('signs');
    await world.living.job('summary');
  };
  const later = (ms: number): Promise<void> => world.living.moveTo(world.clock.at + ms);
  const worker = async (): Promise<void> => readSigns(world.app, await world.app.providers.named('coast'));
  const looks = async (who: 'ida' | 'jonah' | 'runa' = 'ida'): Promise<Look[]> =>
    (await world.call(who, 'GET', '/watch')).body.looks as Look[];
  const hits = async (who: 'ida' | 'jonah' = 'ida'): Promise<Look[]> =>
    (await looks(who)).filter((one) => one.harm !== null);

  it('is on Watch with how many people it hits, leads to the host, and goes by itself', async () => {
    const host = await first('FPS');
    expect(host.sessions).toBeGreaterThan(0);
    expect(await hits()).toEqual([]);
    await ail(host, { sign_in_seconds: 84 });
    await read();
    expect(await hits()).toMatchObject([
      {
        says: `${host.name}: signing in takes 84 s`,
        people: host.sessions,
        harm: 'slow',
        customer: 'FPS',
        href: `/customers/FPS/hosts/${host.id}`,
      },
    ]);
    const detail = (await world.call('ida', 'GET', `/customers/FPS/hosts/${host.id}`))
      .body as unknown as HostDetail;
    expect(detail.signs[0]).toMatchObject({ kind: 'sign-in', endedAt: null, mend: 'restart-hosts' });
    expect(detail.sessions).toHaveLength(host.sessions);
    await ail(host, {});
    await read();
    expect(await hits()).toEqual([]);
  });

  it('is seen before its people are counted out, nobody is placed on it, and they are known as hit', async () => {
    const host = await first('FPS');
    await ail(host, { silent: true });
    await later(60_000);
    await read();
    expect(await hits()).toEqual([]);
    await later(60_000);
    await read();
    const [look] = await hits();
    expect(look).toMatchObject({ harm: 'out', people: host.sessions });
    expect((await hosts('FPS')).find(({ id }) => id === host.id)?.status).toBe('unwell');
    // Its people are gone from it: still it has hit them.
    const { entries } = (await world.call('ida', 'GET', '/customers/FPS/sessions?limit=1000')).body;
    for (const session of (entries as Session[]).filter((one) => one.host === host.name))
      await world.port().endSession(session.id);
    await read();
    expect((await hits())[0]).toMatchObject({ key: look?.key, people: host.sessions });
  });

  it('is that its provider never mentions it, once it is sure that it runs; nothing is concluded where it mentions none', async () => {
    const host = await first('FPS');
    await ail(host, { unmentioned: true });
    await later(120_000);
    await read();
    expect(await hits()).toMatchObject([
      {
        says: `${host.name}: is on, and nothing is heard of it`,
        people: host.sessions,
        harm: 'out',
        customer: 'FPS',
      },
    ]);
    // It lasts for as long as that is so, as one sign.
    await read();
    expect(await hits()).toHaveLength(1);
    // All of them: that is the provider's own silence.
    const all = [...(await hosts('FPS')), ...(await hosts('MHP'))];
    for (const one of all) await ail(one, { unmentioned: true });
    await read();
    expect(await hits()).toEqual([]);
    for (const one of all) await ail(one, {});
    // What nobody wants, or is no customer's, is not asked for by name again and again.
    const asked: string[] = [];
    const there = await world.app.providers.named('coast');
    const counting = {
      ...there.port,
      resource: (ref: string) => (asked.push(ref), there.port.resource(ref)),
    };
    await world.app.db.write('UPDATE resource SET wanted = FALSE WHERE id = ?', [host.id]);
    await ail(host, { unmentioned: true });
    await readSigns(world.app, { ...there, port: counting });
    expect(asked).toEqual([]);
    await world.app.db.write('UPDATE resource SET wanted = TRUE WHERE id = ?', [host.id]);
    // Where it cannot be asked by name, nothing is concluded, and what others show is shown.
    await ail(host, { unmentioned: true });
    const [other] = await hosts('MHP');
    if (!other) throw new Error('MHP has no host');
    await ail(other, { load: 99 });
    const connected = await world.app.providers.named('coast');
    const refuses = (): Promise<never> =>
      Promise.reject(new OutsideError('provider coast', 'refuses', 'lasting'));
    await readSigns(world.app, { ...connected, port: { ...connected.port, resource: refuses } });
    await world.living.job('summary');
    expect((await hits()).map(({ says }) => says)).toEqual([`${other.name}: load 99 %`]);
    await ail(other, {});
    // A host that is off by now is not missed, though that has not been read yet.
    const { port } = connected;
    const present = await port.resource(host.ref ?? '');
    await port.act(host.ref ?? '', present?.version ?? 0, 'power-off', {}, 'behind our back');
    await later(120_000);
    await world.living.job('signs');
    expect(await hits()).toEqual([]);
    const off = await port.resource(host.ref ?? '');
    expect(off?.state).toBe('off');
    await port.act(host.ref ?? '', off?.version ?? 0, 'power-on', {}, 'and on again');
    await later(120_000);
  });

  it('is one line of a node that is lost, with each one’s own part of it, and ends when it is back', async () => {
    const all = [...(await hosts('FPS')), ...(await hosts('MHP'))];
    const node = all[0]?.node ?? '';
    const on = all.filter((one) => one.node === node);
    const people = on.reduce((sum, one) => sum + one.sessions, 0);
    expect(people).toBeGreaterThan(0);
    await control(world.simulationUrl, 'PUT', '/control/faults', {
      faults: [{ kind: 'lose-node', target: node, amount: 1 }],
    });
    await world.living.job('ground');
    await read();
    const lines = await hits();
    expect(lines).toHaveLength(1);
    expect(lines[0]).toMatchObject({ people, customer: null, harm: 'out' });
    expect(lines[0]?.says).toContain(`Node ${node} is lost`);
    // The site's own telling of it is the same trouble.
    expect((await looks()).filter(({ says }) => says.includes(node))).toHaveLength(1);
    // Whoever reaches only one of those on it is told of that one alone.
    const theirs = await hits('jonah');
    for (const look of theirs) expect(look.customers).toEqual(['FPS']);
    expect(JSON.stringify(theirs)).not.toContain('MHP');
    await control(world.simulationUrl, 'PUT', '/control/faults', { faults: [] });
    await world.living.job('ground');
    await read();
    expect(await hits()).toEqual([]);
    expect((await looks()).filter(({ says }) => says.includes(node))).toEqual([]);
  });

  it('is said once, however often it is read, and by two workers at once', async () => {
    await ail(await first('MHP'), { load: 99 });
    await Promise.all([worker(), worker()]);
    await read();
    expect(await hits()).toHaveLength(1);
    const rows = await world.app.db.rows("SELECT id FROM sign WHERE ended_at IS NULL AND kind = 'load'");
    expect(rows).toHaveLength(1);
  });

  it('stays as it was while the provider does not answer', async () => {
    await ail(await first('MHP'), { load: 99 });
    await read();
    await control(world.simulationUrl, 'PUT', '/control/faults', {
      faults: [{ kind: 'refuse', target: '', amount: 1 }],
    });
    await later(10 * 60_000);
    await expect(worker()).rejects.toThrow();
    expect(await hits()).toHaveLength(1);
  });

  it('is taken by somebody, put off for a reason, and a new one is looked at anew', async () => {
    const host = await first('FPS');
    await ail(host, { load: 99 });
    await read();
    const [look] = await hits();
    const mark = (body: object, who: 'ida' | 'jonah' | 'runa' | 'petra' = 'ida') =>
      world.call(who, 'PUT', '/watch/marks', { body: { key: look?.key, ...body } });
    expect((await mark({ state: 'taken' })).body).toMatchObject({
      mark: { state: 'taken', by: 'Ida Quist' },
    });
    expect((await hits('jonah'))[0]?.mark).toMatchObject({ by: 'Ida Quist' });
    const refused = await mark({ state: 'put off' });
    expect(refused.status).toBe(422);
    expect(refused.body.fields).toHaveProperty('reason');
    expect((await mark({ state: 'put off', hours: 2, reason: 'a test of theirs' })).status).toBe(200);
    expect((await mark({ state: 'taken' }, 'runa')).status).toBe(403);
    const trail = (await world.call('ida', 'GET', '/customers/FPS/trail')).body.entries as {
      action: string;
    }[];
    expect(trail[0]).toMatchObject({ action: 'put off', reason: 'a test of theirs' });
    // After its time it needs a look again.
    await later(2 * 3_600_000 + 1);
    await read();
    expect((await hits())[0]?.mark).toBeNull();
    // Over and come again it is another one.
    expect((await mark({ state: 'taken' })).status).toBe(200);
    await ail(host, {});
    await read();
    await ail(host, { load: 98 });
    await read();
    const [again] = await hits();
    expect(again).toMatchObject({ mark: null });
    expect(again?.key).not.toBe(look?.key);
  });

  it('is one line where it is said twice in the same words, and told outside once', async () => {
    // Two proposals of one title wait for a lead.
    const waits = { kind: 'approval', says: 'Add 2 hosts: waits for a lead' };
    await world.app.db.write(
      "UPDATE summary SET attention = ?, stale = FALSE WHERE customer_id = (SELECT id FROM customer WHERE code = 'FPS')",
      [JSON.stringify([waits, waits])],
    );
    expect((await looks()).filter(({ says }) => says === waits.says)).toHaveLength(1);
    const kept = await world.call('bram', 'PUT', '/notices', {
      body: { address: 'http://127.0.0.1:9/nobody', secret: 'x'.repeat(24) },
    });
    expect(kept.status).toBe(200);
    await tellOutside(world.app);
    expect(
      await world.app.db.rows("SELECT id FROM notice WHERE event LIKE '%waits for a lead%'"),
    ).toHaveLength(1);
    await world.call('bram', 'PUT', '/notices', { body: { address: '', secret: '' } });
  });

  it('is marked as well where it is the MSP’s own: by those who reach it, and told to no others', async () => {
    const { run } = await begin(world, 'MSP', 'new-image', {
      code: 'marked',
      name: 'Marked',
      says: '',
      site: 'KQ',
      from: 'Ostrel 12 multi-user',
      recipe: 'steps:\n  - install: Office letters 5\n',
      keep: 1,
      size: 's4x16',
      diskGiB: 96,
      licences: [],
    });
    await world.app.db.write("UPDATE run SET state = 'stopped' WHERE id = ?", [run]);
    const mark = (who: 'ida' | 'jonah') =>
      world.call(who, 'PUT', '/watch/marks', { body: { key: `run ${run}`, state: 'taken' } });
    expect((await mark('ida')).body).toMatchObject({ customer: 'MSP', mark: { by: 'Ida Quist' } });
    expect((await mark('jonah')).status).toBe(404);
    expect(JSON.stringify(await looks('jonah'))).not.toContain(run);
    await world.app.db.write("UPDATE run SET state = 'done' WHERE id = ?", [run]);
  });

  it('is nobody else’s to see or to mark', async () => {
    const host = await first('MHP');
    await ail(host, { load: 99 });
    await read();
    const [look] = await hits();
    expect(await hits('jonah')).toEqual([]);
    expect(
      (await world.call('jonah', 'PUT', '/watch/marks', { body: { key: look?.key, state: 'taken' } })).status,
    ).toBe(404);
    for (const path of [`/customers/MHP/hosts/${host.id}`, `/customers/FPS/hosts/${host.id}`])
      for (const more of ['', '/vitals'])
        expect((await world.call('jonah', 'GET', path + more)).status).toBe(404);
  });

  it('is seen though another host says what nobody understands', async () => {
    const [one, other] = await hosts('FPS');
    if (!one || !other) throw new Error('two hosts are needed');
    await ail(one, { load: 'much', agent: 'x'.repeat(300) });
    await ail(other, { load: 180 });
    await read();
    expect((await hits()).map(({ says }) => says)).toEqual([`${other.name}: load 180 %`]);
  });

  it('tells what a host says of itself now', async () => {
    const host = await first('FPS');
    await ail(host, { memory: 71 });
    const { body } = await world.call('ida', 'GET', `/customers/FPS/hosts/${host.id}/vitals`);
    expect(body.vitals).toMatchObject({ memory: 71, agent: '4.2' });
  });

  it('is mended by a restart in turn: drained, restarted, open again, and nobody is without a seat', async () => {
    const host = await first('FPS');
    await ail(host, { load: 99, clock_off_ms: 400_000 });
    await read();
    expect(await hits()).toHaveLength(2);
    const { run } = await begin(
      world,
      'FPS',
      'restart-hosts',
      { hosts: [host.id] },
      { environment: environments.FPS },
    );
    await world.living.untilQuiet();
    await read();
    expect(await hits()).toEqual([]);
    const after = (await hosts('FPS')).find(({ id }) => id === host.id);
    expect(after).toMatchObject({ status: 'serving', drift: [] });
    expect(
      await world.app.db.rows("SELECT state, says FROM step WHERE run_id = ? AND action = 'restart'", [run]),
    ).toEqual([{ state: 'done', says: 'restarted' }]);
  });

  it('has a picture taken before maintenance, goes back to it, and keeps it no longer than that', async () => {
    const host = await first('FPS');
    const options = { environment: environments.FPS };
    const there = async () => (await world.port().resource(host.ref ?? ''))?.attributes ?? {};
    const shown = async () => {
      await read();
      return (await hosts('FPS')).find(({ id }) => id === host.id);
    };
    const early = await change(world, 'FPS', 'go-back-to-picture', { hosts: [host.id] }, options);
    expect([early.status, JSON.stringify(early.body)]).toEqual([
      422,
      expect.stringContaining(`no picture of ${host.name} is kept`),
    ]);
    await begin(world, 'FPS', 'maintain-hosts', { hosts: [host.id], picture: true }, options);
    await world.living.untilQuiet();
    expect(await there()).toMatchObject({ picture: true });
    expect(await shown()).toMatchObject({ status: 'off', pictured: true, drift: [] });
    // What maintenance spoils, the picture has whole.
    await control(world.simulationUrl, 'POST', `/control/resources/${host.ref ?? ''}`, {
      attributes: { agent: 'broken' },
    });
    await begin(world, 'FPS', 'go-back-to-picture', { hosts: [host.id] }, options);
    await world.living.untilQuiet();
    expect(await there()).toMatchObject({ agent: 'ready', picture: true });
    await begin(world, 'FPS', 'end-maintenance', { hosts: [host.id] }, options);
    await world.living.untilQuiet();
    expect(await there()).toMatchObject({ picture: false });
    expect(await shown()).toMatchObject({ status: 'serving', pictured: false, drift: [] });
  });

  it('is put in maintenance and taken back', async () => {
    const host = await first('FPS');
    await begin(world, 'FPS', 'maintain-hosts', { hosts: [host.id] }, { environment: environments.FPS });
    await world.living.untilQuiet();
    await read();
    expect((await hosts('FPS')).find(({ id }) => id === host.id)).toMatchObject({
      status: 'off',
      drift: [],
      sessions: 0,
    });
    // Off on purpose, it says nothing, and that is no sign.
    await later(10 * 60_000);
    await read();
    expect(await hits()).toEqual([]);
    await begin(world, 'FPS', 'end-maintenance', { hosts: [host.id] }, { environment: environments.FPS });
    await world.living.untilQuiet();
    await read();
    expect((await hosts('FPS')).find(({ id }) => id === host.id)).toMatchObject({
      status: 'serving',
      drift: [],
    });
  });
});
