import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Host, Session } from '../../src/contract';
import { peopleOf } from '../../src/demo/people';
import { followDirectories } from '../../src/server/directory-link';
import { keepSeats } from '../../src/server/grants';
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

/** QFB's nine have a directory that is followed; three of them have desktops of their own. */
describe('who leaves, returns or is called otherwise', { timeout: 120_000 }, () => {
  let world: World;
  let own = '';
  const PEOPLE = peopleOf('QFB', 9);
  const [ANA, BO] = PEOPLE.map(({ account }) => account) as [string, string];
  const entry = entriesOf(PEOPLE);
  const everyone = (over: Readonly<Record<number, object | null>> = {}): object[] =>
    PEOPLE.flatMap((_one, n) => (over[n] === null ? [] : [entry(n, over[n])]));

  beforeAll(async () => {
    world = await openWorld('leavers');
    await fillDirectory(world, 'QFB', everyone());
    await linkDirectory(world, 'QFB');
    await world.call('ida', 'POST', '/templates/own-desks/revisions', {
      body: {
        text: "name: Own desks\nnaming: '{customer}-{environment}{counter:2}'\npools:\n  - role: own\n    kind: personal\n    image: Ostrel 12 multi-user\n    people: =people\n    ownDiskGiB: 48\n    assign: ahead\n",
        note: 'first',
      },
    });
    await raise(world, 'QFB', 'personal', 10);
    await raise(world, 'QFB', 'hosts', 20);
    ({ environment: own } = await begin(world, 'QFB', 'provision', {
      environment: 'own',
      template: 'own-desks',
      people: 3,
      site: 'KQ',
    }));
    await world.living.untilQuiet();
    await begin(world, 'QFB', 'assign-desktops', { pool: 'own', people: [ANA, BO] }, { environment: own });
    await world.living.untilQuiet();
    await provisionFor(world, 'QFB', 'bench', 9, 'KQ');
    await world.living.untilQuiet();
  });
  afterAll(() => world.close());

  /** The directory says this now; everything that follows it has followed. */
  const told = async (people: readonly object[]): Promise<void> => {
    await fillDirectory(world, 'QFB', people);
    await world.living.moveTo(world.clock.at + 61_000);
    await followDirectories(world.app);
    await keepSeats(world.app);
    await world.living.job('desktops');
    await world.living.untilQuiet();
  };
  const desktop = async (): Promise<{ person: string | null; power: string; kept: number }[]> => {
    const { entries } = (await world.call('ida', 'GET', `/customers/QFB/environments/${own}/hosts`)).body;
    const page = (await world.call('ida', 'GET', `/customers/QFB/environments/${own}`)).body;
    const kept = page.keptDesktops as { key: string; until: number }[];
    return (entries as Host[]).map(({ key, person, wantedPower }) => ({
      person,
      power: wantedPower,
      kept: kept.filter((one) => one.key === key).length,
    }));
  };
  const of = async (account: string): Promise<string> => {
    const found = (await desktop()).find(({ person }) => person === account);
    return found ? `${found.power}${found.kept > 0 ? ', kept' : ''}` : 'none';
  };

  it('keeps the desktop of who leaves, and gives it back to who returns', async () => {
    expect(await of(ANA)).toBe('on');
    await told(everyone({ 0: null }));
    expect(await of(ANA)).toBe('off, kept');
    expect(await of(BO)).toBe('on');
    await told(everyone());
    expect(await of(ANA)).toBe('on');
  });

  it('gives it to nobody else who gets the account meanwhile', async () => {
    await told(everyone({ 0: null }));
    await told([
      ...everyone({ 0: null }),
      { ...entry(0), id: 'somebody new', given: 'Somebody', family: 'Else' },
    ]);
    expect(await of(ANA)).toBe('off, kept');
    await told(everyone({ 0: null }));
    await told(everyone());
    expect((await world.call('ida', 'GET', `/customers/QFB/people?find=${ANA}`)).body.entries).toHaveLength(
      1,
    );
  });

  it('leaves the desktop of somebody new alone, whoever had their account long ago', async () => {
    const account = PEOPLE[5]?.account ?? '';
    await told(everyone({ 5: null }));
    const somebodyNew = { ...entry(5), id: 'another person' };
    await told([...everyone({ 5: null }), somebodyNew]);
    await begin(world, 'QFB', 'assign-desktops', { pool: 'own', people: [account] }, { environment: own });
    await world.living.untilQuiet();
    await told([...everyone({ 5: null }), { ...somebodyNew, family: 'Otherwise' }]);
    expect(await of(account)).toBe('on');
  });

  it('goes along with another account of the same person', async () => {
    expect(await of(BO)).toBe('on');
    await told(everyone({ 1: { account: 'robert.new' } }));
    expect([await of(BO), await of('robert.new')]).toEqual(['none', 'on']);
    await told(everyone());
    expect([await of(BO), await of('robert.new')]).toEqual(['on', 'none']);
  });

  it('ends the sessions of who leaves, and of nobody else', async () => {
    await world.living.moveTo(Date.UTC(2026, 10, 19, 10, 0));
    await world.living.job('sessions');
    const sessions = async (): Promise<string[]> => {
      await world.living.job('session acts');
      await world.living.job('sessions');
      const { entries } = (await world.call('ida', 'GET', '/customers/QFB/sessions?limit=500')).body;
      return (entries as Session[]).map(({ account }) => account);
    };
    const before = await sessions();
    const leaver = PEOPLE.findIndex(({ account }, n) => n > 2 && before.includes(account));
    const account = PEOPLE[leaver]?.account ?? '';
    await fillDirectory(world, 'QFB', everyone({ [leaver]: null }));
    await world.living.moveTo(world.clock.at + 61_000);
    await followDirectories(world.app);
    const after = await sessions();
    expect(after).not.toContain(account);
    expect(after.length).toBeGreaterThan(0);
    const trail = await world.call('ida', 'GET', '/customers/QFB/trail?find=sign%20out');
    const ended = trail.body.entries as { actor: string; reason: string; after: { sessions: string[] } }[];
    expect(ended[0]).toMatchObject({ actor: 'Laager', reason: 'left the directory' });
    expect(ended[0]?.after.sessions.filter((one) => one.startsWith(`${account} on `))).not.toEqual([]);
    // One other's account was somebody's before who is back, and somebody's between who has left.
    const gone = [account, PEOPLE[5]?.account];
    expect(
      ended.flatMap(({ after }) => after.sessions).filter((one) => !gone.includes(one.split(' on ')[0])),
    ).toEqual([]);
  });
});
