import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Host, Session } from '../../src/contract';
import { peopleOf } from '../../src/demo/people';
import { deskScope, type DeskScope } from '../../src/server/access';
import { actOnOwn, deskView, startItem } from '../../src/server/desk';
import { followDirectories } from '../../src/server/directory-link';
import { keepSeats, offersOf } from '../../src/server/grants';
import { hostsForPerson } from '../../src/server/desk/hosts';
import {
  begin,
  entriesOf,
  fillDirectory,
  linkDirectory,
  openWorld,
  provisionFor,
  raise,
  type World,
} from './setup/world';

/** Somebody leaves, and their account is given to somebody new at once. */
describe('an account that is given to somebody new', { timeout: 120_000 }, () => {
  let world: World;
  let own = '';
  let bench = '';
  const PEOPLE = peopleOf('QFB', 9);
  const [ANA, BO] = PEOPLE.map(({ account }) => account) as [string, string];
  const entry = entriesOf(PEOPLE);
  const told = async (people: readonly object[]): Promise<void> => {
    await fillDirectory(world, 'QFB', people);
    await world.living.moveTo(world.clock.at + 61_000);
    await followDirectories(world.app);
    await keepSeats(world.app);
  };
  const deskOf = async (directoryId: string): Promise<DeskScope> => {
    const { customer } = await world.inside('QFB');
    const row = await world.app.db.row<{ id: string; account: string }>(
      'SELECT id, account FROM person WHERE customer_id = ? AND directory_id = ?',
      [customer.id, directoryId],
    );
    if (!row) throw new Error(`${directoryId} is not known`);
    return deskScope(customer, { id: row.id, name: row.account });
  };
  const start = (desk: DeskScope, environmentId: string, pool: string) =>
    startItem(world.app, desk, { environmentId, pool, item: 'Full desktop' });
  const hosts = async (): Promise<Host[]> =>
    (await world.call('ida', 'GET', `/customers/QFB/environments/${own}/hosts`)).body.entries as Host[];
  const hostOf = async (desk: DeskScope): Promise<Host | undefined> =>
    (await hosts()).find(({ personId }) => personId === desk.person);
  const sessions = async (): Promise<Session[]> => {
    await world.living.job('sessions');
    return (await world.call('ida', 'GET', '/customers/QFB/sessions?limit=500')).body.entries as Session[];
  };
  const timeOf = async ({ person }: DeskScope): Promise<number> => {
    const { body } = await world.call('ida', 'GET', `/customers/QFB/people/${person}/costs`);
    return (body.parts as { by: string; own: number }[])
      .filter(({ by }) => by === 'time')
      .reduce((sum, one) => sum + one.own, 0);
  };
  /** Hosts of the pool that whoever comes first may have. */
  const free = async (): Promise<{ offers: unknown[]; found: { id: string }[] }> => {
    const scope = await world.inside('QFB');
    const offers = (await offersOf(world.app.db, scope)).filter(({ pool }) => pool === 'own');
    const all = [...(await hostsForPerson(world.app, scope, offers)).values()].flat();
    return { offers, found: all.filter(({ personId }) => personId === undefined) };
  };
  let ana: DeskScope;
  let newcomer: DeskScope;

  beforeAll(async () => {
    world = await openWorld('accountagain');
    await fillDirectory(
      world,
      'QFB',
      PEOPLE.map((_one, n) => entry(n)),
    );
    await linkDirectory(world, 'QFB');
    await world.call('ida', 'POST', '/templates/own-desks/revisions', {
      body: {
        text: "name: Own desks\nnaming: '{customer}-{environment}{counter:2}'\npools:\n  - role: own\n    kind: personal\n    image: Ostrel 12 multi-user\n    people: =people\n    assign: ahead\n    may: [start, restart, sleep]\n",
        note: 'first',
      },
    });
    await raise(world, 'QFB', 'personal', 20);
    await raise(world, 'QFB', 'hosts', 20);
    ({ environment: own } = await begin(world, 'QFB', 'provision', {
      environment: 'own',
      template: 'own-desks',
      people: 9,
      site: 'KQ',
    }));
    await world.living.untilQuiet();
    await begin(world, 'QFB', 'assign-desktops', { pool: 'own', people: [ANA, BO] }, { environment: own });
    ({ environment: bench } = await provisionFor(world, 'QFB', 'bench', 9, 'KQ'));
    await world.living.untilQuiet();
    await keepSeats(world.app);
    ana = await deskOf('person-0');
  });
  afterAll(() => world.close());

  it('does not let them into the session of who had it', async () => {
    expect(await start(ana, bench, 'desks')).toMatchObject({ state: 'ready' });
    await world.living.moveTo(world.clock.at + 600_000);
    expect((await sessions()).filter(({ personId }) => personId === ana.person)).not.toEqual([]);
    const before = await timeOf(ana);
    expect(before).toBeGreaterThan(0);
    await told([...PEOPLE.map((_one, n) => entry(n)).slice(1), entry(0, { id: 'somebody new' })]);
    newcomer = await deskOf('somebody new');
    expect(newcomer.person).not.toBe(ana.person);
    const [session] = (await sessions()).filter(({ account }) => account === ANA);
    expect(session).toMatchObject({ personId: null });
    await expect(start(newcomer, bench, 'desks')).rejects.toMatchObject({
      status: 409,
      message: expect.stringContaining('still signed in') as string,
    });
    // The session of who left is ended, and then there is a new one.
    await world.living.job('session acts');
    expect((await sessions()).filter(({ account }) => account === ANA)).toEqual([]);
    expect(await start(newcomer, bench, 'desks')).toMatchObject({ state: 'ready' });
    await world.living.moveTo(world.clock.at + 60_000);
    const [theirs] = (await sessions()).filter(({ account }) => account === ANA);
    expect(theirs).toMatchObject({ personId: newcomer.person });
    expect(theirs?.id).not.toBe(session?.id);
    // Each pays for their own time.
    expect(await timeOf(ana)).toBeGreaterThanOrEqual(before);
    expect(await timeOf(newcomer)).toBeLessThan(before);
  });

  it('does not give them the desktop of who had it, before it is kept and after', async () => {
    const refused = async (): Promise<void> => {
      const kept = await hostOf(ana);
      expect((await deskView(world.app, newcomer, newcomer.person)).own).toEqual([]);
      await expect(start(newcomer, own, 'own')).rejects.toMatchObject({ status: 409 });
      for (const act of ['start', 'restart', 'sleep'] as const)
        await expect(actOnOwn(world.app, newcomer, kept?.id ?? '', act)).rejects.toMatchObject({
          status: 403,
        });
    };
    expect(await hostOf(ana)).toMatchObject({ kept: false, wantedPower: 'on' });
    await refused();
    await world.living.job('desktops');
    await world.living.untilQuiet();
    expect(await hostOf(ana)).toMatchObject({ person: ANA, kept: true, wantedPower: 'off' });
    await refused();
  });

  it('gets them a desktop of their own beside the one that is kept', async () => {
    await begin(world, 'QFB', 'assign-desktops', { pool: 'own', people: [ANA] }, { environment: own });
    await world.living.untilQuiet();
    await keepSeats(world.app);
    const mine = await hostOf(newcomer);
    const kept = await hostOf(ana);
    expect([mine?.kept, kept?.kept]).toEqual([false, true]);
    expect(mine?.id).not.toBe(kept?.id);
    expect((await deskView(world.app, newcomer, newcomer.person)).own).toMatchObject([{ hostId: mine?.id }]);
  });

  it('is let in nowhere where it cannot be told whose a desktop is', async () => {
    // As a document of before may have it, whose person nobody knows any more.
    const strange = (await hosts()).find(({ person }) => person === '');
    await world.app.db.write(
      "UPDATE resource SET attributes = JSON_SET(JSON_REMOVE(attributes, '$.personId'), '$.person', 'gus') WHERE id = ?",
      [strange?.id ?? ''],
    );
    const { offers, found } = await free();
    expect(offers).toHaveLength(1);
    expect(found.map(({ id }) => id)).not.toContain(strange?.id);
    await world.app.db.write(
      "UPDATE resource SET attributes = JSON_SET(attributes, '$.personId', '', '$.person', '') WHERE id = ?",
      [strange?.id ?? ''],
    );
    expect((await free()).found.map(({ id }) => id)).toContain(strange?.id);
  });

  it('keeps what is kept from its own person too, until it is given back', async () => {
    const bo = await deskOf('person-1');
    const host = await hostOf(bo);
    await begin(world, 'QFB', 'keep-desktops', { hosts: [host?.id ?? ''] }, { environment: own });
    await world.living.untilQuiet();
    // What they would do there would go when it is kept no more.
    expect((await deskView(world.app, bo, bo.person)).own).toEqual([]);
    await expect(actOnOwn(world.app, bo, host?.id ?? '', 'start')).rejects.toMatchObject({ status: 403 });
    await begin(world, 'QFB', 'give-back', { hosts: [host?.id ?? ''] }, { environment: own });
    await world.living.untilQuiet();
    expect((await deskView(world.app, bo, bo.person)).own).toMatchObject([{ hostId: host?.id, state: 'on' }]);
  });
});
