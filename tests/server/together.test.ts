import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { peopleCsv, peopleOf } from '../../src/demo/people';
import { advance } from '../../src/server/worker';
import { begin, change, openWorld, raise, provisionFor, type Called, type World } from './setup/world';

/** Two people, or two runs, at the same moment. */
describe('at the same moment', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('moment');
  });
  afterAll(() => world.close());

  const wish = (environment: string, people = 8) => ({
    environment,
    people,
    template: 'shared-office',
    site: 'KQ',
  });
  const propose = async (code: string, environment: string): Promise<unknown> =>
    (
      await world.call('ida', 'POST', `/customers/${code}/changes/provision/proposal`, {
        body: { input: wish(environment) },
      })
    ).body.fingerprint;
  const confirm = (
    who: 'ida' | 'bram',
    code: string,
    environment: string,
    fingerprint: unknown,
    headers: Record<string, string> = {},
  ): Promise<Called> =>
    world.call(who, 'POST', `/customers/${code}/changes/provision`, {
      body: { input: wish(environment), fingerprint, reason: 'a test' },
      headers,
    });
  const retire = (code: string, environment: unknown): Promise<Called> =>
    change(world, code, 'retire', { data: 'destroyed' }, { environment: String(environment) });
  const present = async (code: string, kind: string): Promise<string[]> =>
    (await world.port().resources({ customer: code }))
      .filter((seen) => seen.kind === kind && seen.state !== 'gone')
      .map((seen) => seen.ref);

  it('two engineers confirm the same proposal: it is built once, and the other is told', async () => {
    const fingerprint = await propose('SVG', 'once');
    const said = await Promise.all([
      confirm('ida', 'SVG', 'once', fingerprint),
      confirm('bram', 'SVG', 'once', fingerprint),
    ]);
    const refused = said.filter((one) => one.status !== 201);
    expect(said.map((one) => one.status).filter((status) => status === 201)).toHaveLength(1);
    expect([409, 422]).toContain(refused[0]?.status);
    expect(refused[0]?.body.detail).toEqual(expect.any(String));
    await world.living.untilQuiet();
    expect(await present('SVG', 'pool')).toHaveLength(1);
  });

  it('one sends the same request twice with one key: it is done once', async () => {
    const fingerprint = await propose('SVG', 'twice');
    const key = { 'idempotency-key': 'the same' };
    const said = await Promise.all([
      confirm('ida', 'SVG', 'twice', fingerprint, key),
      confirm('ida', 'SVG', 'twice', fingerprint, key),
    ]);
    // Both are answered alike, whichever of them did it.
    expect(said.map((one) => one.status)).toEqual([201, 201]);
    expect(said[0]?.body).toEqual(said[1]?.body);
    const again = await confirm('ida', 'SVG', 'twice', fingerprint, key);
    expect(again.body).toEqual(said[0]?.body);
    const runs = await world.app.db.rows("SELECT id FROM run WHERE title = 'Provision twice'");
    expect(runs).toHaveLength(1);
    await world.living.untilQuiet();
  });

  it('what a request made is kept with its key in one transaction: there are both, or neither', async () => {
    const ask = { body: { name: 'half', days: 1 }, headers: { 'idempotency-key': 'died' } };
    const tokens = async (): Promise<number> =>
      (await world.app.db.rows("SELECT id FROM api_token WHERE name = 'half'")).length;
    // As if the database had gone at the last moment: keeping the key does not work out.
    await world.app.db.write('ALTER TABLE idempotency ADD COLUMN broken INT NOT NULL');
    expect((await world.callFromBrowser('ida', 'POST', '/tokens', ask)).status).toBe(503);
    expect(await tokens()).toBe(0);
    await world.app.db.write('ALTER TABLE idempotency DROP COLUMN broken');
    const first = await world.callFromBrowser('ida', 'POST', '/tokens', ask);
    expect(first.status).toBe(201);
    expect((await world.callFromBrowser('ida', 'POST', '/tokens', ask)).text).toBe(first.text);
    expect(await tokens()).toBe(1);
    // It is sealed: a token that is shown once does not stand there in clear.
    const row = await world.app.db.row<{ made: Buffer }>(
      "SELECT made FROM idempotency WHERE idempotency_key = 'died'",
    );
    expect(row?.made.toString('latin1')).not.toContain('laager_');
  });

  it('two first environments of a customer are built: they share one network, made once', async () => {
    const made = [];
    for (const name of ['left', 'right'])
      made.push((await confirm('ida', 'MHP', name, await propose('MHP', name))).body);
    await world.living.untilQuiet();
    expect(await present('MHP', 'network')).toHaveLength(1);
    expect(await present('MHP', 'subnet')).toHaveLength(2);

    // And both go at the same moment: the network goes with whichever is the last.
    // Whoever is second is told that the network goes too, and agrees to that.
    const gone = await Promise.all(made.map((one) => retire('MHP', one.environment)));
    expect(gone.map((one) => one.status).sort()).toEqual([201, 409]);
    for (const [n, one] of gone.entries())
      if (one.status === 409) expect((await retire('MHP', made[n]?.environment)).status).toBe(201);
    await world.living.untilQuiet();
    expect(await world.port().resources({ customer: 'MHP' })).toEqual([]);
    for (const one of made) {
      const proof = await world.call(
        'ida',
        'GET',
        `/customers/MHP/environments/${String(one.environment)}/proof`,
      );
      expect(proof.body.clean).toBe(true);
    }
  });

  it('one environment goes while another is begun: its network stays, and the other stands on it', async () => {
    const first = await provisionFor(world, 'FPS', 'first', 6, 'KQ');
    expect((await retire('FPS', first.environment)).status).toBe(201);
    // The retirement has begun, and was planned to take the network too; nothing of it is done yet.
    expect(await advance(world.app)).toBe(true);
    const second = await confirm('ida', 'FPS', 'second', await propose('FPS', 'second'));
    expect(second.status).toBe(201);
    await world.living.untilQuiet();
    const [network] = await present('FPS', 'network');
    expect(network).toBeDefined();
    const said = await world.app.db.row<{ says: string; state: string }>(
      `SELECT s.says, s.state FROM step s JOIN run r ON r.id = s.run_id
       WHERE s.kind = 'network' AND s.action = 'remove' AND r.environment_id = ?`,
      [first.environment],
    );
    expect(said).toEqual({ says: 'it is wanted again', state: 'overtaken' });
    const run = await world.call('ida', 'GET', `/customers/FPS/runs/${String(second.body.run)}`);
    expect(run.body.state).toBe('done');
    await retire('FPS', second.body.environment);
    await world.living.untilQuiet();
    expect(await world.port().resources({ customer: 'FPS' })).toEqual([]);
  });

  it('the same people are imported by two: each stands once', async () => {
    await raise(world, 'HSB', 'people', 200);
    const csv = peopleCsv(peopleOf('HSB', 200));
    const said = await Promise.all([
      world.call('ida', 'POST', '/customers/HSB/people/import', { csv }),
      world.call('bram', 'POST', '/customers/HSB/people/import', { csv }),
    ]);
    for (const one of said) expect([200, 201]).toContain(one.status);
    const row = await world.app.db.row<{ n: number }>(
      "SELECT COUNT(*) AS n FROM person p JOIN customer c ON c.id = p.customer_id WHERE c.code = 'HSB'",
    );
    expect(row?.n).toBe(200);
  });

  it('a run is stopped by two and resumed by two: it stops once, goes on once, and ends', async () => {
    const made = await confirm('ida', 'QFB', 'bench', await propose('QFB', 'bench'));
    const run = `/customers/QFB/runs/${String(made.body.run)}`;
    await advance(world.app);
    for (const what of ['stop', 'resume']) {
      const said = await Promise.all([
        world.call('ida', 'POST', `${run}/${what}`),
        world.call('bram', 'POST', `${run}/${what}`),
      ]);
      for (const one of said) expect(one.status).toBe(200);
      if (what === 'stop') await world.living.untilQuiet();
    }
    await world.living.untilQuiet();
    expect((await world.call('ida', 'GET', run)).body.state).toBe('done');
    const trail = await world.app.db.rows<{ action: string }>(
      'SELECT action FROM trail WHERE run_id = ? ORDER BY id',
      [String(made.body.run)],
    );
    expect(trail.filter((one) => one.action === 'stop run')).toHaveLength(1);
    expect(trail.filter((one) => one.action === 'resume run')).toHaveLength(1);
  });

  describe('a worker fell asleep at the power switch, and what is wanted changed meanwhile', () => {
    /** A host that is to be off, its step held by a worker that is heard of no more. */
    async function asleep(code: string) {
      const { environment } = await provisionFor(world, code, 'sleepy', 8, 'KQ');
      const [host] = await world.app.db.rows<{ id: string; ref: string }>(
        "SELECT id, ref FROM resource WHERE environment_id = ? AND kind = 'host' ORDER BY name LIMIT 1",
        [environment],
      );
      if (!host) throw new Error('there is no host');
      const read = await world.port().resource(host.ref);
      if (!read) throw new Error('it is not there');
      const turn = (kind: string): Promise<Called> =>
        change(world, code, kind, { hosts: [host.id] }, { environment });
      expect((await turn('power-off')).status).toBe(201);
      await world.app.db.write(
        `UPDATE step SET state = 'working', fence = 1, lease_wall = 0, needs_left = 0
         WHERE kind = 'host' AND action = 'power' AND state = 'waiting' AND resource_id = ?`,
        [host.id],
      );
      const switchOff = (): Promise<unknown> =>
        world.port().act(read.ref, read.version, 'power-off', {}, `late ${host.id}`);
      /** When everything that is under way has ended. */
      const state = async (): Promise<string | undefined> => {
        await world.living.untilQuiet();
        await world.living.moveTo(world.clock.at + 10 * 60_000);
        return (await world.port().resource(host.ref))?.state;
      };
      return { turn, switchOff, state };
    }

    it('its call had come through: what it began is waited for, and then undone', async () => {
      const { turn, switchOff, state } = await asleep('HSB');
      await switchOff();
      expect((await turn('power-on')).status).toBe(201);
      expect(await state()).toBe('on');
    });

    it('its call comes when all is done: it comes to nothing', async () => {
      const { turn, switchOff, state } = await asleep('WAP');
      expect((await turn('power-on')).status).toBe(201);
      await world.living.untilQuiet();
      await expect(switchOff()).rejects.toMatchObject({ trouble: 'changed' });
      expect(await state()).toBe('on');
    });
  });

  it('the provider was cut off between noting a host and beginning to make it: it is made, once', async () => {
    const made = await begin(world, 'MHP', 'provision', {
      environment: 'cut',
      people: 8,
      template: 'shared-office',
      site: 'KQ',
    });
    const making = async () =>
      world.app.db.row<{ id: string; operation: string }>(
        "SELECT id, operation FROM step WHERE run_id = ? AND kind = 'host' AND action = 'make' AND operation IS NOT NULL",
        [made.run],
      );
    while (!(await making())) {
      while (await advance(world.app));
      await world.living.moveTo(world.clock.at + 5_000);
    }
    const step = await making();
    await world.app.db.write('DELETE FROM moment_provider.operation WHERE id = ?', [step?.operation ?? '']);
    await world.app.db.write('UPDATE step SET operation = NULL WHERE id = ?', [step?.id ?? '']);
    await world.living.untilQuiet();
    const hosts = (await world.port().resources({ customer: 'MHP', environment: made.environment })).filter(
      (one) => one.kind === 'host',
    );
    expect(hosts.map(({ state }) => state)).toEqual(hosts.map(() => 'on'));
    expect(new Set(hosts.map(({ name }) => name)).size).toBe(hosts.length);
    const run = await world.call('ida', 'GET', `/customers/MHP/runs/${made.run}`);
    expect(run.body.state, run.text).toBe('done');
  });

  it('two look at a run and both act on what they saw: the second is told that it has changed', async () => {
    const made = await confirm('ida', 'CAO', 'assay', await propose('CAO', 'assay'));
    const run = `/customers/CAO/runs/${String(made.body.run)}`;
    const seen = (await world.call('ida', 'GET', run)).headers.get('etag') ?? '';
    const headers = { 'if-match': seen };
    const said = [
      await world.call('ida', 'POST', `${run}/stop`, { headers }),
      await world.call('bram', 'POST', `${run}/stop`, { headers }),
    ];
    expect(said.map((one) => one.status)).toEqual([200, 412]);
  });
});
