import { CHANGES } from '../../src/core/changes';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { peopleOf } from '../../src/demo/people';
import type { LiveEvent } from '../../src/server/live';
import { tell } from '../../src/server/live';
import { MSP } from '../../src/server/access';
import { makeCatalogue } from '../../src/server/catalogue';
import { routesOf } from '../../src/server/rooms';
import {
  change,
  holdFor,
  fillDirectory,
  linkDirectory,
  openWorld,
  provisionFor,
  type Made,
  type World,
  withoutIds,
} from './setup/world';

/** Two customers with like-named environments and pools: FPS, whom Jonah reaches, and MHP, whom he does not. */
const asksForCode = (kind: string): boolean =>
  CHANGES.find((one) => one.kind === kind)?.confirm === 'type the code';

describe('customers are kept apart', () => {
  let world: World;
  let fps: Made;
  let mhp: Made;
  /** What MHP's trail says of how its environment was made. */
  let entry: string;
  /** A proposal that is held for MHP; one of its people and of its groups. */
  let hold: string;
  let person: string;
  let group: string;

  beforeAll(async () => {
    world = await openWorld('apart');
    await fillDirectory(world, 'MHP', [{ ...peopleOf('MHP', 1)[0], unit: '', groups: ['Watch'] }]);
    await linkDirectory(world, 'MHP');
    fps = await provisionFor(world, 'FPS', 'office', 12, 'KQ');
    mhp = await provisionFor(world, 'MHP', 'office', 12, 'KQ');
    await world.living.moveTo(world.clock.at + 3_600_000);
    for (const job of ['sessions', 'summary']) await world.living.job(job);
    const { body } = await world.call('ida', 'GET', '/customers/MHP/trail?find=begin%20provision');
    entry = (body.entries as { id: string }[])[0]?.id ?? '';
    const idOf = async (path: string): Promise<string> =>
      ((await world.call('ida', 'GET', `/customers/MHP${path}`)).body.entries as { id: string }[])[0]?.id ??
      '';
    [person, group] = [await idOf('/people'), await idOf('/groups')];
    hold = await holdFor(world, 'MHP', 'add-hosts', { pool: 'desks', hosts: 1 }, mhp.environment);
  });
  afterAll(() => world.close());

  const filled = (path: string, customer: string, made: Made): string =>
    path
      .replace('{customer}', customer)
      .replace('{environment}', made.environment)
      .replace('{run}', made.run)
      .replace('{entry}', entry)
      .replace('{hold}', hold)
      .replace('{person}', person)
      .replace('{group}', group);

  /** A body that would be taken if one might: so that a 404 is not for a badly written request. */
  const inputs: Readonly<Record<string, object>> = {
    'follow-overrides': {},
    provision: { environment: 'x', people: 1, template: 'shared-office', site: 'KQ' },
    'add-hosts': { pool: 'desks', hosts: 1 },
    'take-hosts': { pool: 'desks', hosts: 1 },
    resize: { pool: 'desks', size: 's4x16' },
    'grow-disk': { pool: 'desks', diskGiB: 256 },
    mend: { differences: [{ key: 'host:desks:1', how: 'as wanted' }] },
    undo: { version: 1 },
    retire: {},
    'retire-pool': { pool: 'desks' },
    'drop-retained': { retained: ['x'.repeat(26)] },
    'join-services': {},
    'serve-certificate': {},
    'stock-shelf': { site: 'KQ', image: 'x', size: 's4x16', diskGiB: 64, hosts: 1, most: null },
    'change-stock': { hosts: 1, most: null },
    shelve: { server: 'x' },
    'provide-services': { site: 'KQ' },
    'follow-template': {},
    'grant-items': { add: [{ pool: 'desks', item: 'x', to: 'everyone' }] },
    'publish-items': { pool: 'desks', items: [{ name: 'x' }] },
    'assign-desktops': { pool: 'desks', people: ['x'] },
    'move-desktop': { host: 'x', person: 'x', data: 'kept' },
    'rebuild-desktops': { hosts: ['x'] },
    'keep-desktops': { hosts: ['x'] },
    'give-back': { hosts: ['x'] },
    'end-desktops': { hosts: ['x'], data: 'wiped', host: 'stays' },
    'drop-disks': { disks: ['x'] },
    'use-image': { pool: 'desks', image: 'x' },
    'new-image': {
      code: 'x',
      name: 'X',
      says: '',
      site: 'KQ',
      from: 'x',
      recipe: '',
      keep: 1,
      size: 's4x16',
      diskGiB: 64,
      licences: [],
    },
    'write-recipe': { recipe: 'steps: []' },
    'build-image': { note: 'x' },
    'go-on': { version: 1 },
    'end-build': { version: 1 },
    'make-current': { version: 1 },
    'drop-version': { version: 1 },
    'refresh-by-rule': { refresh: null },
    'copy-image': { version: 1, site: 'NL' },
  };
  const queryFor = (path: string): string =>
    path.endsWith('/facts')
      ? '?site=KQ&template=shared-office'
      : path.endsWith('/why')
        ? `?environment=${mhp.environment}&pool=desks&item=x`
        : '';
  const bodyFor = (path: string, code: string): object => {
    const kind = /\/changes\/([a-z-]+)/.exec(path)?.[1] ?? '';
    const input = inputs[kind] ?? { hosts: ['x'] };
    if (path.endsWith('/proposal')) return { input };
    if (path.endsWith('/hold')) return { input, fingerprint: 'x', reason: '', minutes: 60 };
    if (path.endsWith('/outlook')) return { add: [], take: [] };
    if (path.endsWith('/begin')) return { fingerprint: 'x', reason: '' };
    return { input, fingerprint: 'x', reason: '', ...(asksForCode(kind) ? { code } : {}) };
  };

  const sentTo = (method: string, path: string, code: string): object => {
    if (method !== 'POST') return {};
    if (path.endsWith('/import')) return { csv: 'account,given,family,mail\nx,X,X,x@x.example' };
    if (path.endsWith('/grants/file')) return { csv: 'pool,item,to,name\ndesks,x,everyone,' };
    return { body: bodyFor(path, code) };
  };

  const inside = routesOf(makeCatalogue()).filter((route) => route.path.includes('{customer}'));

  it('walks every route that is inside a customer', () => expect(inside.length).toBeGreaterThan(36));

  it.each(inside.map((route) => [route.method, route.path]))(
    '%s %s is not there for who does not reach the customer',
    async (method, path) => {
      const options = sentTo(method, path, 'MHP');
      const query = queryFor(path);
      const { status, text } = await world.call('jonah', method, filled(path, 'MHP', mhp) + query, options);
      expect(status).toBe(404);
      expect(text).not.toContain('Marram');
      const nobody = await world.call('jonah', method, filled(path, 'ZZZ', mhp) + query, options);
      expect(nobody.text).toBe(text);
    },
  );

  it.each(
    inside
      .filter((route) => /\{(environment|run|entry|hold|person|group)\}/.test(route.path))
      .map((route) => [route.method, route.path]),
  )('%s %s does not find another customer’s thing by its id', async (method, path) => {
    const { status, text } = await world.call(
      'bram',
      method,
      filled(path, 'FPS', mhp) + queryFor(path),
      sentTo(method, path, 'FPS'),
    );
    expect(status).toBe(404);
    expect(withoutIds(text)).not.toContain('MHP');
  });

  it('tells what stood before and after in whole to who reaches the customer, and to nobody else', async () => {
    for (const path of [`/trail/${entry}`, `/customers/MHP/trail/${entry}`]) {
      const whole = await world.call('ida', 'GET', path);
      expect(whole.status).toBe(200);
      expect(whole.body.isLong).toBe(false);
      expect(Object.keys(whole.body.after as object).length).toBeGreaterThan(5);
      expect((await world.call('jonah', 'GET', path)).status).toBe(404);
    }
    const listed = await world.call('ida', 'GET', '/customers/MHP/trail?find=begin%20provision');
    expect(listed.body.entries).toMatchObject([{ id: entry, isLong: true, before: null, after: null }]);
    const short = await world.call('ida', 'GET', '/trail?find=import%20people');
    expect((short.body.entries as { isLong: boolean }[]).every((one) => !one.isLong)).toBe(true);
  });

  it('does nothing for one customer that is sent from the page of another', async () => {
    const path = `/customers/FPS/environments/${fps.environment}/changes/power-off`;
    for (const route of [path, `${path}/proposal`, '/customers/FPS/pause', '/customers/FPS/people/import']) {
      const { status, body } = await world.call('ida', 'POST', route, {
        ...(route.endsWith('import')
          ? { csv: 'account,given,family,mail' }
          : { body: bodyFor(route, 'FPS') }),
        headers: { 'x-laager-focus': 'MHP' },
      });
      expect([route, status, body.detail]).toEqual([
        route,
        409,
        'This was sent from the page of MHP, and is for FPS: nothing was done.',
      ]);
    }
    const proposal = await world.call('ida', 'POST', `${path}/proposal`, {
      body: { input: { hosts: ['x'] } },
      headers: { 'x-laager-focus': 'FPS' },
    });
    expect(proposal.status).not.toBe(409);
    // Who does not reach the customer is told as little as ever.
    const foreign = await world.call('jonah', 'POST', '/customers/MHP/pause', {
      body: {},
      headers: { 'x-laager-focus': 'FPS' },
    });
    expect(foreign.status).toBe(404);
  });

  it('does not let a host of another customer be changed from inside one', async () => {
    const hosts = await world.app.db.rows<{ id: string }>(
      "SELECT id FROM resource WHERE environment_id = ? AND kind = 'host'",
      [mhp.environment],
    );
    const input = { hosts: hosts.map(({ id }) => id) };
    const refused = await change(world, 'FPS', 'power-off', input, { environment: fps.environment });
    expect(refused.status).toBe(422);
    expect(refused.body.fields).toEqual({ 'input.hosts': 'one of them is not a host of this environment' });
    const off = await world.app.db.row<{ n: number }>(
      "SELECT COUNT(*) AS n FROM resource WHERE JSON_VALUE(attributes, '$.power') = 'off'",
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
    expect(withoutIds(own.text)).not.toMatch(/MHP|mhp\.example|Marram/);
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
    '/customers/FPS/items',
    '/customers/FPS/facts?site=KQ&template=shared-office',
  ])('%s of one customer holds nothing of the other', async (path) => {
    const { status, text } = await world.call('ida', 'GET', path);
    expect(status).toBe(200);
    expect(withoutIds(text)).not.toMatch(/MHP|mhp\.example|Marram/);
    expect(text).not.toContain(mhp.environment);
  });

  it.each(['/sites', '/customers/SVG/facts?site=KQ&template=shared-office'])(
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
    await tell(world.app.db, MSP.id, 'clock', 'clock', world.clock.at);
    await expect.poll(() => heard.ida?.length, { timeout: 5_000 }).toBe(3);
    expect(heard.jonah?.map((event) => event.customer_id)).toEqual([fpsId, MSP.id]);
    expect(heard.insideFps?.map((event) => event.customer_id)).toEqual([fpsId, MSP.id]);
    for (const end of ends) end();
  });

  it('has a database that refuses rows across customers', async () => {
    const { customer } = await world.inside('FPS');
    const insert = world.app.db.write(
      `INSERT INTO resource (customer_id, id, environment_id, site_code, kind, resource_key, name, attributes, needs, wanted,
         created_at)
       SELECT ?, 'forged', environment_id, site_code, kind, resource_key, name, attributes, needs, wanted, created_at
       FROM resource WHERE environment_id = ? AND kind = 'pool'`,
      [customer.id, mhp.environment],
    );
    await expect(insert).rejects.toMatchObject({ errno: 1452 });
  });

  it('does not believe tags that name one customer and another’s environment', async () => {
    const [host] = await world.app.db.rows<{ id: string }>(
      "SELECT id FROM resource WHERE environment_id = ? AND kind = 'share'",
      [mhp.environment],
    );
    await world.port().make(
      {
        kind: 'share',
        site: 'KQ',
        name: 'forged',
        attributes: { gib: 1000 },
        tags: { customer: 'FPS', environment: mhp.environment, resource: host?.id ?? '', pool: 'x' },
      },
      'forged',
    );
    await world.living.moveTo(world.clock.at + 600_000);
    await world.living.job('feed');
    const { customer } = await world.inside('FPS');
    const present = await world.app.db.row<object>(
      "SELECT customer_id, environment_id, resource_id FROM present_resource WHERE name = 'forged'",
    );
    expect(present).toEqual({ customer_id: customer.id, environment_id: null, resource_id: null });
    // Whoever is named as its owner pays for it, until someone has looked into it; nobody else does.
    const metered = await world.app.db.rows<{ customer_id: string }>(
      'SELECT customer_id FROM meter_interval WHERE quantity = 1000',
    );
    expect(metered).toEqual([{ customer_id: customer.id }]);
  });

  it('keeps every customer’s table by customer_id, and refers by both columns', async () => {
    const tables = await world.app.db.rows<{ name: string; keyed: number }>(
      `SELECT c.TABLE_NAME AS name, EXISTS (SELECT 1 FROM information_schema.STATISTICS s WHERE s.TABLE_SCHEMA = DATABASE()
         AND s.TABLE_NAME = c.TABLE_NAME AND s.NON_UNIQUE = 0 AND s.SEQ_IN_INDEX = 1 AND s.COLUMN_NAME = 'customer_id') AS keyed
       FROM information_schema.COLUMNS c WHERE c.TABLE_SCHEMA = DATABASE() AND c.COLUMN_NAME = 'customer_id' AND c.IS_NULLABLE = 'NO'`,
    );
    const owned = tables.filter((table) => !['operator_customer', 'live_event'].includes(table.name));
    expect(owned.length).toBeGreaterThan(12);
    expect(owned.filter((table) => table.keyed !== 1)).toEqual([]);
    const single = await world.app.db.rows<{ name: string }>(
      `SELECT k.TABLE_NAME AS name FROM information_schema.KEY_COLUMN_USAGE k
       WHERE k.TABLE_SCHEMA = DATABASE() AND k.REFERENCED_TABLE_NAME IN ('environment','resource','run','step')
       GROUP BY k.CONSTRAINT_NAME, k.TABLE_NAME HAVING SUM(k.COLUMN_NAME IN ('customer_id', 'joins_customer_id')) = 0`,
    );
    expect(single).toEqual([]);
  });
});
