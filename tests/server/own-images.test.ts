import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { MadeImage } from '../../src/contract';
import { begin, change, openWorld, provisionFor, withoutIds, type Made, type World } from './setup/world';

const RECIPE = 'steps:\n  - install: Tallybrook 4.2\n';

/** An image that is one customer's own: built and kept in their name, at their cost, and nobody else's to see or to use. */
describe('an image of a customer’s own', { timeout: 120_000 }, () => {
  let world: World;
  let image: Made;
  let bridge: Made;
  let office: Made;

  const asked = (code: string, site = 'KQ') => ({
    code,
    name: 'Bridge desks',
    says: '',
    site,
    from: site === 'NL' ? 'Ostrel 12 single-user' : 'Ostrel 12 multi-user',
    recipe: RECIPE,
    keep: 1,
    size: 's4x16',
    diskGiB: 96,
    licences: [],
  });
  const inside = (code: string, kind: string, input: object, environment: string) =>
    begin(world, code, kind, input, { environment });
  const quiet = async (): Promise<void> => {
    for (let n = 0; n < 2; n++) {
      await world.living.untilQuiet();
      await world.living.moveTo(world.clock.at + 60_000);
      for (const job of ['feed', 'machines', 'refresh'] as const) await world.living.job(job);
    }
    await world.living.untilQuiet();
  };

  beforeAll(async () => {
    world = await openWorld('ownimages');
    bridge = await provisionFor(world, 'MHP', 'bridge', 8, 'KQ');
    office = await provisionFor(world, 'FPS', 'office', 8, 'KQ');
    image = await begin(world, 'MHP', 'new-image', asked('pilots'));
    await inside('MHP', 'build-image', { note: 'the first' }, image.environment);
    await quiet();
    await inside('MHP', 'make-current', { version: 1 }, image.environment);
    await quiet();
  });
  afterAll(() => world.close());

  it('is made in their name: what stands at the provider says so, and nothing is the MSP’s', async () => {
    const theirs = await world.port().resources({ customer: 'MHP' });
    expect(theirs.filter(({ kind }) => kind === 'image').map(({ name }) => name)).toEqual(['pilots@1']);
    expect(theirs.filter(({ kind }) => kind === 'builder')).toEqual([]);
    const ours = await world.port().resources({ customer: 'MSP' });
    expect(ours.filter(({ kind }) => kind === 'image')).toEqual([]);
  });

  it('is what their hosts are made of, and told apart from environments with desktops', async () => {
    const used = await change(
      world,
      'MHP',
      'use-image',
      { pool: 'desks', image: 'pilots@1', track: 'current' },
      { environment: bridge.environment },
    );
    expect([used.status, used.text]).toEqual([201, expect.any(String)]);
    await quiet();
    const { entries } = (await world.call('ida', 'GET', '/customers/MHP/environments')).body;
    expect((entries as { name: string; holds: string }[]).map(({ name, holds }) => [name, holds])).toEqual([
      ['bridge', 'desktops'],
      ['pilots', 'image'],
    ]);
    const { images } = (await world.call('ida', 'GET', '/images')).body as unknown as { images: MadeImage[] };
    expect(images.map(({ owner, code, versions }) => [owner, code, versions[0]?.uses.length])).toEqual([
      ['MHP', 'pilots', 1],
    ]);
  });

  it('is neither seen nor used nor copied by another customer', async () => {
    const facts = await world.call('ida', 'GET', '/customers/FPS/facts?site=KQ&template=shared-office');
    expect([facts.status, facts.text.includes('pilots')]).toEqual([200, false]);
    const used = await change(
      world,
      'FPS',
      'use-image',
      { pool: 'desks', image: 'pilots@1', track: 'current' },
      { environment: office.environment },
    );
    expect([used.status, withoutIds(used.text).includes('MHP')]).toEqual([422, false]);
    const seen = await world.call('jonah', 'GET', '/images');
    expect([seen.status, seen.text]).toEqual([200, '{"images":[]}']);
    const path = `/customers/FPS/environments/${image.environment}/changes/build-image/proposal`;
    expect((await world.call('bram', 'POST', path, { body: { input: { note: 'x' } } })).status).toBe(404);
  });

  it('has a code that nobody else’s image has; of whose it is nothing is told', async () => {
    const taken = await change(world, 'FPS', 'new-image', asked('pilots'));
    expect([taken.status, taken.text.includes('pilots is taken')]).toEqual([422, true]);
    expect(withoutIds(taken.text)).not.toContain('MHP');
    expect((await change(world, 'MSP', 'new-image', asked('pilots'))).status).toBe(422);
    // At two sites nobody waits for the other's lock: the database has the last word.
    const both = await Promise.all([
      change(world, 'FPS', 'new-image', asked('twice', 'KQ')),
      change(world, 'SVG', 'new-image', asked('twice', 'TF')),
    ]);
    expect(both.filter(({ status }) => status === 201)).toHaveLength(1);
    expect(both.filter(({ status }) => status === 409 || status === 422)).toHaveLength(1);
  });

  it('is begun by who reaches the customer, also who reaches no other', async () => {
    expect((await change(world, 'SVG', 'new-image', asked('clinic'), { who: 'jonah' })).status).toBe(201);
    expect((await change(world, 'MHP', 'new-image', asked('watch'), { who: 'jonah' })).status).toBe(404);
    expect((await change(world, 'MSP', 'new-image', asked('ours'), { who: 'jonah' })).status).toBe(404);
  });

  it('may go while their own hosts stand on it: they are told', async () => {
    const path = `/customers/MHP/environments/${image.environment}/changes/retire/proposal`;
    const { text } = await world.call('ida', 'POST', path, { body: { input: {} } });
    expect(text).toMatch(
      /"state":"warns","says":"\d+ hosts? stands? on it; no other is made of it any more"/,
    );
  });

  it('is stored at their cost', async () => {
    await world.living.moveTo(world.clock.at + 5 * 60 * 60_000);
    await world.living.job('feed');
    const costs = await world.call('ida', 'GET', '/customers/MHP/costs?month=2026-11');
    expect([costs.status, costs.text]).toEqual([200, expect.stringContaining('"meter":"image"')]);
    const others = await world.call('ida', 'GET', '/customers/FPS/costs?month=2026-11');
    expect(others.text).not.toContain('"meter":"image"');
  });

  it('is in no network: where they have nothing else, no address is given and nothing is joined', async () => {
    const far = await begin(world, 'FPS', 'new-image', asked('drafts', 'TF'));
    await begin(world, 'FPS', 'build-image', { note: 'x' }, { environment: far.environment });
    await quiet();
    const there = (await world.port().resources({ customer: 'FPS' })).filter(({ site }) => site === 'TF');
    expect(there.map(({ kind }) => kind)).toEqual(['image']);
    const blocks = await world.app.db.rows(
      "SELECT b.cidr FROM address_block b JOIN customer c ON c.id = b.customer_id WHERE c.code = 'FPS' AND b.site_code = 'TF'",
    );
    expect(blocks).toEqual([]);
  });

  it('takes nothing of theirs with it that others at its site stand on', async () => {
    const near = await begin(world, 'FPS', 'new-image', asked('plain'));
    const kinds = async (): Promise<string[]> =>
      (await world.port().resources({ customer: 'FPS' }))
        .filter(({ site }) => site === 'KQ')
        .map(({ kind }) => kind)
        .sort();
    const before = await kinds();
    expect(before).toContain('network');
    // It has no version yet: what it wants is nothing.
    await inside('FPS', 'write-recipe', { recipe: `${RECIPE}  - check: it starts\n` }, near.environment);
    await quiet();
    expect(await kinds()).toEqual(before);
    await inside('FPS', 'retire', {}, near.environment);
    await quiet();
    expect(await kinds()).toEqual(before);
  });

  it('goes with them: nothing of it is left that costs, and its code is free again', async () => {
    const left = await world.call('bram', 'POST', '/customers/MHP/leave', {
      body: { code: 'MHP', reason: 'they leave' },
    });
    expect([left.status, left.text]).toEqual([201, expect.any(String)]);
    for (let n = 0; n < 3; n++) await quiet();
    // What people kept stays, as their plan promises.
    const standing = (await world.port().resources({ customer: 'MHP' })).filter(
      ({ kind }) => kind !== 'share',
    );
    expect(standing.map(({ kind, name }) => `${kind} ${name}`)).toEqual([]);
    expect((await change(world, 'FPS', 'new-image', asked('pilots'))).status).toBe(201);
  });
});
