import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { MSP } from '../../src/server/access';
import { insertMany, newId } from '../../src/server/db';
import { makeToken } from '../../src/server/sign-in';
import { begin, openWorld, provisionFor, type Made, type World, withoutIds } from './setup/world';

/** Lists, search and tokens: none, one, many; in order, without gap or double. */
describe('lists', () => {
  let world: World;
  let made: Made;
  beforeAll(async () => {
    world = await openWorld('lists');
    made = await provisionFor(world, 'SVG', 'office', 10, 'KQ');
  });
  afterAll(() => world.close());

  const all = async (path: string, limit: number): Promise<{ id: string }[]> => {
    const found: { id: string }[] = [];
    for (let after = ''; ;) {
      const { body, status } = await world.call(
        'ida',
        'GET',
        `${path}?limit=${limit}${after === '' ? '' : `&after=${after}`}`,
      );
      expect(status).toBe(200);
      found.push(...(body.entries as { id: string }[]));
      if (typeof body.next !== 'string') return found;
      after = body.next;
    }
  };

  it('are empty where there is nothing', async () => {
    for (const part of ['environments', 'runs', 'sessions', 'people']) {
      const { body } = await world.call('ida', 'GET', `/customers/WAP/${part}`);
      expect([part, body.entries, body.next]).toEqual([part, [], null]);
    }
  });

  it('page through the trail, newest first, whatever the page’s size', async () => {
    const { customer } = await world.inside('SVG');
    await insertMany(
      world.app.db,
      'trail',
      ['id', 'customer_id', 'at', 'actor', 'actor_id', 'action', 'subject', 'reason'],
      Array.from({ length: 250 }, (_, i) => [
        newId(),
        customer.id,
        world.clock.at + i,
        'A test',
        'system',
        'count',
        `number ${i}`,
        '',
      ]),
    );
    const whole = await all('/customers/SVG/trail', 1000);
    expect(whole.length).toBeGreaterThan(250);
    expect(await all('/customers/SVG/trail', 33)).toEqual(whole);
    expect(whole.map((one) => one.id)).toEqual(
      whole
        .map((one) => one.id)
        .sort()
        .reverse(),
    );
    const { body } = await world.call('ida', 'GET', '/customers/SVG/trail?find=number%20249');
    expect(body.entries).toHaveLength(1);
  });

  it('page through hosts by name and runs by age', async () => {
    const path = `/customers/SVG/environments/${made.environment}/hosts`;
    const hosts = (await world.call('ida', 'GET', path)).body.entries as { id: string; name: string }[];
    expect(hosts.map((host) => host.name)).toEqual(hosts.map((host) => host.name).sort());
    expect((await all(path, 2)).map((one) => one.id)).toEqual(hosts.map((host) => host.id));
    for (let i = 0; i < 7; i++) {
      const kind = i % 2 === 0 ? 'drain' : 'put-back';
      await begin(world, 'SVG', kind, { hosts: [hosts[0]?.id] }, { environment: made.environment });
      await world.living.untilQuiet();
    }
    const runs = await all('/customers/SVG/runs', 3);
    expect(runs).toHaveLength(8);
    expect(await all('/runs', 1000)).toEqual(runs);
  });

  it('page through sessions, newest first, and find them by person and host', async () => {
    await world.living.moveTo(Date.UTC(2026, 10, 19, 10));
    await world.living.job('sessions');
    const whole = (await all('/sessions', 1000)) as unknown as { id: string; host: string; since: number }[];
    expect(whole.length).toBeGreaterThan(4);
    expect(whole.map((one) => one.since)).toEqual([...whole.map((one) => one.since)].sort((a, b) => b - a));
    expect(await all('/sessions', 2)).toEqual(whole);
    expect(await all('/customers/SVG/sessions', 3)).toEqual(whole);
    // People came at their own hours this morning, not when we looked.
    expect(new Set(whole.map((one) => one.since)).size).toBeGreaterThan(whole.length / 2);
    const [first] = whole;
    const found = (await world.call('ida', 'GET', `/sessions?find=${first?.host}`)).body.entries;
    expect(found).toEqual(whole.filter((one) => one.host === first?.host));
    expect((await world.call('ida', 'GET', '/sessions?after=nowhere')).body).toMatchObject({
      status: 400,
      fields: { after: expect.any(String) },
    });
    const count = (await world.call('ida', 'GET', '/sessions/count')).body.customers as {
      customer: string;
      active: number;
      idle: number;
    }[];
    expect(count.map((one) => [one.customer, one.active + one.idle])).toEqual([['SVG', whole.length]]);
  });

  it('find runs by title, reason and state', async () => {
    const found = async (text: string): Promise<number> =>
      (await world.call('ida', 'GET', `/customers/SVG/runs?find=${text}`)).body.entries.length;
    expect(await found('Provision')).toBe(1);
    expect(await found('a%20test')).toBe(8);
    expect(await found('done')).toBe(8);
    expect(await found('explode')).toBe(0);
  });

  it('name the environments of a template within one’s reach only', async () => {
    const mhp = await provisionFor(world, 'MHP', 'bridge', 6, 'KQ');
    const uses = async (who: 'ida' | 'jonah'): Promise<string[]> => {
      const { body } = await world.call(who, 'GET', '/templates/shared-office/environments');
      return (body.entries as { id: string }[]).map((one) => one.id);
    };
    expect(await uses('ida')).toEqual([mhp.environment, made.environment]);
    expect(await uses('jonah')).toEqual([made.environment]);
    expect((await world.call('ida', 'GET', '/templates/nothing/environments')).status).toBe(404);
  });

  it('show the address blocks of customers within one’s reach, and of others only how many they are', async () => {
    const given = async (who: 'ida' | 'jonah') =>
      (
        (await world.call(who, 'GET', '/addresses')).body.ranges as {
          site: string;
          given: { cidr: string; customer: string }[];
          full: number;
        }[]
      ).find((range) => range.site === 'KQ');
    expect((await given('ida'))?.given.map((one) => one.customer).sort()).toEqual(['MHP', 'SVG']);
    const limited = await world.call('jonah', 'GET', '/addresses');
    const foreign = (await given('ida'))?.given.find((one) => one.customer === 'MHP');
    expect(foreign?.cidr).toMatch(/\/20$/);
    expect(withoutIds(limited.text)).not.toContain('MHP');
    expect(limited.text).not.toContain(foreign?.cidr);
    expect(await given('jonah')).toMatchObject({ given: [{ customer: 'SVG' }], others: 1 });
    // Two /20 blocks of a /12: 2 × 4096 of 1,048,576 addresses.
    expect((await given('jonah'))?.full).toBe(2 / 256);
  });

  it('find customers, environments, hosts by name and address, and people', async () => {
    const find = async (text: string): Promise<string[]> => {
      const { body } = await world.call('ida', 'GET', `/search?text=${encodeURIComponent(text)}`);
      return (body.found as { kind: string; customer: string }[]).map((one) => `${one.kind} ${one.customer}`);
    };
    expect(await find('saltm')).toEqual(['customer SVG']);
    expect(await find('office')).toContain('environment SVG');
    expect(await find('SVG-OFFICE01')).toEqual(['host SVG']);
    expect(await find('10.16.0.4')).toContain('host SVG');
    expect((await find('tamsin')).some((one) => one.startsWith('person'))).toBe(true);
    expect(await find('   ')).toEqual([]);
    expect(await find('nothing like it')).toEqual([]);
  });

  it('find people in any order of words and without their accents, also in their sessions and under a new name', async () => {
    const sessions = async (find: string) =>
      (await world.call('ida', 'GET', `/sessions?find=${encodeURIComponent(find)}`)).body.entries as {
        account: string;
        host: string;
      }[];
    const [one] = await sessions('');
    const csv = `account,given,family,mail\r\n${one?.account},Zoë,Sørvåg,zoe@svg.example\r\n`;
    const imported = await world.call('ida', 'POST', '/customers/SVG/people/import?keep=all', { csv });
    expect(imported.body).toMatchObject({ changed: 1 });
    for (const text of ['Zoë Sørvåg', 'sorvag zoe', 'ZOE', `sørv ${one?.host}`])
      expect([text, await sessions(text)]).toMatchObject([text, [{ account: one?.account }]]);
    expect(await sessions('zoe nobody')).toEqual([]);
    for (const path of ['/customers/SVG/people?find=sorvag', '/search?text=sorvag%20zoe']) {
      const { body } = await world.call('ida', 'GET', path);
      expect([path, body.entries ?? body.found]).toMatchObject([path, [expect.anything()]]);
    }
    expect((await world.call('ida', 'GET', '/customers/MHP/sessions?find=zoe')).body.entries).toEqual([]);
  });

  it('take in a name of which one letter becomes eighteen, and the sessions of who has it', async () => {
    const { entries } = (await world.call('ida', 'GET', '/customers/SVG/sessions')).body as unknown as {
      entries: { account: string }[];
    };
    // U+FDFA, the longest of Unicode's compatibility decompositions.
    const long = '\ufdfa'.repeat(80);
    const csv = `account,given,family,mail\r\n${entries.at(-1)?.account},${long},${long},long@svg.example\r\n`;
    const { status, body } = await world.call('ida', 'POST', '/customers/SVG/people/import?keep=all', {
      csv,
    });
    expect([status, body]).toMatchObject([200, { kept: true, changed: 1 }]);
    const found = await world.call('ida', 'GET', `/customers/SVG/sessions?find=${entries.at(-1)?.account}`);
    expect(found.body.entries).toHaveLength(1);
  });

  it('show no session on what is nobody’s as a customer’s', async () => {
    const before = (await world.call('ida', 'GET', '/sessions?limit=1000')).body.entries.length;
    const [one] = await world.app.db.rows<{ provider_code: string; ref: string }>(
      "SELECT provider_code, ref FROM present_resource WHERE kind = 'host' LIMIT 1",
    );
    await world.app.db.write(
      `INSERT INTO present_resource (provider_code, ref, customer_id, kind, name, site_code, present_condition, attributes,
         provider_version, made_at, changed_at) VALUES (?, 'nobody', ?, 'host', 'NOBODYS', 'KQ', 'well', '{}', 1, 1, 1)`,
      [one?.provider_code ?? '', MSP.id],
    );
    await world.app.db.write(
      `INSERT INTO session (customer_id, id, provider_code, host_ref, account, state, since)
       VALUES (?, 'nobody', ?, 'nobody', 'x', 'active', 1)`,
      [MSP.id, one?.provider_code ?? ''],
    );
    expect((await world.call('ida', 'GET', '/sessions?limit=1000')).body.entries).toHaveLength(before);
  });

  it('links what it finds to where it is shown', async () => {
    const { body } = await world.call('ida', 'GET', '/search?text=SVG-OFFICE01');
    const { entries } = (
      await world.call('ida', 'GET', `/customers/SVG/environments/${made.environment}/hosts`)
    ).body;
    const [host] = (entries as { id: string; name: string }[]).filter(({ name }) => name === 'SVG-OFFICE01');
    expect(body.found).toMatchObject([{ href: `/customers/SVG/hosts/${host?.id ?? ''}` }]);
  });

  it('are not read with a token that has ended', async () => {
    const twoDaysAgo = world.clock.at - 2 * 86_400_000;
    const clock = { now: () => twoDaysAgo, wall: () => twoDaysAgo };
    const { token } = await makeToken({ ...world.app, clock }, await world.scope('ida'), {
      name: 'short',
      days: 1,
    });
    const { status } = await world.call('ida', 'GET', '/customers', {
      headers: { authorization: `Bearer ${token}` },
    });
    expect(status).toBe(401);
  });

  it('are read with a token that one made for oneself, in one’s own reach', async () => {
    const { status, body } = await world.callFromBrowser('jonah', 'POST', '/tokens', {
      body: { name: 'night job', days: 3 },
    });
    expect(status).toBe(201);
    const headers = { authorization: `Bearer ${String(body.token)}` };
    const { entries } = (await world.call('ida', 'GET', '/customers', { headers })).body;
    expect((entries as { code: string }[]).map((one) => one.code)).toEqual(['FPS', 'SVG']);
    const stored = await world.app.db.rows<{ token_hash: string }>(
      "SELECT token_hash FROM api_token WHERE name = 'night job'",
    );
    expect(stored[0]?.token_hash).not.toContain(String(body.token));
  });
});
