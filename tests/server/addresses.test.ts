import ipaddr from 'ipaddr.js';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AddressRange } from '../../src/contract';
import { begin, openWorld, provisionFor, type Called, type World } from './setup/world';

/** Ranges, blocks and what is kept clear. */
describe('addresses', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('addresses');
    await provisionFor(world, 'MHP', 'tower', 4, 'KQ');
    await provisionFor(world, 'FPS', 'office', 4, 'KQ');
  });
  afterAll(() => world.close());

  const lead = (method: string, path: string, body?: object): Promise<Called> =>
    world.call('bram', method, path, body ? { body } : {});
  const rangesOf = async (site: string, who: 'bram' | 'jonah' = 'bram') =>
    ((await world.call(who, 'GET', '/addresses')).body.ranges as readonly AddressRange[]).filter(
      (one) => one.site === site,
    );
  const blockOf = async (customer: string): Promise<string> => {
    const [range] = await rangesOf('KQ');
    return range?.given.find((one) => one.customer === customer)?.cidr ?? '';
  };
  const within = (inner: string, outer: string): boolean =>
    ipaddr.parse(inner.split('/')[0] ?? '').match(ipaddr.parseCIDR(outer)) &&
    Number(inner.split('/')[1]) >= Number(outer.split('/')[1]);

  it.each([
    ['10.16.64.0/20', 'overlaps 10.16.0.0/12 of KQ'],
    ['8.8.8.0/24', 'is not private (RFC 1918)'],
    ['10.64.0.1/16', '10.64.0.1/16 is not aligned: its base is not a multiple of its size'],
    ['nothing', '"nothing" is not a block: write it like 10.20.0.0/16'],
  ])('are no range of %s: %s', async (cidr, says) => {
    const { status, body } = await lead('POST', '/sites/TF/ranges', { cidr });
    expect([status, body.fields]).toEqual([422, { cidr: says }]);
  });

  it('of a range that nobody has a block of are made larger, closed, opened and taken away', async () => {
    await lead('POST', '/sites/TF/ranges', { cidr: '10.64.0.0/16' });
    const change = (body: object) => lead('PUT', '/sites/TF/ranges', { cidr: '10.64.0.0/16', ...body });
    expect((await change({ becomes: '10.80.0.0/15' })).body.fields).toEqual({
      becomes: 'does not hold all of 10.64.0.0/16',
    });
    expect((await change({ becomes: '10.0.0.0/9' })).body.fields).toEqual({
      becomes: expect.stringMatching(/^overlaps 10\.\d+\.0\.0\/12 of /),
    });
    expect((await change({ becomes: '10.64.0.0/14', closed: true })).body).toEqual({
      site: 'TF',
      cidr: '10.64.0.0/14',
    });
    const larger = (await rangesOf('TF')).find((one) => one.cidr === '10.64.0.0/14');
    expect(larger).toMatchObject({ closed: true, full: 0 });
    expect((await change({})).status).toBe(404);
    expect((await lead('DELETE', '/sites/TF/ranges?cidr=10.64.0.0/14')).status).toBe(204);
    expect((await rangesOf('TF')).map((one) => one.cidr)).toEqual(['10.32.0.0/12']);
    const given = await lead('DELETE', '/sites/KQ/ranges?cidr=10.16.0.0/12');
    expect([given.status, given.body.detail]).toEqual([409, '2 blocks of it are given. Close it.']);
  });

  it('of a closed range are given to nobody', async () => {
    await lead('PUT', '/sites/TF/ranges', { cidr: '10.32.0.0/12', closed: true });
    const input = { environment: 'x', template: 'shared-office', site: 'TF', people: 4 };
    const { body } = await lead('POST', '/customers/SVG/changes/provision/proposal', { input });
    const { checks } = body.proposal as unknown as { checks: { key: string; state: string; says: string }[] };
    expect(checks.find((one) => one.key === 'addresses')?.state).toBe('blocks');
    await lead('PUT', '/sites/TF/ranges', { cidr: '10.32.0.0/12', closed: false });
  });

  it('in use elsewhere are kept clear: nothing is given of them, and no range made over them', async () => {
    const keep = (cidr: string) => lead('POST', '/addresses/kept', { cidr, name: 'MHP, the pilot house' });
    expect((await keep(await blockOf('MHP'))).body.fields).toEqual({
      cidr: `overlaps ${await blockOf('MHP')} of MHP`,
    });
    expect((await keep('10.48.0.0/13')).status).toBe(201);
    expect((await keep('10.52.0.0/16')).body.fields).toEqual({
      cidr: 'overlaps 10.48.0.0/13 of MHP, the pilot house',
    });
    await provisionFor(world, 'QFB', 'bench', 4, 'NL');
    const [northern] = await rangesOf('NL');
    expect(northern?.kept).toEqual([{ cidr: '10.48.0.0/13', name: 'MHP, the pilot house' }]);
    expect(within(northern?.given[0]?.cidr ?? '', '10.56.0.0/13')).toBe(true);
    expect((await keep('192.168.0.0/24')).status).toBe(201);
    const range = await lead('POST', '/sites/TF/ranges', { cidr: '192.168.0.0/16' });
    expect(range.body.fields).toEqual({ cidr: 'overlaps 192.168.0.0/24 of MHP, the pilot house' });
    expect((await lead('DELETE', '/addresses/kept?cidr=192.168.0.0/24')).status).toBe(204);
    expect((await lead('DELETE', '/addresses/kept?cidr=192.168.0.0/24')).status).toBe(404);
  });

  it('of a block grow where it lies, when what is beside it is free; its network follows with the next change', async () => {
    const grow = (customer: string) => world.call('ida', 'POST', `/customers/${customer}/blocks/KQ/larger`);
    // The two came one after the other, and lie side by side.
    const inTheWay = await grow('MHP');
    expect([inTheWay.status, inTheWay.body.detail]).toEqual([
      409,
      `The addresses beside ${await blockOf('MHP')} are given, kept clear, or not of the range.`,
    ]);
    await provisionFor(world, 'SVG', 'clinic', 4, 'KQ');
    const before = await blockOf('SVG');
    const grown = await grow('SVG');
    expect(grown.status).toBe(201);
    const after = String(grown.body.cidr);
    expect([within(before, after), after.endsWith('/19')]).toEqual([true, true]);
    for (const other of ['MHP', 'FPS']) expect(within(await blockOf(other), after)).toBe(false);
    const { body } = await world.call('ida', 'GET', '/customers/SVG/environments');
    const [{ id }] = body.entries as [{ id: string }];
    await begin(world, 'SVG', 'add-hosts', { pool: 'desks', hosts: 1 }, { environment: id });
    await world.living.untilQuiet();
    const resources = await world.port().resources({ customer: 'SVG' });
    const network = resources.filter((one) => one.kind === 'network');
    expect(network.map((one) => [one.attributes.cidr, one.state])).toEqual([[after, 'ready']]);
    // In place: nobody's host was made anew for it.
    const drift = await world.call('ida', 'GET', `/customers/SVG/environments/${id}/differences`);
    expect(drift.body.entries ?? drift.body.differences).toEqual([]);
  });

  it('are told to who does not reach their holder only as a number, on refusals too', async () => {
    const { text } = await world.call('jonah', 'POST', '/customers/FPS/blocks/KQ/larger');
    expect(text).not.toContain('MHP');
    expect(text).not.toContain((await blockOf('MHP')).split('/')[0]);
    expect((await world.call('jonah', 'POST', '/customers/MHP/blocks/KQ/larger')).status).toBe(404);
    expect(await rangesOf('KQ', 'jonah')).toMatchObject([{ others: 1 }]);
  });

  it('kept clear are told without whose they are to who does not reach every customer', async () => {
    const { text, body } = await world.call('jonah', 'GET', '/addresses');
    expect(body.kept).toEqual([{ cidr: '10.48.0.0/13', name: 'in use elsewhere' }]);
    expect(text).not.toContain('pilot house');
  });

  it('are given to each of two who ask at the same moment, and never twice', async () => {
    const input = { environment: 'y', template: 'shared-office', site: 'TF', people: 4 };
    const begins = async (customer: string) => {
      const path = `/customers/${customer}/changes/provision`;
      const { body } = await lead('POST', `${path}/proposal`, { input });
      return () => lead('POST', path, { input, fingerprint: body.fingerprint, reason: '' });
    };
    const asks = [await begins('HSB'), await begins('WAP')];
    const said = await Promise.all(asks.map((ask) => ask()));
    // Who proposed the block that the other got is told so, and sees the new proposal.
    expect(said.map(({ status }) => status).sort()).toEqual([201, 409]);
    const [range] = await rangesOf('TF');
    expect(range?.given).toHaveLength(1);
  });
});
