import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { LiveEvent } from '../../src/server/live';
import { tell } from '../../src/server/live';
import { ROUTES } from '../../src/server/http';
import { openWorld, provisionFor, type Made, type World } from './setup/world';

/** Two customers with like-named environments and pools: FPS, whom Jonah reaches, and MHP, whom he does not. */
describe('customers are kept apart', () => {
  let world: World;
  let fps: Made;
  let mhp: Made;

  beforeAll(async () => {
    world = await openWorld('apart');
    fps = await provisionFor(world, 'FPS', 'office', 12, 'KQ');
    mhp = await provisionFor(world, 'MHP', 'office', 12, 'KQ');
    await world.living.moveTo(world.clock.at + 3_600_000);
    for (const duty of ['sessions', 'tally']) await world.living.duty(duty);
  });
  afterAll(() => world.close());

  const filled = (path: string, customer: string, made: Made): string =>
    path
      .replace('{customer}', customer)
      .replace('{environment}', made.environment)
      .replace('{run}', made.run);

  /** A body that would be taken if one might: so that a 404 is not for a badly written request. */
  const bodies: Readonly<Record<string, unknown>> = {
    '/customers/{customer}/proposals': {
      environment: 'x',
      people: 1,
      profile: 'light',
      template: 'shared-office',
      site: 'KQ',
    },
    '/customers/{customer}/environments': {
      environment: 'x',
      people: 1,
      profile: 'light',
      template: 'shared-office',
      site: 'KQ',
      stamp: 'x',
    },
    '/customers/{customer}/environments/{environment}/changes': { hosts: [{ id: 'x' }], change: 'drain' },
    '/customers/{customer}/environments/{environment}/retirement': { code: 'MHP' },
  };

  const inside = ROUTES.filter((route) => route.path.includes('{customer}'));

  it('walks every route that is inside a customer', () => expect(inside.length).toBeGreaterThan(18));

  it.each(inside.map((route) => [route.method, route.path]))(
    '%s %s is not there for who does not reach the customer',
    async (method, path) => {
      const options = path.endsWith('/import')
        ? { csv: 'account,given,family,mail\nx,X,X,x@x.example' }
        : method === 'POST'
          ? { body: bodies[path] ?? {} }
          : {};
      const query = path.endsWith('/ground') ? '?site=KQ' : '';
      const { status, text } = await world.call('jonah', method, filled(path, 'MHP', mhp) + query, options);
      expect(status).toBe(404);
      expect(text).not.toContain('Marram');
      const nobody = await world.call('jonah', method, filled(path, 'ZZZ', mhp) + query, options);
      expect(nobody.text).toBe(text);
    },
  );

  it.each(
    inside
      .filter((route) => /\{(environment|run)\}/.test(route.path))
      .map((route) => [route.method, route.path]),
  )('%s %s does not find another customer’s thing by its id', async (method, path) => {
    const body = path.endsWith('/retirement') ? { code: 'FPS' } : bodies[path];
    const { status, text } = await world.call(
      'ida',
      method,
      filled(path, 'FPS', mhp),
      method === 'POST' && body !== undefined ? { body } : {},
    );
    expect(status).toBe(404);
    expect(text).not.toContain('MHP');
  });

  it('does not let a host of another customer be changed from inside one', async () => {
    const hosts = await world.app.db.rows<{ id: string }>(
      'SELECT h.id FROM host h JOIN pool p ON p.id = h.pool_id WHERE p.environment_id = ?',
      [mhp.environment],
    );
    const { status } = await world.call(
      'ida',
      'POST',
      `/customers/FPS/environments/${fps.environment}/changes`,
      {
        body: { hosts: hosts.map(({ id }) => ({ id })), change: 'power-off' },
      },
    );
    expect(status).toBe(404);
    const off = await world.app.db.row<{ n: number }>(
      "SELECT COUNT(*) AS n FROM host WHERE wanted_power = 'off'",
    );
    expect(off?.n).toBe(0);
  });

  it.each([
    '/customers',
    '/watch',
    '/runs',
    '/sessions',
    '/trail',
    '/search?text=office',
    '/search?text=MHP',
    '/sites',
    '/templates',
  ])('%s shows only what is in reach', async (path) => {
    const own = await world.call('jonah', 'GET', path);
    expect(own.status).toBe(200);
    expect(own.text).not.toMatch(/MHP|mhp\.example|Marram/);
    expect(own.text).not.toContain(mhp.environment);
    expect(own.text).not.toContain(mhp.run);
  });

  it.each([
    '/customers/FPS/people.csv',
    '/customers/FPS/charges.csv',
    '/customers/FPS/costs',
    '/customers/FPS/sessions',
    '/customers/FPS/trail',
    '/customers/FPS/runs',
    '/customers/FPS/environments',
    '/customers/FPS/ground?site=KQ',
  ])('%s of one customer holds nothing of the other', async (path) => {
    const { status, text } = await world.call('ida', 'GET', path);
    expect(status).toBe(200);
    expect(text).not.toMatch(/MHP|mhp\.example|Marram/);
    expect(text).not.toContain(mhp.environment);
  });

  it.each(['/sites', '/customers/SVG/ground?site=KQ'])(
    '%s does not say whose a dedicated node is out of reach',
    async (path) => {
      const { text } = await world.call('jonah', 'GET', path);
      expect(text).toContain('another customer');
      expect(text).not.toContain('CAO');
    },
  );

  it('tells each listener only of what is in reach, and inside a customer only of that one', async () => {
    const ids = async (code: string): Promise<string> => (await world.inside(code)).customer.id;
    const [fpsId, mhpId] = [await ids('FPS'), await ids('MHP')];
    const heard: Record<string, LiveEvent[]> = { jonah: [], ida: [], insideFps: [] };
    const ends = [
      await world.app.live.listen(await world.scope('jonah'), undefined, (event) => heard.jonah?.push(event)),
      await world.app.live.listen(await world.scope('ida'), undefined, (event) => heard.ida?.push(event)),
      await world.app.live.listen(await world.scope('ida'), fpsId, (event) => heard.insideFps?.push(event)),
    ];
    for (const id of [fpsId, mhpId]) await tell(world.app.db, id, 'run', `of ${id}`, world.clock.at);
    await tell(world.app.db, null, 'clock', 'clock', world.clock.at);
    await expect.poll(() => heard.ida?.length, { timeout: 5_000 }).toBe(3);
    expect(heard.jonah?.map((event) => event.customer_id)).toEqual([fpsId, null]);
    expect(heard.insideFps?.map((event) => event.customer_id)).toEqual([fpsId, null]);
    for (const end of ends) end();
  });

  it('has a database that refuses rows across customers', async () => {
    const { customer } = await world.inside('FPS');
    const insert = world.app.db.write(
      `INSERT INTO pool (customer_id, id, environment_id, network_id, name, image, size, seats, arrival, disk_gib, subnet_cidr, share_gib, items)
       SELECT ?, 'forged', environment_id, network_id, name, image, size, seats, arrival, disk_gib, subnet_cidr, share_gib, items
       FROM pool WHERE environment_id = ?`,
      [customer.id, mhp.environment],
    );
    await expect(insert).rejects.toMatchObject({ errno: 1452 });
  });

  it('does not believe tags that name one customer and another’s environment', async () => {
    await world.app.provider.begin(
      {
        do: 'make share',
        site: 'KQ',
        name: 'forged',
        gib: 1000,
        tags: { customer: 'FPS', environment: mhp.environment, pool: 'x' },
      },
      'forged',
    );
    await world.living.moveTo(world.clock.at + 600_000);
    await world.living.duty('feed');
    const observed = await world.app.db.row<{ environment_id: string | null }>(
      "SELECT environment_id FROM observed WHERE name = 'forged'",
    );
    expect(observed).toEqual({ environment_id: null });
    const metered = await world.app.db.row<{ n: number }>(
      'SELECT COUNT(*) AS n FROM meter_interval WHERE quantity = 1000',
    );
    expect(metered?.n).toBe(0);
  });

  it('keeps every customer’s table by customer_id, and refers by both columns', async () => {
    const tables = await world.app.db.rows<{ name: string; keyed: number }>(
      `SELECT c.TABLE_NAME AS name, EXISTS (SELECT 1 FROM information_schema.STATISTICS s WHERE s.TABLE_SCHEMA = DATABASE()
         AND s.TABLE_NAME = c.TABLE_NAME AND s.NON_UNIQUE = 0 AND s.SEQ_IN_INDEX = 1 AND s.COLUMN_NAME = 'customer_id') AS keyed
       FROM information_schema.COLUMNS c WHERE c.TABLE_SCHEMA = DATABASE() AND c.COLUMN_NAME = 'customer_id' AND c.IS_NULLABLE = 'NO'`,
    );
    const owned = tables.filter((table) => table.name !== 'operator_customer');
    expect(owned.length).toBeGreaterThan(12);
    expect(owned.filter((table) => table.keyed !== 1)).toEqual([]);
    const single = await world.app.db.rows<{ name: string }>(
      `SELECT k.TABLE_NAME AS name FROM information_schema.KEY_COLUMN_USAGE k
       WHERE k.TABLE_SCHEMA = DATABASE() AND k.REFERENCED_TABLE_NAME IN ('environment','pool','host','run','step','network','observed')
       GROUP BY k.CONSTRAINT_NAME, k.TABLE_NAME HAVING SUM(k.COLUMN_NAME = 'customer_id') = 0`,
    );
    expect(single).toEqual([]);
  });
});
