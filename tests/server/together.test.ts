import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { peopleCsv, peopleOf } from '../../src/demo/people';
import { advance } from '../../src/server/worker';
import { openWorld, provisionFor, type Called, type World } from './setup/world';

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
    profile: 'standard',
    template: 'shared-office',
    site: 'KQ',
  });
  const propose = async (code: string, environment: string): Promise<unknown> =>
    (await world.call('ida', 'POST', `/customers/${code}/proposals`, { body: wish(environment) })).body.stamp;
  const confirm = (
    who: 'ida' | 'bram',
    code: string,
    environment: string,
    stamp: unknown,
    headers: Record<string, string> = {},
  ): Promise<Called> =>
    world.call(who, 'POST', `/customers/${code}/environments`, {
      body: { ...wish(environment), stamp, reason: 'a test' },
      headers,
    });
  const retire = (code: string, environment: unknown): Promise<Called> =>
    world.call('ida', 'POST', `/customers/${code}/environments/${String(environment)}/retirement`, {
      body: { code, reason: 'a test' },
    });
  const present = async (code: string, kind: string): Promise<string[]> =>
    (await world.app.provider.resources(code))
      .filter((seen) => seen.kind === kind && seen.state !== 'gone')
      .map((seen) => seen.id);

  it('two engineers confirm the same proposal: it is built once, and the other is told', async () => {
    const stamp = await propose('SVG', 'once');
    const said = await Promise.all([
      confirm('ida', 'SVG', 'once', stamp),
      confirm('bram', 'SVG', 'once', stamp),
    ]);
    const refused = said.filter((one) => one.status !== 201);
    expect(said.map((one) => one.status).filter((status) => status === 201)).toHaveLength(1);
    expect([409, 422]).toContain(refused[0]?.status);
    expect(refused[0]?.body.detail).toEqual(expect.any(String));
    await world.living.untilQuiet();
    expect(await present('SVG', 'pool')).toHaveLength(1);
  });

  it('one sends the same request twice with one key: it is done once', async () => {
    const stamp = await propose('SVG', 'twice');
    const key = { 'idempotency-key': 'the same' };
    const said = await Promise.all([
      confirm('ida', 'SVG', 'twice', stamp, key),
      confirm('ida', 'SVG', 'twice', stamp, key),
    ]);
    // The second may come while the first is at work, or after it: never is it done again.
    for (const one of said) expect([201, 409]).toContain(one.status);
    const again = await confirm('ida', 'SVG', 'twice', stamp, key);
    expect(again.status).toBe(201);
    const runs = await world.app.db.rows("SELECT id FROM run WHERE title = 'Provision twice'");
    expect(runs).toHaveLength(1);
    await world.living.untilQuiet();
  });

  it('a request whose process died is taken over by its repetition, after a minute', async () => {
    const ask = { body: { name: 'half', days: 1 }, headers: { 'idempotency-key': 'died' } };
    const first = await world.call('ida', 'POST', '/tokens', ask);
    expect(first.status).toBe(201);
    // As the database stands when the process dies before it could keep the answer.
    await world.app.db.write(
      "UPDATE idempotency SET status = NULL, body = NULL WHERE idempotency_key = 'died'",
    );
    expect((await world.call('ida', 'POST', '/tokens', ask)).body).toMatchObject({ status: 409 });
    world.clock.at += 61_000;
    const again = await world.call('ida', 'POST', '/tokens', ask);
    expect(again.status).toBe(201);
    expect(again.text).not.toBe(first.text);
    expect((await world.call('ida', 'POST', '/tokens', ask)).text).toBe(again.text);
  });

  it('two first environments of a customer are built: they share one network, made once', async () => {
    const made = [];
    for (const name of ['left', 'right'])
      made.push((await confirm('ida', 'MHP', name, await propose('MHP', name))).body);
    await world.living.untilQuiet();
    expect(await present('MHP', 'network')).toHaveLength(1);
    expect(await present('MHP', 'subnet')).toHaveLength(2);

    // And both go at the same moment: the network goes with whichever is the last.
    const gone = await Promise.all(made.map((one) => retire('MHP', one.environment)));
    expect(gone.map((one) => one.status)).toEqual([201, 201]);
    await world.living.untilQuiet();
    expect(await world.app.provider.resources('MHP')).toEqual([]);
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
    const said = await world.app.db.row<{ says: string }>(
      "SELECT s.says FROM step s JOIN run r ON r.id = s.run_id WHERE s.kind = 'remove-network' AND r.environment_id = ?",
      [first.environment],
    );
    expect(said?.says).toBe('stays: second uses it');
    const run = await world.call('ida', 'GET', `/customers/FPS/runs/${String(second.body.run)}`);
    expect(run.body.state).toBe('done');
    await retire('FPS', second.body.environment);
    await world.living.untilQuiet();
    expect(await world.app.provider.resources('FPS')).toEqual([]);
  });

  it('the same people are imported by two: each stands once', async () => {
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
