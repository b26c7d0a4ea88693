import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Desk } from '../../src/contract';
import { peopleOf } from '../../src/demo/people';
import { deskScope, type DeskScope } from '../../src/server/access';
import { actOnOwn, deskView } from '../../src/server/desk';
import { keepSeats } from '../../src/server/grants';
import { begin, openWorld, raise, type World } from './setup/world';

/** QFB's people have desktops of their own; two of them are at their desks. */
describe('a desktop of one’s own, from one’s desk', { timeout: 120_000 }, () => {
  let world: World;
  const [ANA, BO] = peopleOf('QFB', 9).map(({ account }) => account) as [string, string];
  const desks = new Map<string, DeskScope>();
  beforeAll(async () => {
    world = await openWorld('owndesktop');
    await world.call('ida', 'POST', '/templates/own-desks/revisions', {
      body: {
        text: "name: Own desks\nnaming: '{customer}-{environment}{counter:2}'\npools:\n  - role: own\n    kind: personal\n    image: Ostrel 12 multi-user\n    people: =people\n    assign: ahead\n    may: [start, restart, sleep]\n",
        note: 'first',
      },
    });
    await raise(world, 'QFB', 'personal', 10);
    await raise(world, 'QFB', 'hosts', 20);
    const { environment } = await begin(world, 'QFB', 'provision', {
      environment: 'own',
      template: 'own-desks',
      people: 3,
      site: 'KQ',
    });
    await world.living.untilQuiet();
    // The first three by account have the seats, until the desktops are somebody's.
    await keepSeats(world.app);
    await begin(world, 'QFB', 'assign-desktops', { pool: 'own', people: [ANA, BO] }, { environment });
    await world.living.untilQuiet();
    await keepSeats(world.app);
    const { customer } = await world.inside('QFB');
    for (const { id, account } of await world.app.db.rows<{ id: string; account: string }>(
      'SELECT id, account FROM person WHERE customer_id = ?',
      [customer.id],
    ))
      desks.set(account, deskScope(customer, { id, name: account }));
  });
  afterAll(() => world.close());

  const scopeOf = (account: string): DeskScope => {
    const desk = desks.get(account);
    if (!desk) throw new Error(`${account} has no desk`);
    return desk;
  };
  const desk = (account: string): Promise<Desk> =>
    deskView(world.app, scopeOf(account), scopeOf(account).person);
  const own = async (account: string): Promise<Desk['own'][number]> => {
    const [one] = (await desk(account)).own;
    if (!one) throw new Error(`${account} has no desktop of their own`);
    return one;
  };
  const act = async (account: string, what: 'start' | 'restart' | 'sleep', of = account) =>
    actOnOwn(world.app, scopeOf(account), (await own(of)).hostId, what);
  /** What came of the restarts that were asked for. */
  const restarts = async (): Promise<string[]> =>
    (
      await world.app.db.rows<{ says: string }>(
        "SELECT s.says FROM step s JOIN customer c ON c.id = s.customer_id WHERE c.code = 'QFB' AND s.action = 'restart'",
      )
    ).map(({ says }) => says);

  it('brings its person a licence seat, whoever else would have one', async () => {
    const { body } = await world.call('ida', 'GET', `/customers/QFB/people/${scopeOf(ANA).person}`);
    expect(body.items).toMatchObject([{ missing: null }]);
  });

  it('is restarted at once, by the change that an engineer would make, and on the trail as theirs', async () => {
    expect(await own(ANA)).toMatchObject({ state: 'on', may: ['restart', 'sleep'] });
    await act(ANA, 'restart');
    await world.living.untilQuiet();
    expect(await own(ANA)).toMatchObject({ state: 'on' });
    expect(await restarts()).toEqual(['restarted']);
    const { entries } = (await world.call('ida', 'GET', '/customers/QFB/trail')).body;
    expect(
      (entries as { action: string; actor: string; reason: string }[]).map((one) => one.reason),
    ).toContain(`${ANA}, from their desk`);
  });

  it('is put to sleep and started, each once however often it is pressed', async () => {
    await act(ANA, 'sleep');
    await act(ANA, 'sleep');
    await world.living.untilQuiet();
    expect(await own(ANA)).toMatchObject({ state: 'off', may: ['start'] });
    expect((await desk(ANA)).items[0]).toMatchObject({ state: 'off' });
    // What sleeps is started, not restarted.
    await expect(act(ANA, 'restart')).rejects.toMatchObject({ status: 409 });
    await act(ANA, 'start');
    await act(ANA, 'start');
    await world.living.untilQuiet();
    expect(await own(ANA)).toMatchObject({ state: 'on' });
  });

  it('is restarted once for a request that comes again later', async () => {
    const before = (await restarts()).length;
    const asked = { ...scopeOf(ANA), request: { key: 'again', hashes: ['what was asked'] as const } };
    const { hostId } = await own(ANA);
    const begun = await actOnOwn(world.app, asked, hostId, 'restart');
    await world.living.untilQuiet();
    expect(await own(ANA)).toMatchObject({ state: 'on' });
    expect(await actOnOwn(world.app, asked, hostId, 'restart')).toEqual(begun);
    await world.living.untilQuiet();
    expect(await restarts()).toHaveLength(before + 1);
  });

  it('is nobody else’s to touch', async () => {
    for (const what of ['start', 'restart', 'sleep'] as const)
      await expect(act(BO, what, ANA)).rejects.toMatchObject({ status: 403 });
  });

  it('has beside it what whoever looks after them says, to them or to all of that customer', async () => {
    const say = (body: object, code = 'QFB', who: 'ida' | 'jonah' | 'runa' = 'ida') =>
      world.call(who, 'POST', `/customers/${code}/desk-messages`, { body });
    const { id } = (await say({ person: scopeOf(ANA).person, text: 'Your new disk is there.' })).body;
    expect((await say({ person: null, text: 'No work on Sunday.', hours: 48 })).status).toBe(201);
    await say({ person: null, text: 'Of another customer.' }, 'FPS');
    const texts = async (account: string): Promise<string[]> =>
      (await desk(account)).messages.map(({ text }) => text);
    expect(await texts(ANA)).toEqual(['No work on Sunday.', 'Your new disk is there.']);
    expect(await texts(BO)).toEqual(['No work on Sunday.']);
    // Each reads their own name; a host, which a desk has none of, is not spoken of there.
    const named = (await say({ person: null, text: 'Welcome to {customer}, {person}.' })).body;
    expect(await texts(BO)).toContain(`Welcome to Quillfeather Bindery, ${(await desk(BO)).person.name}.`);
    expect((await desk(ANA)).person.name).not.toBe((await desk(BO)).person.name);
    await world.call('ida', 'DELETE', `/customers/QFB/desk-messages/${String(named.id)}`);
    expect((await say({ person: null, text: '{host} restarts' })).body.fields).toHaveProperty('text');
    // Taken away, a long one is told of too.
    const long = (await say({ person: null, text: 'long '.repeat(59) })).body;
    expect(
      (await world.call('ida', 'DELETE', `/customers/QFB/desk-messages/${String(long.id)}`)).status,
    ).toBe(204);
    // Nobody of another customer is spoken to by their id, and nobody's word is taken away by whoever cannot reach them.
    expect((await say({ person: scopeOf(ANA).person, text: 'x' }, 'FPS')).status).toBe(404);
    expect((await say({ person: null, text: 'x' }, 'QFB', 'jonah')).status).toBe(404);
    expect((await say({ person: null, text: 'x' }, 'QFB', 'runa')).status).toBe(403);
    expect((await say({ person: null, text: ' ' })).body.fields).toHaveProperty('text');
    expect((await world.call('ida', 'DELETE', `/customers/FPS/desk-messages/${String(id)}`)).status).toBe(
      404,
    );
    expect((await world.call('ida', 'DELETE', `/customers/QFB/desk-messages/${String(id)}`)).status).toBe(
      204,
    );
    expect(await texts(ANA)).toEqual(['No work on Sunday.']);
    world.clock.at += 49 * 3_600_000;
    expect(await texts(BO)).toEqual([]);
  });
});
