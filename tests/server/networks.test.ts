import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { JoinedNetwork, Networks, Watch } from '../../src/contract';
import { writeBlock } from '../../src/core/addressing';
import { MSP } from '../../src/server/access';
import { blockFor } from '../../src/server/sites';
import { begin, change, openWorld, type Made, type World } from './setup/world';

const MINUTE = 60_000;

/** The MSP's shared services at Kelp Quay, and two customers there with like-named environments. */
describe('networks joined with the shared services', () => {
  let world: World;
  let services: Made;
  let before: Made;
  const environments = new Map<string, string>();

  const provision = async (code: string): Promise<void> => {
    const input = { environment: 'office', people: 4, template: 'shared-office', site: 'KQ' };
    const made = await begin(world, code, 'provision', input);
    environments.set(code, made.environment);
    await world.living.untilQuiet();
  };
  const quiet = async (): Promise<void> => {
    await world.living.untilQuiet();
    await world.living.moveTo(world.clock.at + MINUTE);
  };
  const networks = async (who: 'ida' | 'jonah' = 'ida'): Promise<Networks> =>
    (await world.call(who, 'GET', '/ground/networks')).body as unknown as Networks;
  const networkOf = async (code: string): Promise<JoinedNetwork | undefined> =>
    (await networks()).networks.find((one) => one.customer === code);
  const routeOf = async (code: string): Promise<unknown> =>
    (await world.call('ida', 'GET', `/customers/${code}/networks/KQ/route`)).body.route;
  /** `done`, or what went wrong. */
  const runOf = async (code: string, { run }: Made): Promise<string> => {
    const { body } = await world.call('ida', 'GET', `/customers/${code}/runs/${run}`);
    const failed = (body.graph as { state: string; says: string }[]).filter((one) => one.state === 'failed');
    return failed[0]?.says ?? String(body.state);
  };
  /** A block that QFB would be given at Kelp Quay. */
  const inBlock = async (): Promise<{ cidr: string }> => {
    const { block } = await blockFor(world.app.db, await world.inside('QFB'), 'KQ');
    return { cidr: block ? writeBlock(block) : '' };
  };
  const present = async (code: string, kind: string) =>
    (await world.port().resources({ customer: code })).filter((one) => one.kind === kind);

  beforeAll(async () => {
    world = await openWorld('networks');
    const input = { environment: 'early', people: 4, template: 'shared-office', site: 'KQ' };
    before = await begin(world, 'CAO', 'provision', input, { who: 'bram' });
    await quiet();
    services = await begin(world, 'MSP', 'provide-services', { site: 'KQ' });
    await quiet();
    for (const code of ['FPS', 'MHP']) await provision(code);
    await world.living.moveTo(world.clock.at + MINUTE);
  });
  afterAll(() => world.close());

  it('are the MSP’s own, in a block of its own, and shown with what answers there', async () => {
    expect(await runOf('MSP', services)).toBe('done');
    const [site] = (await networks()).sites.filter((one) => one.site === 'KQ');
    expect(site?.services).toMatchObject({
      environment: services.environment,
      state: 'serving',
      nameServers: [expect.stringMatching(/^10\.16\./), expect.stringMatching(/^10\.16\./)],
    });
    const rows = await world.app.db.rows<{ customer_id: string }>(
      "SELECT DISTINCT customer_id FROM present_resource WHERE kind = 'services'",
    );
    expect(rows).toEqual([{ customer_id: MSP.id }]);
    const range = (await world.call('bram', 'GET', '/addresses')).body.ranges as { given: object[] }[];
    expect(JSON.stringify(range)).toContain(site?.services?.cidr);
  });

  it('are joined on both sides, and tried: name servers know the directory, which is reached', async () => {
    for (const code of ['FPS', 'MHP']) {
      expect(await networkOf(code)).toMatchObject({ out: 'stands', back: 'stands', differences: [] });
      const peerings = await present(code, 'peering');
      const [network] = await present(code, 'network');
      const [own] = (await world.port().resources({ customer: 'MSP' })).filter(
        (one) => one.kind === 'network',
      );
      expect(peerings.map(({ attributes: { network: near, peer } }) => [near, peer]).sort()).toEqual(
        [
          [network?.ref, own?.ref],
          [own?.ref, network?.ref],
        ].sort(),
      );
      expect(await routeOf(code)).toEqual({
        worked: true,
        says: expect.stringMatching(
          /^from 10\.16\..+, 2 name servers know .+, and its directory is reached$/,
        ),
      });
    }
  });

  it('lead from no customer to another', async () => {
    const [[fps], [mhp]] = [await present('FPS', 'network'), await present('MHP', 'host')];
    const asked = { to: String(mhp?.attributes.address) };
    expect(await world.port().probe(fps?.ref ?? '', asked)).toEqual({
      worked: false,
      says: `no way leads to ${asked.to}`,
    });
  });

  it('cannot be joined with another customer’s in the database either', async () => {
    const ids = await world.app.db.rows<{ customer_id: string; id: string }>(
      "SELECT r.customer_id, r.id FROM resource r JOIN customer c ON c.id = r.customer_id WHERE r.kind = 'network' AND c.code = 'FPS'",
    );
    const join = (customer: string, id: string): Promise<unknown> =>
      world.app.db.write(
        `UPDATE resource r JOIN customer c ON c.id = r.customer_id SET r.joins_customer_id = ?, r.joins_id = ?
         WHERE r.kind = 'peering' AND c.code = 'MHP'`,
        [customer, id],
      );
    const [{ customer_id: fps, id } = { customer_id: '', id: '' }] = ids;
    await expect(join(fps, id)).rejects.toThrow(/CONSTRAINT/);
    // Nor as if it were the MSP's: there is no such resource of its own.
    await expect(join(MSP.id, id)).rejects.toThrow(/foreign key/i);
  });

  it('that one side is missing of are shown, block what would be built on them, and are mended', async () => {
    const [broken] = (await present('MHP', 'peering')).filter((one) => one.name === 'services to MHP');
    await world.port().remove(broken?.ref ?? '', broken?.version ?? 0, 'by hand');
    await world.living.moveTo(world.clock.at + 10 * MINUTE);
    await world.living.job('feed');
    const shown = await networkOf('MHP');
    expect(shown).toMatchObject({
      out: 'stands',
      back: 'missing',
      differences: [{ key: 'peering:KQ:back', says: 'services to MHP: wanted, not there' }],
    });
    expect(await networkOf('FPS')).toMatchObject({ out: 'stands', back: 'stands' });
    await world.living.job('summary');
    const { customers } = (await world.call('ida', 'GET', '/watch')).body as unknown as Watch;
    expect(customers.flatMap((one) => one.attention.map(({ says }) => `${one.code} ${says}`))).toContain(
      'MHP services to MHP: wanted, not there',
    );
    expect(await routeOf('MHP')).toMatchObject({
      worked: false,
      says: expect.stringMatching(/no way leads back$/),
    });
    const environment = environments.get('MHP') ?? '';
    const more = await change(world, 'MHP', 'add-hosts', { pool: 'desks', hosts: 1 }, { environment });
    expect([more.status, more.body.detail]).toEqual([422, expect.stringMatching(/no way leads back/)]);
    const differences = shown?.differences.map(({ key }) => ({ key, how: 'as wanted' }));
    const mended = await begin(world, 'MHP', 'mend', { differences }, { environment });
    await quiet();
    expect(await runOf('MHP', mended)).toBe('done');
    expect(await networkOf('MHP')).toMatchObject({ back: 'stands', differences: [] });
    expect(await routeOf('MHP')).toMatchObject({ worked: true });
  });

  it('block name servers that nobody has; one that cannot be asked before is tried, corrected, and gone on with', async () => {
    const about = async (nameServers: string[]): Promise<void> => {
      const path = '/customers/QFB/about';
      const fixed = new Set(['code', 'state', 'plan', 'site', 'currency', 'card', 'blockPrefix']);
      const before = Object.entries((await world.call('ida', 'GET', path)).body).filter(
        ([field]) => !fixed.has(field),
      );
      const body = { ...Object.fromEntries(before), nameServers, reason: 'a test' };
      const { status, text } = await world.call('ida', 'PUT', path, { body });
      if (status !== 200) throw new Error(text);
    };
    const wish = { environment: 'office', people: 4, template: 'shared-office', site: 'KQ' };
    const [site] = (await networks()).sites.filter((one) => one.site === 'KQ');
    const nobodyThere = (site?.services?.cidr ?? '').replace(/\d+\/\d+$/, '200');
    await about([nobodyThere]);
    const blocked = await change(world, 'QFB', 'provision', wish);
    expect([blocked.status, blocked.body.detail]).toEqual([
      422,
      expect.stringContaining(`no name server answers at ${nobodyThere}`),
    ]);
    // At an address of another customer's nothing is asked, nor told: it is the same as one that nobody has.
    const host = String((await present('MHP', 'host'))[0]?.attributes.address);
    const said = async (address: string): Promise<unknown> => {
      await about([address]);
      const path = '/customers/QFB/changes/provision/proposal';
      const { body } = await world.call('ida', 'POST', path, { body: { input: wish } });
      const { checks } = body.proposal as unknown as { checks: { title: string }[] };
      return checks.find(({ title }) => title === 'Network');
    };
    expect(await said(host)).toMatchObject({
      state: 'warns',
      says: 'not tried: this makes or changes it first',
    });
    expect(await said(host)).toEqual(await said('10.99.0.53'));
    // Nor within their own block, where nobody else can ask: it is not said to be well, and the run finds out.
    const { cidr } = await inBlock();
    await about([`${cidr.split('.').slice(0, 3).join('.')}.250`]);
    const made = await begin(world, 'QFB', 'provision', wish);
    await quiet();
    expect(await runOf('QFB', made)).toMatch(/no name server answers at/);
    await about([]);
    const { environment } = made;
    const { differences } = (
      await world.call('ida', 'GET', `/customers/QFB/environments/${environment}/differences`)
    ).body as unknown as { differences: { key: string }[] };
    const mended = await begin(
      world,
      'QFB',
      'mend',
      { differences: differences.map(({ key }) => ({ key, how: 'as wanted' })) },
      { environment },
    );
    await quiet();
    await world.call('ida', 'POST', `/customers/QFB/runs/${made.run}/resume`);
    await quiet();
    await quiet();
    expect([await runOf('QFB', mended), await runOf('QFB', made)]).toEqual(['done', 'done']);
    expect(await routeOf('QFB')).toMatchObject({ worked: true });
    await begin(world, 'QFB', 'retire', {}, { environment });
    await quiet();
  });

  it('are told as broken when name servers were changed at the provider, and mended', async () => {
    const [network] = await present('FPS', 'network');
    await world.port().change(network?.ref ?? '', network?.version ?? 0, { nameServers: [] });
    await world.living.moveTo(world.clock.at + MINUTE);
    await world.living.job('feed');
    const [difference] = (await networkOf('FPS'))?.differences ?? [];
    expect(difference).toMatchObject({
      key: 'network:KQ',
      attribute: 'nameServers',
      says: expect.stringMatching(/^FPS network: asks no name server of ours, wanted 10\./),
    });
    const mending = { key: 'network:KQ', attribute: 'nameServers', how: 'as wanted' };
    await begin(
      world,
      'FPS',
      'mend',
      { differences: [mending] },
      { environment: environments.get('FPS') ?? '' },
    );
    await quiet();
    expect((await networkOf('FPS'))?.differences).toEqual([]);
  });

  it('of who was there before are joined by a change of their own', async () => {
    expect(await networkOf('CAO')).toMatchObject({ out: 'not asked for', back: 'not asked for' });
    expect(await routeOf('CAO')).toBeNull();
    const joined = await begin(world, 'CAO', 'join-services', {}, { environment: before.environment });
    await quiet();
    expect(await runOf('CAO', joined)).toBe('done');
    expect(await networkOf('CAO')).toMatchObject({ out: 'stands', back: 'stands', differences: [] });
    expect(await routeOf('CAO')).toMatchObject({ worked: true });
  });

  it('are told to nobody who does not reach the customer, and the MSP’s own to those who reach all', async () => {
    const seen = await networks('jonah');
    expect(seen.networks.map((one) => one.customer)).toEqual(['FPS']);
    const own = [
      ['GET', `/customers/MSP/environments/${services.environment}`],
      ['GET', '/customers/MSP/environments'],
      ['GET', `/customers/MSP/runs/${services.run}`],
      ['POST', '/customers/MSP/changes/provide-services/proposal'],
    ] as const;
    for (const [method, path] of own) {
      const asked = method === 'POST' ? { body: { input: { site: 'TF' } } } : {};
      expect([path, (await world.call('ida', method, path, asked)).status]).toEqual([path, 200]);
      expect([path, (await world.call('jonah', method, path, asked)).status]).toEqual([path, 404]);
    }
  });

  it.each([
    ['GET', '/customers/MSP'],
    ['GET', '/customers/MSP/plan'],
    ['GET', '/customers/MSP/costs'],
    ['GET', '/customers/MSP/people'],
    ['POST', '/customers/MSP/pause'],
    ['POST', '/customers/MSP/leave'],
    ['POST', '/customers/MSP/changes/provision/proposal'],
    ['POST', '/customers/FPS/changes/provide-services/proposal'],
  ])('%s %s is not there: the MSP is no customer, nor a customer the MSP', async (method, path) => {
    const body = {
      input: path.includes('services')
        ? { site: 'TF' }
        : { site: 'TF', environment: 'x', people: 1, template: 'shared-office' },
    };
    const asked = method === 'POST' ? { body } : {};
    expect((await world.call('bram', method, path, asked)).status).toBe(404);
  });

  it('stay as long as customers are joined with them, and go after the last of them', async () => {
    const retire = (code: string, environment: string) =>
      change(world, code, 'retire', {}, { environment, who: 'bram' });
    const refused = await retire('MSP', services.environment);
    expect([refused.status, refused.body.detail]).toEqual([
      422,
      expect.stringMatching(/^In use: 3 customers are joined with it/),
    ]);
    for (const [code, id] of [...environments, ['CAO', before.environment] as const]) {
      expect((await retire(code, id)).status).toBe(201);
      await quiet();
    }
    expect((await networks()).networks).toEqual([]);
    expect((await retire('MSP', services.environment)).status).toBe(201);
    await quiet();
    const left = await world.port().resources({ customer: 'MSP' });
    expect(left).toEqual([]);
    expect((await networks()).sites.map((one) => one.services)).toEqual([null, null, null]);
  });
});
