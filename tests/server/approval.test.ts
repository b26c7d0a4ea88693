import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SYSTEM } from '../../src/server/access';
import { keepApprovalRule } from '../../src/server/approval';
import { createOperator } from '../../src/server/operators';
import { makeToken, scopeOfMail } from '../../src/server/sign-in';
import { change, changePath, openWorld, provisionFor, raise, type Called, type World } from './setup/world';

/** What needs approval by a lead who did not ask for it. */
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
    await createOperator(world.app, SYSTEM, {
      name: 'Elsa Lindqvist',
      mail,
      role: 'lead',
      customers: null,
      password: 'lantern-on-the-quay',
    });
    const scope = await scopeOfMail(world.app.db, mail);
    if (!scope) throw new Error('she was not taken on');
    ({ token: elsa } = await makeToken(world.app, scope, {
      name: 't',
      days: 1,
    }));
  });
  afterAll(() => world.close());

  const put = (rule: object, who: 'bram' | 'ida' | 'jonah' = 'bram'): Promise<Called> =>
    world.callFromBrowser(who, 'PUT', '/approval-rule', {
      body: { above: [], kinds: [], leadsToo: false, ...rule },
    });
  /** As `put`, whatever held before. */
  const say = async (rule: object, who: 'bram' | 'ida' | 'jonah' = 'bram'): Promise<Called> => {
    await world.app.db.write("DELETE FROM setting WHERE name LIKE 'approval%'");
    return put(rule, who);
  };
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
      rule: { above: [], kinds: [], leadsToo: false },
      proposed: null,
    });
    // A token that was stolen loosens no rule.
    const byToken = await world.call('bram', 'PUT', '/approval-rule', {
      body: { above: [], kinds: [], leadsToo: false },
    });
    expect([byToken.status, byToken.body.type]).toEqual([403, 'urn:laager:problem:token']);
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

  it('counts together what one person begins in slices', async () => {
    await say({});
    const three = await world.call('ida', 'POST', `${path('add-hosts')}/proposal`, {
      body: { input: { ...two, hosts: 3 } },
    });
    const { minor } = (three.body.proposal as unknown as { impact: { monthly: { minor: number } } }).impact
      .monthly;
    // Three at once cost more than may be begun; what was begun before in this test's world is counted too.
    const begunBefore = Number(
      (
        await world.app.db.row<{ minor: string }>(
          `SELECT IFNULL(SUM(JSON_VALUE(impact, '$.monthly.minor')), 0) AS minor FROM run
           WHERE NOT approved AND actor_id = (SELECT id FROM operator WHERE mail = 'ida@terntallow.example')
             AND customer_id = (SELECT id FROM customer WHERE code = 'SVG')`,
        )
      )?.minor,
    );
    await say({
      above: [
        { minor: begunBefore + minor - 1, currency: 'EUR' },
        { minor: begunBefore + minor - 1, currency: 'GBP' },
      ],
    });
    const statuses: number[] = [];
    for (let n = 0; n < 3; n++) {
      statuses.push((await change(world, 'SVG', 'add-hosts', { ...two, hosts: 1 }, { environment })).status);
      await world.living.untilQuiet();
    }
    expect(statuses).toEqual([201, 201, 409]);
    // A month later it counts no more.
    await world.app.db.write('UPDATE run SET begun_at = begun_at - ?', [31 * 86_400_000]);
    expect((await change(world, 'SVG', 'add-hosts', { ...two, hosts: 1 }, { environment })).status).toBe(201);
    await world.living.untilQuiet();
  });

  it('is for what was asked for, and for nothing else that is sent with it', async () => {
    await say({ kinds: ['retire'] });
    const hold = await ask('ida', 'retire', { data: 'kept' });
    const seen = (await world.call('bram', 'GET', hold)).body as unknown as { now: { fingerprint: string } };
    const { fingerprint } = seen.now;
    const body = { fingerprint, reason: '', code: 'SVG' };
    for (const more of [{ input: { data: 'destroyed' } }, { hold: 'x' }, { policy: { drainMinutes: 0 } }])
      expect((await world.call('bram', 'POST', `${hold}/begin`, { body: { ...body, ...more } })).status).toBe(
        422,
      );
    // Nor is the approval of one thing that of another: its fingerprint is not this one's.
    const { body: destroying } = await world.call('ida', 'POST', `${path('retire')}/proposal`, {
      body: { input: { data: 'destroyed' } },
    });
    const other = { ...body, fingerprint: destroying.fingerprint };
    expect((await world.call('bram', 'POST', `${hold}/begin`, { body: other })).status).toBe(409);
    // What changes between the lead's looking and their yes is shown to them first.
    const grow = await ask('ida', 'grow-disk', { pool: 'desks', diskGiB: 320 });
    const before = ((await world.call('bram', 'GET', grow)).body as unknown as typeof seen).now.fingerprint;
    expect(
      (await change(world, 'SVG', 'grow-disk', { pool: 'desks', diskGiB: 256 }, { environment, who: 'bram' }))
        .status,
    ).toBe(201);
    await world.living.untilQuiet();
    const stale = await world.call('bram', 'POST', `${grow}/begin`, {
      body: { fingerprint: before, reason: '', code: 'SVG' },
    });
    expect([stale.status, stale.body.type]).toEqual([409, 'urn:laager:problem:changed']);
    for (const one of [hold, grow]) await world.call('bram', 'DELETE', one);
  });

  it('is loosened by two leads, where leads need it too', async () => {
    const elsaScope = await scopeOfMail(world.app.db, 'elsa@terntallow.example');
    if (!elsaScope) throw new Error('she is gone');
    const rule = { above: [], kinds: ['retire'], leadsToo: true };
    const loose = { above: [], kinds: [], leadsToo: false };
    const kinds = world.app.catalogue.changes.map(({ kind }) => kind);
    const state = async (): Promise<Record<string, unknown>> =>
      (await world.call('ida', 'GET', '/approval-rule')).body as Record<string, unknown>;
    expect((await say(rule)).body).toMatchObject({ rule, proposed: null });
    // Alone a lead only proposes it, however often.
    for (let n = 0; n < 2; n++)
      expect((await put(loose)).body).toMatchObject({ rule, proposed: { rule: loose, mine: true } });
    // Whom they invited a moment ago agrees to nothing of theirs.
    await world.app.db.write(
      "UPDATE operator SET invited_by = (SELECT id FROM (SELECT id FROM operator WHERE mail = 'bram@terntallow.example') b), invited_wall = ? WHERE id = ?",
      [world.clock.at - 86_400_000, elsaScope.actor.id],
    );
    await keepApprovalRule(world.app, elsaScope, loose, kinds);
    expect(await state()).toMatchObject({ rule });
    await world.app.db.write('UPDATE operator SET invited_wall = ? WHERE id = ?', [
      world.clock.at - 31 * 86_400_000,
      elsaScope.actor.id,
    ]);
    // Elsa's own proposal stands by now; Bram agrees to it.
    expect((await put(loose)).body).toMatchObject({ rule: loose, proposed: null });
    // To ask for more takes nobody else.
    expect((await put(rule)).body).toMatchObject({ rule, proposed: null });
    await world.app.db.write("DELETE FROM setting WHERE name LIKE 'approval%'");
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
