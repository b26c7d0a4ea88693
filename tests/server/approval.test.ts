import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { makeToken, scopeOfMail } from '../../src/server/sign-in';
import { change, changePath, openWorld, provisionFor, raise, type Called, type World } from './setup/world';

/** What needs the word of a lead who did not ask for it. */
describe('approval', { timeout: 90_000 }, () => {
  let world: World;
  /** A second lead. */
  let elsa: string;
  let environment: string;

  beforeAll(async () => {
    world = await openWorld('approval');
    await raise(world, 'SVG', 'hosts', 100);
    ({ environment } = await provisionFor(world, 'SVG', 'clinic', 60, 'KQ'));
    const mail = 'elsa@terntallow.example';
    await world.call('bram', 'POST', '/operators', {
      body: { name: 'Elsa Lindqvist', mail, role: 'lead', password: 'lantern-on-the-quay' },
    });
    const scope = await scopeOfMail(world.app.db, mail);
    if (!scope) throw new Error('she was not taken on');
    ({ token: elsa } = await makeToken(world.app, scope, {
      name: 't',
      days: 1,
    }));
  });
  afterAll(() => world.close());

  const say = (rule: object, who: 'bram' | 'ida' | 'jonah' = 'bram'): Promise<Called> =>
    world.call(who, 'PUT', '/approval-rule', { body: { above: [], kinds: [], leadsToo: false, ...rule } });
  const path = (kind: string): string => changePath('SVG', kind, environment);
  const ask = async (who: 'ida' | 'bram', kind: string, input: object): Promise<string> => {
    const { body } = await world.call(who, 'POST', `${path(kind)}/proposal`, { body: { input } });
    const held = await world.call(who, 'POST', `${path(kind)}/hold`, {
      body: { input, fingerprint: body.fingerprint, reason: 'they grow', minutes: 60 },
    });
    expect([held.status, held.text]).toEqual([201, expect.any(String)]);
    return `/customers/SVG/holds/${String(held.body.hold)}`;
  };
  type As = (method: string, at: string, options?: { body: object }) => Promise<Called>;
  const as =
    (who: 'ida' | 'bram' | 'jonah'): As =>
    (method, at, options) =>
      world.call(who, method, at, options);
  const asElsa: As = (method, at, options) => world.callWith(elsa, method, at, options);
  const sayYes = async (to: As, hold: string): Promise<Called> => {
    const seen = await to('GET', hold);
    const { fingerprint } = (seen.body as unknown as { now: { fingerprint: string } }).now;
    return to('POST', `${hold}/begin`, { body: { fingerprint, reason: '', code: 'SVG' } });
  };
  const two = { pool: 'desks', hosts: 2 };

  it('is said by leads who reach every customer, of changes that there are', async () => {
    expect((await say({}, 'ida')).status).toBe(403);
    const unknown = await say({ kinds: ['retire', 'melt'] });
    expect([unknown.status, unknown.text]).toEqual([422, expect.stringContaining('kinds.1')]);
    const doubled = await say({
      above: [
        { minor: 1, currency: 'EUR' },
        { minor: 2, currency: 'EUR' },
      ],
    });
    expect([doubled.status, doubled.text]).toEqual([422, expect.stringContaining('above.1')]);
    expect((await world.call('jonah', 'GET', '/approval-rule')).body).toEqual({
      above: [],
      kinds: [],
      leadsToo: false,
    });
  });

  it('is not needed for what costs less, nor by a lead, nor for what Laager does by itself', async () => {
    expect((await say({ above: [{ minor: 100_000_00, currency: 'EUR' }] })).status).toBe(200);
    expect((await change(world, 'SVG', 'add-hosts', { ...two, hosts: 1 }, { environment })).status).toBe(201);
    await world.living.untilQuiet();
    await say({ above: ['EUR', 'GBP'].map((currency) => ({ minor: 1, currency })) });
    const byLead = await change(
      world,
      'SVG',
      'add-hosts',
      { ...two, hosts: 1 },
      { environment, who: 'bram' },
    );
    expect(byLead.status).toBe(201);
    await world.living.untilQuiet();
  });

  it('keeps what costs more from being begun, until a lead says yes; the trail names both', async () => {
    const refused = await change(world, 'SVG', 'add-hosts', two, { environment });
    expect([refused.status, refused.body.type]).toEqual([409, 'urn:laager:problem:approval']);
    const hold = await ask('ida', 'add-hosts', two);
    expect((await sayYes(as('ida'), hold)).status).toBe(409);
    // Another engineer is no lead.
    expect((await sayYes(as('jonah'), hold)).status).toBe(409);
    const awaited = (await world.call('bram', 'GET', '/awaited')).body as unknown as {
      awaited: { customer: string; hold: { title: string; waits: string } }[];
    };
    expect(awaited.awaited.map(({ customer, hold: { title } }) => [customer, title])).toEqual([
      ['SVG', 'Add 2 hosts to desks of clinic'],
    ]);
    const said = await sayYes(as('bram'), hold);
    expect(said.status).toBe(201);
    await world.living.untilQuiet();
    const run = (await world.call('ida', 'GET', `/customers/SVG/runs/${String(said.body.run)}`)).body;
    expect([run.state, run.actor, run.reason]).toEqual([
      'done',
      'Bram Oyelaran',
      'asked for by Ida Quist: they grow',
    ]);
    expect((await world.call('bram', 'GET', '/awaited')).body).toEqual({ awaited: [] });
  });

  it('is told to nobody who does not reach the customer', async () => {
    await say({ kinds: ['provision'] });
    const input = { environment: 'watch', people: 4, template: 'shared-office', site: 'KQ' };
    const waiting: string[] = [];
    for (const code of ['MHP', 'FPS']) {
      const at = changePath(code, 'provision', undefined);
      const { body } = await world.call('ida', 'POST', `${at}/proposal`, { body: { input } });
      const { body: held } = await world.call('ida', 'POST', `${at}/hold`, {
        body: { input, fingerprint: body.fingerprint, reason: '', minutes: 60 },
      });
      waiting.push(`/customers/${code}/holds/${String(held.hold)}`);
    }
    const seenBy = async (who: 'bram' | 'jonah'): Promise<string[]> => {
      const { body } = await world.call(who, 'GET', '/awaited');
      return (body as unknown as { awaited: { customer: string }[] }).awaited.map(({ customer }) => customer);
    };
    expect(await seenBy('bram')).toEqual(['MHP', 'FPS']);
    expect(await seenBy('jonah')).toEqual(['FPS']);
    for (const hold of waiting) expect((await world.call('ida', 'DELETE', hold)).status).toBe(204);
  });

  it('of a lead takes another lead’s, where that is said', async () => {
    await say({ kinds: ['add-hosts'], leadsToo: true });
    expect((await change(world, 'SVG', 'add-hosts', two, { environment, who: 'bram' })).status).toBe(409);
    const hold = await ask('bram', 'add-hosts', two);
    expect((await sayYes(as('bram'), hold)).status).toBe(409);
    expect((await sayYes(asElsa, hold)).status).toBe(201);
    await world.living.untilQuiet();
  });

  it('holds for a customer who leaves as for one environment, and still takes the code to be typed', async () => {
    await say({ kinds: ['retire'], leadsToo: true });
    const leaving = await world.call('bram', 'POST', '/customers/SVG/leave', {
      body: { code: 'SVG', reason: 'they leave' },
    });
    expect([leaving.status, leaving.text]).toEqual([422, expect.stringContaining('another lead')]);
    const hold = await ask('ida', 'retire', {});
    const { body } = await world.call('bram', 'GET', hold);
    const { fingerprint } = (body as unknown as { now: { fingerprint: string } }).now;
    const untyped = await world.call('bram', 'POST', `${hold}/begin`, {
      body: { fingerprint, reason: '', code: '' },
    });
    expect([untyped.status, untyped.body.type]).toEqual([422, 'urn:laager:problem:code']);
    expect((await sayYes(as('bram'), hold)).status).toBe(201);
  });
});
