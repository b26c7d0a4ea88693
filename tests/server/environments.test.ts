import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Look } from '../../src/contract';
import { httpDirectory } from '../../src/server/directory';
import { proofOf } from '../../src/server/environments';
import { httpProvider, type Provider } from '../../src/server/providers';
import { advance } from '../../src/server/worker';
import {
  begin,
  change as changeOf,
  changePath,
  openWorld,
  provisionFor,
  START,
  type Called,
  type Made,
  type World,
} from './setup/world';

interface Host {
  readonly id: string;
  readonly name: string;
  readonly ref: string;
  readonly address: string;
  readonly node: string | null;
  readonly status: string;
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
    changeOf(world, 'SVG', what, { hosts }, { environment: made.environment });
  const retire = (made: Made): Promise<Called> =>
    changeOf(world, 'SVG', 'retire', { data: 'destroyed' }, { environment: made.environment });
  const wish = (environment: string, people: number, site = 'KQ') => ({
    environment,
    people,
    template: 'shared-office',
    site,
  });
  const proposedNodes = async (code: string, environment: string, people: number): Promise<unknown[]> => {
    const { body } = await world.call('ida', 'POST', `/customers/${code}/changes/provision/proposal`, {
      body: { input: wish(environment, people) },
    });
    return (body.proposal.tasks as unknown as { kind: string; attributes: { node: unknown } }[])
      .filter((task) => task.kind === 'host')
      .map((task) => task.attributes.node);
  };
  const present = async (made: Made): ReturnType<Provider['resources']> =>
    world.port().resources({ customer: 'SVG', environment: made.environment });
  const minutes = (n: number): Promise<void> => world.living.moveTo(world.clock.at + n * 60_000);

  it('drains a host: it takes nobody new, those in stay, and put back it takes people again', async () => {
    await world.living.moveTo(START + 2 * 3_600_000);
    await world.living.job('sessions');
    const [first] = await hostsOf(office);
    await change(office, [first?.id ?? ''], 'drain');
    await world.living.untilQuiet();
    expect((await hostsOf(office))[0]).toMatchObject({
      status: 'draining',
      drift: [],
      wantedAccepting: false,
    });
    const before = (await world.port().allSessions()).sessions
      .filter((one) => one.host === first?.ref)
      .map((one) => one.account);
    await minutes(30);
    const after = (await world.port().allSessions()).sessions
      .filter((one) => one.host === first?.ref)
      .map((one) => one.account);
    expect(after.every((account) => before.includes(account))).toBe(true);
    await change(office, [first?.id ?? ''], 'put-back');
    await world.living.untilQuiet();
    expect((await hostsOf(office))[0]).toMatchObject({ status: 'serving', drift: [] });
  });

  it('switches a host off and ends its sessions; doing it again changes nothing', async () => {
    const [first] = await hostsOf(office);
    expect((await change(office, [first?.id ?? ''], 'power-off')).status).toBe(201);
    await world.living.untilQuiet();
    expect((await hostsOf(office))[0]).toMatchObject({ status: 'off', present: 'off', wantedPower: 'off' });
    const again = await change(office, [first?.id ?? ''], 'power-off');
    expect(again.status).toBe(422);
    expect(again.body.detail).toBe('Nothing to do: it is as wanted already');
    expect((await world.port().allSessions()).sessions.filter((one) => one.host === first?.ref)).toEqual([]);
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

  it('says what is wrong with a change that cannot be, beside its field', async () => {
    const [first] = await hostsOf(office);
    const cases: readonly [object, string][] = [
      [{ hosts: [] }, 'input.hosts'],
      [{ hosts: [first?.id, first?.id] }, 'input.hosts.1'],
      [{ hosts: [first?.id, 'nobody'] }, 'hosts'],
      [{ hosts: ['nobody'] }, 'hosts'],
      [{}, 'input.hosts'],
    ];
    for (const [input, field] of cases) {
      const { body } = await world.call(
        'ida',
        'POST',
        `${changePath('SVG', 'drain', office.environment)}/proposal`,
        { body: { input } },
      );
      const said = body.fields ?? (body.proposal as unknown as { refused: object }).refused;
      expect([input, Object.keys(said as object)]).toEqual([input, [field]]);
    }
    const refused = await change(office, ['nobody'], 'drain');
    expect(refused.status).toBe(422);
    expect(refused.body.fields).toEqual({
      'input.hosts': 'one of them is not a host of this environment',
    });
    expect((await hostsOf(office)).every((host) => host.wantedAccepting)).toBe(true);
    expect((await world.call('ida', 'POST', changePath('SVG', 'explode', office.environment))).status).toBe(
      404,
    );
  });

  it('refuses to change a host that someone else has changed since it was proposed', async () => {
    const [first] = await hostsOf(office);
    const path = changePath('SVG', 'power-off', office.environment);
    const input = { hosts: [first?.id] };
    const proposed = await world.call('bram', 'POST', `${path}/proposal`, { body: { input } });
    await change(office, [first?.id ?? ''], 'drain');
    const late = await world.call('bram', 'POST', path, {
      body: { input, fingerprint: proposed.body.fingerprint, reason: '' },
    });
    expect(late.status).toBe(409);
    expect(late.body).toMatchObject({ type: 'urn:laager:problem:changed', proposal: { kind: 'power-off' } });
    expect((await hostsOf(office))[0]?.wantedPower).toBe('on');
    await change(office, [first?.id ?? ''], 'put-back');
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
    await world.living.job('feed');
    await world.living.job('ground');
    expect((await hostsOf(office))[0]).toMatchObject({ status: 'unwell', drift: ['does not answer'] });
    expect(await hours()).toBe(0);
    const sites = (await world.call('ida', 'GET', '/sites')).body.sites as {
      nodes: { id: string; state: string }[];
    }[];
    expect(sites.flatMap((site) => site.nodes).find((node) => node.id === first?.node)?.state).toBe('lost');
    await world.living.job('signs');
    await world.living.job('summary');
    const { looks } = (await world.call('ida', 'GET', '/watch')).body;
    expect((looks as Look[]).map((one) => one.says).join()).toContain(`Node ${first?.node ?? ''} is lost`);
    await world.living.faults([]);
    await world.living.job('signs');
    await world.living.job('feed');
    await world.living.job('ground');
    expect((await hostsOf(office))[0]).toMatchObject({ status: 'serving', drift: [] });
    expect(await hours()).toBe(1);
  });

  it('does not place hosts on a lost node', async () => {
    await world.living.faults([{ kind: 'lose-node', target: 'kq-b1' }]);
    await world.living.job('ground');
    const nodes = await proposedNodes('SVG', 'spare', 60);
    expect(nodes.length).toBeGreaterThan(5);
    expect(nodes).not.toContain('kq-b1');
    await world.living.faults([]);
    await world.living.job('ground');
  });

  it('keeps a second environment’s names, addresses and network apart from the first’s', async () => {
    const front = await provisionFor(world, 'SVG', 'front', 16, 'KQ');
    const [one, two] = [await hostsOf(office), await hostsOf(front)];
    const all = [...one, ...two];
    expect(new Set(all.map((host) => host.name)).size).toBe(all.length);
    expect(new Set(all.map((host) => host.address)).size).toBe(all.length);
    const networks = (await world.port().resources({ customer: 'SVG' })).filter(
      (seen) => seen.kind === 'network',
    );
    expect(networks).toHaveLength(1);
    // Retiring one leaves the network to the other.
    await retire(front);
    await world.living.untilQuiet();
    const proof = (await world.call('ida', 'GET', at(front, '/proof'))).body;
    expect(proof).toMatchObject({
      clean: true,
      returned: {
        values: [
          { space: 'network', returned: false },
          { space: 'subnet', returned: true },
          { space: 'address' },
        ],
      },
    });
    expect((await world.port().resource(networks[0]?.ref ?? ''))?.state).toBe('ready');
    expect((await hostsOf(office)).every((host) => host.status === 'serving')).toBe(true);
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
    const nodes = new Set(await proposedNodes('CAO', 'assay', 31));
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
    expect((await hostsOf(half)).map((host) => host.status)).toContain('missing');
    expect((await retire(half)).status).toBe(201);
    await world.living.untilQuiet();
    expect(await present(half)).toEqual([]);
    // What its run had left is not wanted any more: it has ended, and nobody is asked to look at it.
    const ended = (await world.call('ida', 'GET', `/customers/SVG/runs/${half.run}`)).body;
    expect(ended).toMatchObject({ state: 'done', cause: null, endedAt: expect.any(Number) });
    const left = (ended.graph as { state: string; says: string }[]).filter(
      (step) => step.state === 'overtaken',
    );
    expect(left.length).toBeGreaterThan(2);
    expect(left.map((step) => step.says)).toContain('"Retire half" does it');
    expect(left.some((step) => /failed|broke|not/.test(step.says))).toBe(true);
    const watched = (await world.call('ida', 'GET', '/watch')).body.runs as { id: string }[];
    expect(watched.map((run) => run.id)).not.toContain(half.run);
  });

  it('finds again by its tags what was made when nobody could note it', async () => {
    const lost = await provisionFor(world, 'SVG', 'lost', 8, 'KQ');
    // As if the machine had died between the provider's answer and our note of it.
    await world.app.db.write(
      "UPDATE resource SET ref = NULL WHERE environment_id = ? AND kind IN ('host','share')",
      [lost.environment],
    );
    await retire(lost);
    await world.living.untilQuiet();
    expect((await world.call('ida', 'GET', at(lost))).body.state).toBe('retired');
    expect(await present(lost)).toEqual([]);
  });

  it('takes away with it what carries its tag, though nobody ever noted it', async () => {
    const stray = await provisionFor(world, 'SVG', 'stray', 8, 'KQ');
    await world.port().make(
      {
        kind: 'share',
        site: 'KQ',
        name: 'by hand',
        attributes: { gib: 5 },
        tags: { customer: 'SVG', environment: stray.environment, resource: 'nobody' },
      },
      'by hand',
    );
    await minutes(10);
    await world.living.job('feed');
    expect((await world.call('ida', 'GET', at(stray, '/differences'))).body.differences).toMatchObject([
      { name: 'by hand', what: 'extra', takeable: false },
    ]);
    await retire(stray);
    await world.living.untilQuiet();
    const proof = (await world.call('ida', 'GET', at(stray, '/proof'))).body;
    expect(proof.clean).toBe(true);
    expect(proof.rows).toContainEqual(expect.objectContaining({ name: 'by hand', says: 'gone' }));
  });

  it('counts a host that nobody asked for as taking room, as the provider does', async () => {
    const used = async (): Promise<number> => {
      const path = '/customers/SVG/facts?site=KQ&template=shared-office';
      const { site } = (await world.call('ida', 'GET', path)).body as unknown as {
        site: { present: { memoryGiB: number }[] };
      };
      return site.present.reduce((sum, one) => sum + one.memoryGiB, 0);
    };
    const before = await used();
    await world.port().make(
      {
        kind: 'host',
        site: 'KQ',
        name: 'NOBODYS-01',
        attributes: { size: 's16x64', image: 'Ostrel 12', diskGiB: 64, node: 'kq-b1', power: 'on' },
        tags: { customer: 'HSB', environment: 'none', resource: 'none' },
      },
      'stray host',
    );
    await minutes(10);
    await world.living.job('feed');
    expect(await used()).toBe(before + 64);
  });

  it('does not call it proven while something is left, or cannot be asked', async () => {
    const stuck = await provisionFor(world, 'SVG', 'stuck', 8, 'KQ');
    await world.app.directory.join('svg.example', 'SVG-STUCK01');
    const scope = await world.inside('SVG');
    expect((await proofOf(world.app, scope, stuck.environment)).clean).toBe(false);
    await retire(stuck);
    await world.living.untilQuiet();
    expect((await proofOf(world.app, scope, stuck.environment)).clean).toBe(true);
    // What comes back afterwards is told.
    await world.app.directory.join('svg.example', 'SVG-STUCK01');
    expect(await proofOf(world.app, scope, stuck.environment)).toMatchObject({
      clean: false,
      returned: { stillInDirectory: ['SVG-STUCK01'] },
    });
    await world.app.directory.leave('svg.example', 'SVG-STUCK01');
    const noDirectory = { ...world.app, directory: httpDirectory('http://127.0.0.1:9', '') };
    expect(await proofOf(noDirectory, scope, stuck.environment)).toMatchObject({
      clean: false,
      returned: { directory: { worked: false, says: 'directory does not answer' } },
    });
    const port = httpProvider({ code: 'gone', url: 'http://127.0.0.1:9', account: 'a', secret: 'b' });
    const at_ = async () => ({ ...(await world.app.providers.at('KQ')), port });
    const asked = await proofOf(
      { ...world.app, providers: { ...world.app.providers, at: at_ } },
      scope,
      stuck.environment,
    );
    expect(asked.clean).toBe(false);
    expect(asked.rows.every((row) => row.says === 'could not be asked')).toBe(true);
  });

  it('writes a mistake of ours to the step that met it, tries it again, and goes on', async () => {
    const { run } = await begin(world, 'SVG', 'provision', wish('clumsy', 6));
    const mistaken = (): never => {
      throw new TypeError('a mistake of ours');
    };
    const at_ = async () => {
      const provider = await world.app.providers.at('KQ');
      return { ...provider, port: { ...provider.port, resource: mistaken, make: mistaken } };
    };
    const clumsy = { ...world.app, providers: { ...world.app.providers, at: at_ } };
    expect(await advance(clumsy)).toBe(true);
    const met = await world.app.db.row<{ attempt: number; says: string; state: string }>(
      "SELECT attempt, says, state FROM step WHERE run_id = ? AND state = 'working'",
      [run],
    );
    expect(met).toEqual({ attempt: 1, says: 'broke: a mistake of ours', state: 'working' });
    await world.living.untilQuiet();
    expect((await world.call('ida', 'GET', `/customers/SVG/runs/${run}`)).body.state).toBe('done');
  });

  it('writes to the people once, however often the step is taken', async () => {
    const mailed = await world.app.db
      .rows<{ n: number }>('SELECT COUNT(*) AS n FROM environments_mail.message')
      .catch(() => []);
    expect(mailed[0]?.n).toBeGreaterThan(0);
    // One that was retired before anybody was ever in writes to nobody.
    const told = await world.app.db.rows(
      "SELECT DISTINCT run_id FROM step WHERE action = 'warn' AND says LIKE '% people were written to'",
    );
    expect(mailed[0]?.n).toBe(told.length);
  });
});
