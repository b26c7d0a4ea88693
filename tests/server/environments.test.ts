import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { httpDirectory } from '../../src/server/directory';
import { proofOf } from '../../src/server/environments';
import { httpProvider } from '../../src/server/provider';
import { advance } from '../../src/server/worker';
import { openWorld, provisionFor, START, type Called, type Made, type World } from './setup/world';

interface Host {
  readonly id: string;
  readonly name: string;
  readonly ref: string;
  readonly address: string;
  readonly node: string | null;
  readonly standing: string;
  readonly drift: readonly string[];
  readonly present: string | null;
  readonly wantedPower: string;
  readonly wantedAccepting: boolean;
  readonly version: number;
}

/** What engineers do with what stands: power, drain, several environments, several sites, lost nodes. */
describe('environments', () => {
  let world: World;
  let office: Made;
  beforeAll(async () => {
    world = await openWorld('environments');
    office = await provisionFor(world, 'SVG', 'office', 16, 'KQ');
  });
  afterAll(() => world.close());

  const at = (made: Made, path = ''): string => `/customers/SVG/environments/${made.environment}${path}`;
  const hostsOf = async (made: Made): Promise<Host[]> =>
    (await world.call('ida', 'GET', at(made, '/hosts'))).body.entries as Host[];
  const change = (made: Made, hosts: readonly string[], what: string): Promise<Called> =>
    world.call('ida', 'POST', at(made, '/changes'), {
      body: { hosts: hosts.map((id) => ({ id })), change: what, reason: 'a test' },
    });
  const minutes = (n: number): Promise<void> => world.living.moveTo(world.clock.at + n * 60_000);

  it('drains a host: it takes nobody new, those in stay, and put back it takes people again', async () => {
    await world.living.moveTo(START + 2 * 3_600_000);
    await world.living.duty('sessions');
    const [first] = await hostsOf(office);
    await change(office, [first?.id ?? ''], 'drain');
    await world.living.untilQuiet();
    expect((await hostsOf(office))[0]).toMatchObject({
      standing: 'draining',
      drift: [],
      wantedAccepting: false,
    });
    const before = (await world.app.provider.sessions())
      .filter((one) => one.host === first?.ref)
      .map((one) => one.account);
    await minutes(30);
    const after = (await world.app.provider.sessions())
      .filter((one) => one.host === first?.ref)
      .map((one) => one.account);
    expect(after.every((account) => before.includes(account))).toBe(true);
    await change(office, [first?.id ?? ''], 'accept');
    await world.living.untilQuiet();
    expect((await hostsOf(office))[0]).toMatchObject({ standing: 'serving', drift: [] });
  });

  it('switches a host off and ends its sessions; doing it again changes nothing', async () => {
    const [first] = await hostsOf(office);
    for (let i = 0; i < 2; i++) {
      const { status } = await change(office, [first?.id ?? ''], 'power-off');
      expect(status).toBe(201);
      await world.living.untilQuiet();
      expect((await hostsOf(office))[0]).toMatchObject({
        standing: 'off',
        present: 'off',
        wantedPower: 'off',
      });
    }
    expect((await world.app.provider.sessions()).filter((one) => one.host === first?.ref)).toEqual([]);
    const closed = await world.app.db.rows(
      "SELECT id FROM meter_interval WHERE ref = ? AND meter = 'host' AND to_at IS NOT NULL",
      [first?.ref ?? ''],
    );
    await change(office, [first?.id ?? ''], 'power-on');
    await world.living.untilQuiet();
    const later = await world.app.db.rows(
      "SELECT id FROM meter_interval WHERE ref = ? AND meter = 'host' AND to_at IS NOT NULL",
      [first?.ref ?? ''],
    );
    expect(later.length).toBe(closed.length + 1);
  });

  it('says what is wrong with a change that cannot be', async () => {
    const [first] = await hostsOf(office);
    const cases: readonly [object, number][] = [
      [{ hosts: [], change: 'drain' }, 422],
      [{ hosts: [{ id: first?.id }], change: 'explode' }, 422],
      [{ hosts: [first?.id], change: 'drain' }, 422],
      [{ hosts: [{ id: 'nobody' }], change: 'drain' }, 404],
      [{ hosts: [{ id: first?.id }, { id: 'nobody' }], change: 'drain' }, 404],
      [{ change: 'drain' }, 422],
    ];
    for (const [body, status] of cases)
      expect([body, (await world.call('ida', 'POST', at(office, '/changes'), { body })).status]).toEqual([
        body,
        status,
      ]);
    expect((await hostsOf(office)).every((host) => host.wantedAccepting)).toBe(true);
  });

  it('refuses to change a host that someone else has changed meanwhile, and names it', async () => {
    const seen = (await hostsOf(office))[0];
    await change(office, [seen?.id ?? ''], 'drain');
    const late = await world.call('bram', 'POST', at(office, '/changes'), {
      body: { hosts: [{ id: seen?.id, version: seen?.version }], change: 'power-off' },
    });
    expect(late.status).toBe(412);
    expect(late.body.detail).toContain(seen?.name);
    expect((await hostsOf(office))[0]?.wantedPower).toBe('on');
    await change(office, [seen?.id ?? ''], 'accept');
    await world.living.untilQuiet();
  });

  it('sees a lost node’s hosts as unwell, meters no hours for them, and sees them come back', async () => {
    const [first] = await hostsOf(office);
    const hours = async (): Promise<number> => {
      const row = await world.app.db.row<{ open: number }>(
        "SELECT COUNT(*) AS open FROM meter_interval WHERE ref = ? AND meter = 'host' AND state = 'on' AND to_at IS NULL",
        [first?.ref ?? ''],
      );
      return row?.open ?? -1;
    };
    await world.living.faults([{ kind: 'lose-node', target: first?.node ?? '' }]);
    await world.living.duty('feed');
    await world.living.duty('ground');
    expect((await hostsOf(office))[0]).toMatchObject({ standing: 'unwell', drift: ['does not answer'] });
    expect(await hours()).toBe(0);
    const sites = (await world.call('ida', 'GET', '/sites')).body.sites as {
      nodes: { id: string; state: string }[];
    }[];
    expect(sites.flatMap((site) => site.nodes).find((node) => node.id === first?.node)?.state).toBe('lost');
    await world.living.duty('tally');
    const watch = (await world.call('ida', 'GET', '/watch')).body.customers as {
      code: string;
      attention: { says: string }[];
    }[];
    expect(
      watch
        .find((one) => one.code === 'SVG')
        ?.attention.map((one) => one.says)
        .join(),
    ).toContain('does not answer');
    await world.living.faults([]);
    await world.living.duty('feed');
    await world.living.duty('ground');
    expect((await hostsOf(office))[0]).toMatchObject({ standing: 'serving', drift: [] });
    expect(await hours()).toBe(1);
  });

  it('does not place hosts on a lost node', async () => {
    await world.living.faults([{ kind: 'lose-node', target: 'kq-b1' }]);
    await world.living.duty('ground');
    const { body } = await world.call('ida', 'POST', '/customers/SVG/proposals', {
      body: { environment: 'spare', people: 30, profile: 'standard', template: 'shared-office', site: 'KQ' },
    });
    const hosts = body.proposal.hosts as Host[];
    expect(hosts.length).toBeGreaterThan(5);
    expect(hosts.map((host) => host.node)).not.toContain('kq-b1');
    await world.living.faults([]);
    await world.living.duty('ground');
  });

  it('keeps a second environment’s names, addresses and network apart from the first’s', async () => {
    const front = await provisionFor(world, 'SVG', 'front', 16, 'KQ');
    const [one, two] = [await hostsOf(office), await hostsOf(front)];
    const all = [...one, ...two];
    expect(new Set(all.map((host) => host.name)).size).toBe(all.length);
    expect(new Set(all.map((host) => host.address)).size).toBe(all.length);
    const networks = (await world.app.provider.resources('SVG')).filter((seen) => seen.kind === 'network');
    expect(networks).toHaveLength(1);
    // Retiring one leaves the network to the other.
    await world.call('ida', 'POST', at(front, '/retirement'), { body: { code: 'SVG' } });
    await world.living.untilQuiet();
    const proof = (await world.call('ida', 'GET', at(front, '/proof'))).body;
    expect(proof).toMatchObject({ clean: true, returned: { networkReturned: false, subnetReturned: true } });
    expect((await world.app.provider.resource(networks[0]?.id ?? ''))?.state).toBe('ready');
    expect((await hostsOf(office)).every((host) => host.standing === 'serving')).toBe(true);
  });

  it('gives a customer a block of its own at each site, and never another’s', async () => {
    await provisionFor(world, 'SVG', 'north', 8, 'NL');
    await provisionFor(world, 'FPS', 'north', 8, 'NL');
    const blocks = await world.app.db.rows<{ cidr: string }>(
      'SELECT cidr FROM address_block WHERE returned_at IS NULL',
    );
    expect(new Set(blocks.map((block) => block.cidr)).size).toBe(blocks.length);
    const svg = (await world.call('ida', 'GET', '/customers/SVG')).body.blocks as { site: string }[];
    expect(svg.map((block) => block.site).sort()).toEqual(['KQ', 'NL']);
  });

  it('keeps a customer with nodes of their own on them', async () => {
    const { body } = await world.call('ida', 'POST', '/customers/CAO/proposals', {
      body: { environment: 'assay', people: 31, profile: 'standard', template: 'shared-office', site: 'KQ' },
    });
    const nodes = new Set((body.proposal.hosts as Host[]).map((host) => host.node));
    expect([...nodes].sort()).toEqual(['kq-a4', 'kq-b4']);
  });

  it('retires what was never finished: nothing that was begun is left', async () => {
    await world.living.faults(
      ['01', '02'].map((n) => ({ kind: 'fail-host', target: `SVG-HALF${n}`, amount: 9 })),
    );
    const half = await provisionFor(world, 'SVG', 'half', 16, 'KQ');
    await world.living.faults([]);
    const seen = (await world.call('ida', 'GET', at(half))).body;
    expect(seen.state).toBe('unfinished');
    expect((await hostsOf(half)).map((host) => host.standing)).toContain('missing');
    const { status } = await world.call('ida', 'POST', at(half, '/retirement'), { body: { code: 'SVG' } });
    expect(status).toBe(201);
    await world.living.untilQuiet();
    const left = (await world.app.provider.resources('SVG')).filter(
      (one) => one.tags.environment === half.environment,
    );
    expect(left).toEqual([]);
    const resumed = await world.call('ida', 'POST', `/customers/SVG/runs/${half.run}/resume`);
    expect(resumed.status).toBe(409);
    // It stays stopped, and nobody is asked to look at it any more.
    const watched = (await world.call('ida', 'GET', '/watch')).body.runs as { id: string }[];
    expect(watched.map((run) => run.id)).not.toContain(half.run);
  });

  it('finds again by its tags what was made when nobody could note it', async () => {
    const lost = await provisionFor(world, 'SVG', 'lost', 8, 'KQ');
    // As if the machine had died between the provider's answer and our note of it.
    await world.app.db.write("DELETE FROM link WHERE environment_id = ? AND kind IN ('host','share')", [
      lost.environment,
    ]);
    await world.call('ida', 'POST', at(lost, '/retirement'), { body: { code: 'SVG' } });
    await world.living.untilQuiet();
    expect((await world.call('ida', 'GET', at(lost))).body.state).toBe('retired');
    expect(
      (await world.app.provider.resources('SVG')).filter((one) => one.tags.environment === lost.environment),
    ).toEqual([]);
  });

  it('does not call it proven while something is left', async () => {
    const stuck = await provisionFor(world, 'SVG', 'stuck', 8, 'KQ');
    const [pool] = (await world.app.provider.resources('SVG')).filter(
      (one) => one.kind === 'pool' && one.tags.environment === stuck.environment,
    );
    await world.app.provider.begin(
      { do: 'make share', site: 'KQ', name: 'by hand', gib: 5, tags: { ...pool?.tags, wanted: 'nobody' } },
      'by hand',
    );
    const { body } = await world.call('ida', 'POST', at(stuck, '/retirement'), { body: { code: 'SVG' } });
    await world.living.untilQuiet();
    const run = (await world.call('ida', 'GET', `/customers/SVG/runs/${String(body.run)}`)).body;
    expect(run).toMatchObject({ state: 'stopped', failed: 1 });
    const steps = run.graph as { kind: string; state: string; says: string }[];
    expect(steps.find((step) => step.kind === 'prove')).toMatchObject({
      state: 'failed',
      says: 'still there: share by hand',
    });
    const proof = (await world.call('ida', 'GET', at(stuck, '/proof'))).body;
    expect(proof.clean).toBe(false);
    // Nobody of us made it, but it carries the environment's tag and costs.
    expect(proof.rows).toContainEqual(expect.objectContaining({ name: 'by hand', says: 'still there' }));
    const [share] = (await world.app.provider.resources('SVG')).filter((one) => one.name === 'by hand');
    await world.app.provider.begin({ do: 'remove', ref: share?.id ?? '' }, 'remove by hand');
    await minutes(10);
    await world.call('ida', 'POST', `/customers/SVG/runs/${String(body.run)}/resume`);
    await world.living.untilQuiet();
    expect((await world.call('ida', 'GET', at(stuck, '/proof'))).body.clean).toBe(true);

    // Who cannot be asked proves nothing.
    const scope = await world.inside('SVG');
    const noDirectory = { ...world.app, directory: httpDirectory('http://127.0.0.1:9', '') };
    expect(await proofOf(noDirectory, scope, stuck.environment)).toMatchObject({
      clean: false,
      returned: { directory: { worked: false, says: 'directory: does not answer' } },
    });
    const gone = httpProvider({ url: 'http://127.0.0.1:9', account: 'a', secret: 'b' });
    const asked = await proofOf({ ...world.app, provider: gone }, scope, stuck.environment);
    expect(asked.clean).toBe(false);
    expect(asked.rows.every((row) => row.says === 'could not be asked')).toBe(true);
  });

  it('writes a mistake of ours to the step that met it, tries it again, and goes on', async () => {
    const wish = {
      environment: 'clumsy',
      people: 6,
      profile: 'standard',
      template: 'shared-office',
      site: 'KQ',
    };
    const proposed = await world.call('ida', 'POST', '/customers/SVG/proposals', { body: wish });
    const { body } = await world.call('ida', 'POST', '/customers/SVG/environments', {
      body: { ...wish, stamp: proposed.body.stamp, reason: 'a test' },
    });
    const mistaken = (): never => {
      throw new TypeError('a mistake of ours');
    };
    const clumsy = { ...world.app, provider: { ...world.app.provider, resource: mistaken, begin: mistaken } };
    expect(await advance(clumsy)).toBe(true);
    const met = await world.app.db.row<{ attempt: number; says: string; state: string }>(
      "SELECT attempt, says, state FROM step WHERE run_id = ? AND state = 'working'",
      [String(body.run)],
    );
    expect(met).toEqual({ attempt: 1, says: 'broke: a mistake of ours', state: 'working' });
    await world.living.untilQuiet();
    expect((await world.call('ida', 'GET', `/customers/SVG/runs/${String(body.run)}`)).body.state).toBe(
      'done',
    );
  });

  it('writes to the people once, however often the step is taken', async () => {
    const mailed = await world.app.db
      .rows<{ n: number }>('SELECT COUNT(*) AS n FROM environments_mail.message')
      .catch(() => []);
    expect(mailed[0]?.n).toBeGreaterThan(0);
    const runs = await world.app.db.rows("SELECT id FROM run WHERE kind = 'retire'");
    expect(mailed[0]?.n).toBe(runs.length);
  });
});
