import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { OVER_SCIM } from '../../src/contract';
import type { DirectoryLink, LinkTry, Person } from '../../src/contract';
import { control } from '../../src/demo/living';
import { openSealing, SYSTEM } from '../../src/server/access';
import type { App } from '../../src/server/app';
import type { DirectoryReader } from '../../src/server/directory';
import { followDirectories, sealLinksAnew } from '../../src/server/directory-link';
import { knownGroups } from '../../src/server/people';
import {
  DIRECTORY_TOKEN as TOKEN,
  fillDirectory,
  openWorld,
  raise,
  SECRET_KEY,
  type Called,
  type World,
} from './setup/world';

interface Entry {
  readonly account: string;
  readonly id?: string;
  readonly unit: string;
  readonly groups: readonly string[];
  readonly disabled: boolean;
  readonly [more: string]: unknown;
}
const person = (account: string, unit: string, over: object = {}): Entry => ({
  account,
  given: account,
  family: 'Holm',
  mail: `${account}@hsb.example`,
  unit,
  groups: ['Everyone'],
  disabled: false,
  ...over,
});
const PEOPLE = [
  person('ann', 'Seed house/Cold'),
  person('bo', 'Seed house/Warm', { groups: ['Everyone', 'Night'] }),
  person('cy', 'Office', { groups: ['Night'] }),
  person('dee', 'Seed house', { disabled: true }),
  person('eli', 'Office', { mail: '' }),
  person('fay', 'Office', { given: '=cmd()' }),
];
const many = (count: number): Entry[] =>
  Array.from({ length: count }, (_, n) => person(`p${n}`, 'Seed house'));

/** HSB has nobody yet; its directory has a seed house, an office, and some who cannot come. */
describe('the link to a customer’s directory', () => {
  let world: World;
  const fill = (
    people: readonly object[],
    realm = 'hsb.example',
    groups: readonly object[] = [],
  ): Promise<unknown> => fillDirectory(world, realm.split('.')[0] ?? '', people, groups);
  beforeAll(async () => {
    world = await openWorld('directorylink');
    await fill(PEOPLE);
    await fill([person('zoe', 'Rooms')], 'mhp.example');
  });
  afterAll(() => world.close());

  const asked = (over: object = {}): object => ({ secret: TOKEN, units: [], groups: [], ...over });
  const call = (
    method: string,
    path: string,
    body?: object,
    who: 'ida' | 'petra' | 'jonah' = 'ida',
  ): Promise<Called> => world.call(who, method, `/customers/HSB/directory${path}`, body ? { body } : {});
  const tried = async (over: object = {}): Promise<LinkTry> =>
    (await call('POST', '/tried', asked(over))).body as unknown as LinkTry;
  const link = async (): Promise<DirectoryLink> => (await call('GET', '')).body as unknown as DirectoryLink;
  const keep = (over: object = {}): Promise<Called> => call('PUT', '', { ...asked(over), reason: '' });
  const people = async (): Promise<Person[]> =>
    (await world.call('ida', 'GET', '/customers/HSB/people?limit=1000')).body.entries as Person[];
  const accounts = async (): Promise<string> => (await people()).map(({ account }) => account).join(' ');
  /** Has it read now, as the worker would. */
  const take = async (agree: string | null = null): Promise<DirectoryLink> => {
    await call('POST', '/reading', { agree });
    await followDirectories(world.app);
    return link();
  };
  /** As the worker would by itself, a minute later. */
  const aMinuteLater = async (): Promise<DirectoryLink> => {
    world.clock.at += 61_000;
    await followDirectories(world.app);
    return link();
  };
  const groups = async (): Promise<string> => {
    const known = await knownGroups(world.app.db, await world.inside('HSB'));
    return known
      .map((one) => `${one.name}${one.inScope ? '' : '?'}:${[...one.people].sort().join()}`)
      .join(' ');
  };

  it('is read for real, and counts who would come before anything is kept', async () => {
    expect(await tried()).toMatchObject({
      outcome: 'works',
      says: '6 people and 2 groups are in it',
      people: 3,
      added: 3,
      left: 0,
      disabled: 1,
      outside: 0,
      unfit: 2,
      units: [
        { name: 'Office', people: 3 },
        { name: 'Seed house', people: 2 },
        { name: 'Seed house/Cold', people: 1 },
        { name: 'Seed house/Warm', people: 1 },
      ],
      groups: [
        { id: 'g-everyone', name: 'Everyone', people: 4 },
        { id: 'g-night', name: 'Night', people: 2 },
      ],
    });
    expect(await link()).toEqual({
      realm: 'hsb.example',
      linked: false,
      ...OVER_SCIM,
      units: [],
      groups: [],
      state: 'linked',
      says: '',
      leaving: null,
      readAt: null,
      people: null,
      bad: [],
      movedAt: null,
    });
    expect(await people()).toEqual([]);
  });

  it('tells who cannot be taken in, and why', async () => {
    const { bad } = await tried();
    expect(bad).toEqual([expect.stringMatching(/^eli: .*mail/), expect.stringMatching(/^fay: .*formula/)]);
  });

  it.each([
    [{ units: ['Seed house'] }, 2, 3],
    [{ groups: ['g-night'] }, 2, 4],
    [{ units: ['Seed house/Cold'], groups: ['g-night'] }, 3, 3],
    [{ units: ['Nowhere'] }, 0, 6],
  ])('counts for the scope %j %i people', async (over, count, outside) => {
    expect(await tried(over)).toMatchObject({ people: count, outside });
  });

  it('fails with its own sentence where it does not let us in, and is not kept then', async () => {
    const wrong = { secret: 'another' };
    expect((await call('POST', '/tried', asked(wrong))).body).toMatchObject({
      outcome: 'fails',
      says: 'directory says: the token is wrong',
      fix: 'Copy the token again, whole and without spaces.',
    });
    const kept = await keep(wrong);
    expect([kept.status, Object.keys(kept.body.fields as object)]).toEqual([422, ['secret']]);
    expect((await keep({ secret: null })).body.fields).toEqual({ secret: 'is not known yet' });
    expect((await call('POST', '/reading', { agree: null })).status).toBe(409);
  });

  it('is kept with its token sealed, told to nobody, and used again where none is sent', async () => {
    expect((await keep({ units: ['Seed house'] })).status).toBe(200);
    expect(await link()).toMatchObject({ linked: true, units: ['Seed house'], readAt: null });
    const row = await world.app.db.row<{ secret: Buffer }>(
      'SELECT secret_sealed AS secret FROM directory_link',
    );
    expect(row?.secret.toString('latin1')).not.toContain(TOKEN);
    const told = JSON.stringify([
      await link(),
      (await world.call('bram', 'GET', '/customers/HSB/trail')).body,
    ]);
    expect(told).not.toContain(TOKEN);
    expect(await tried({ secret: null })).toMatchObject({ outcome: 'works' });
  });

  it('is not read by itself before somebody has had it taken in', async () => {
    await aMinuteLater();
    expect(await people()).toEqual([]);
  });

  it('takes in who is in scope with the groups there, and names those outside without who is in them', async () => {
    expect(await take()).toMatchObject({ state: 'linked', says: '', people: 2, readAt: world.clock.at });
    expect(await accounts()).toBe('ann bo');
    expect((await people())[0]).toMatchObject({ given: 'ann', unit: 'Seed house/Cold' });
    expect(await groups()).toBe('Everyone?: Night?:');
    expect(await tried({ units: ['Seed house'] })).toMatchObject({
      added: 0,
      changed: 0,
      left: 0,
      people: 2,
    });
  });

  it('keeps nothing of those outside the scope once it is read', async () => {
    const left = await world.app.db.row<{ pages: number; strays: number }>(
      `SELECT (SELECT COUNT(*) FROM directory_page) AS pages,
         (SELECT COUNT(*) FROM person WHERE account IN ('cy','eli')) AS strays`,
    );
    expect(left).toEqual({ pages: 0, strays: 0 });
  });

  it('follows who comes, is renamed, is switched off and is back, by what changed alone', async () => {
    await keep();
    await take();
    expect(await accounts()).toBe('ann bo cy');
    const before = await people();
    await fill([
      person('ann', 'Seed house/Cold', { family: 'Ek' }),
      person('robert', 'Seed house/Warm', { id: 'u-bo', groups: ['Night'] }),
      person('cy', 'Office', { groups: ['Night'], disabled: true }),
      person('gil', 'Office', { groups: ['Night'] }),
      ...PEOPLE.slice(3),
    ]);
    await aMinuteLater();
    const after = await people();
    expect(after.map(({ account, family }) => `${account} ${family}`)).toEqual([
      'ann Ek',
      'gil Holm',
      'robert Holm',
    ]);
    expect(after.find((one) => one.account === 'robert')?.id).toBe(
      before.find((one) => one.account === 'bo')?.id,
    );
    expect(await groups()).toBe('Everyone:u-ann,u-dee,u-eli,u-fay Night:u-bo,u-cy,u-gil');
    await fill(PEOPLE);
    await aMinuteLater();
    expect(await accounts()).toBe('ann bo cy');
    expect((await people()).find((one) => one.account === 'cy')?.id).toBe(
      before.find((one) => one.account === 'cy')?.id,
    );
  });

  it('sees that somebody is gone, though a directory tells only what it still has', async () => {
    await fill(PEOPLE.filter(({ account }) => account !== 'bo'));
    await aMinuteLater();
    expect(await accounts()).toBe('ann cy');
    await fill(PEOPLE);
    await aMinuteLater();
    expect(await accounts()).toBe('ann bo cy');
  });

  /** The app, with a directory that answers otherwise. */
  const reading = (otherwise: (reader: DirectoryReader, realm: string) => Partial<DirectoryReader>): App => ({
    ...world.app,
    directory: {
      ...world.app.directory,
      reader: (place, secret) => {
        const reader = world.app.directory.reader(place, secret);
        return { ...reader, ...(place.via === 'scim' ? otherwise(reader, place.realm) : {}) };
      },
    },
  });
  /** Something happens once the groups of a customer were read. */
  const readingWith = (between: (realm: string) => Promise<void>): App =>
    reading((reader, realm) => ({
      groups: async (which) => {
        const page = await reader.groups(which);
        await between(realm);
        return page;
      },
    }));
  /** Of those who changed, only these are told: as though all else was longer ago. */
  const telling = (...ids: string[]): App =>
    reading((reader) => ({
      people: async (which) => {
        const { entries, at } = await reader.people({ ...which, from: 0 });
        const some = entries.filter(({ id }) => ids.includes(id));
        return { entries: some, total: some.length, at };
      },
    }));

  it('finds out who is gone from the groups that they were in, without asking for everyone', async () => {
    const asked: string[] = [];
    const app = reading((reader) => ({
      people: async (which) => ({ ...(await reader.people(which)), entries: [], total: 0 }),
      ids: (of, from) => {
        asked.push(of);
        return reader.ids(of, from);
      },
    }));
    await fill(PEOPLE.filter(({ account }) => account !== 'bo'));
    world.clock.at += 61_000;
    await followDirectories(app);
    expect(await accounts()).toBe('ann cy');
    expect(asked).toEqual([]);
    // Cy is out of every group and still there, and somebody in no group is gone: everyone is asked for then.
    await fill([
      person('ann', 'Seed house/Cold'),
      person('cy', 'Office', { groups: [] }),
      person('jo', 'Office', { groups: [] }),
    ]);
    await aMinuteLater();
    await fill([person('ann', 'Seed house/Cold', { groups: [] }), person('cy', 'Office', { groups: [] })]);
    world.clock.at += 61_000;
    await followDirectories(app);
    expect(await accounts()).toBe('ann cy');
    expect(asked).toContain('people');
    await fill(PEOPLE);
    await aMinuteLater();
    expect(await accounts()).toBe('ann bo cy');
  });

  it.each([
    ['before it has been taken in', undefined],
    ['when it has been, before it rests', 'DELETE FROM directory_page WHERE customer_id = ?'],
  ])('is read again at once where somebody asks while it is read: %s', async (_when, statement) => {
    let isAsked = false;
    const askOnce = async (): Promise<void> => {
      if (isAsked) return;
      isAsked = true;
      await fill([person('ann', 'Seed house/Cold', { family: 'Otherwise' }), ...PEOPLE.slice(1)]);
      await call('POST', '/reading', { agree: null });
    };
    const { db } = world.app;
    const write: typeof db.write = async (said, values) => {
      const done = await db.write(said, values);
      if (statement !== undefined && typeof said === 'string' && said.startsWith(statement)) await askOnce();
      return done;
    };
    const app =
      statement === undefined ? readingWith(askOnce) : { ...world.app, db: { ...world.app.db, write } };
    world.clock.at += 61_000;
    await followDirectories(app);
    expect(isAsked).toBe(true);
    // Without a minute going by.
    await followDirectories(world.app);
    expect((await people()).find(({ account }) => account === 'ann')?.family).toBe('Otherwise');
    expect(await link()).toMatchObject({ state: 'linked' });
    await fill(PEOPLE);
    await aMinuteLater();
  });

  it('is not begun any more once the worker is to end; what is in hand is ended', async () => {
    const stop = new AbortController();
    const { readAt } = await link();
    world.clock.at += 61_000;
    const app = readingWith(async () => {
      stop.abort();
      await call('POST', '/reading', { agree: null });
    });
    await followDirectories(app, stop.signal);
    // Somebody asked meanwhile: whoever works on has it.
    expect(await link()).toMatchObject({ state: 'asked', readAt });
    await followDirectories(world.app);
    expect(await link()).toMatchObject({ state: 'linked', readAt: world.clock.at });
  });

  it('goes on naming who could not be taken in, until they can be', async () => {
    const bad = [expect.stringMatching(/^eli: .*mail/), expect.stringMatching(/^fay: .*formula/)];
    expect(await link()).toMatchObject({ says: '2 cannot be taken in', bad });
    await fill([person('ann', 'Seed house/Cold', { family: 'Ek' }), ...PEOPLE.slice(1)]);
    const moved = await aMinuteLater();
    expect(moved).toMatchObject({ says: '2 cannot be taken in', bad, people: 3, movedAt: world.clock.at });
    expect(await aMinuteLater()).toMatchObject({ readAt: world.clock.at, movedAt: moved.movedAt });
    await fill(PEOPLE.map((one) => (one.account === 'eli' ? { ...one, mail: 'eli@hsb.example' } : one)));
    expect(await aMinuteLater()).toMatchObject({
      says: '1 cannot be taken in',
      bad: bad.slice(1),
      people: 4,
    });
    await fill(PEOPLE.filter(({ account }) => account !== 'fay' && account !== 'eli'));
    expect(await aMinuteLater()).toMatchObject({ says: '', bad: [], people: 3 });
    await fill(PEOPLE);
    expect(await aMinuteLater()).toMatchObject({ says: '2 cannot be taken in', bad, people: 3 });
  });

  it('names nobody any longer who is gone', async () => {
    // Bo is here, and what the directory says of him by now cannot be taken in; then he is gone, and only his group is told.
    await fill(PEOPLE.map((one) => (one.account === 'bo' ? { ...one, mail: '' } : one)));
    expect((await aMinuteLater()).bad).toContainEqual(expect.stringMatching(/^bo: .*mail/));
    expect(await accounts()).toBe('ann bo cy');
    await fill(PEOPLE.filter(({ account }) => account !== 'bo'));
    world.clock.at += 61_000;
    await followDirectories(telling());
    expect(await accounts()).toBe('ann cy');
    expect((await link()).bad).not.toContainEqual(expect.stringMatching(/^bo/));
    await fill(PEOPLE);
    await aMinuteLater();
    expect(await accounts()).toBe('ann bo cy');
  });

  it('takes in whom it tells of as it would with everyone beside them', async () => {
    const csv = 'account,given,family,mail\nhal,Hal,Reed,hal@hsb.example\n';
    expect(await world.call('ida', 'POST', '/customers/HSB/people/import?keep=all', { csv })).toMatchObject({
      status: 200,
      body: { added: 1 },
    });
    const [ann, bo, ...others] = PEOPLE;
    await fill([
      { ...ann, account: 'anna', id: 'u-ann', groups: [] },
      { ...bo, disabled: true },
      ...others,
      person('jo', 'Office', { groups: [] }),
      person('hal', 'Office', { groups: ['Night', 'New'] }),
      person('ivy', 'Office', { groups: [], mail: '' }),
    ]);
    world.clock.at += 61_000;
    await followDirectories(telling('u-ann', 'u-bo', 'u-hal', 'u-jo', 'u-ivy'));
    const told = await people();
    const said = await link();
    const toldGroups = await groups();
    expect(toldGroups).toBe('Everyone:u-bo,u-dee,u-eli,u-fay New:u-hal Night:u-bo,u-cy,u-hal');
    expect(told.map(({ account }) => account)).toEqual(['anna', 'cy', 'hal', 'jo']);
    expect(said).toMatchObject({ says: '3 cannot be taken in', people: 4 });
    await world.app.db.write('UPDATE directory_link SET since = NULL');
    await aMinuteLater();
    expect(await people()).toEqual(told);
    expect(await groups()).toBe(toldGroups);
    expect(new Set((await link()).bad)).toEqual(new Set(said.bad));
    // That the others are gone again, nobody tells.
    await fill(PEOPLE);
    world.clock.at += 61_000;
    await followDirectories(telling('u-ann', 'u-bo'));
    expect(await accounts()).toBe('ann bo cy');
  });

  it('asks for whom a group names who was outside its scope before', async () => {
    await keep({ groups: ['g-night'] });
    await take();
    expect(await accounts()).toBe('bo cy');
    const ann = person('ann', 'Seed house/Cold', { groups: ['Everyone', 'Night'] });
    await fill([ann, ...PEOPLE.slice(1)]);
    await aMinuteLater();
    expect(await accounts()).toBe('ann bo cy');
    await fill(PEOPLE);
    await aMinuteLater();
    expect(await accounts()).toBe('bo cy');
  });

  it('reads groups within groups, round a circle too', async () => {
    const inner = [
      { name: 'Seeds', groups: ['Night', 'Circle'] },
      { name: 'Circle', groups: ['Seeds'] },
    ];
    await fill(PEOPLE, 'hsb.example', inner);
    await keep({ groups: ['g-seeds'] });
    await take();
    expect(await accounts()).toBe('bo cy');
    await fill(PEOPLE);
    await keep();
    await take();
  });

  it('reads who is in a group that comes into its scope only because another group holds it now', async () => {
    const night = (groups: string[]): object[] => [{ name: 'Night', groups }, { name: 'Seeds' }];
    const people = PEOPLE.map((one) => (one.account === 'ann' ? { ...one, groups: ['Seeds'] } : one));
    await fill(people, 'hsb.example', night([]));
    await keep({ groups: ['g-night'] });
    await take();
    expect(await accounts()).toBe('bo cy');
    await fill(people, 'hsb.example', night(['Seeds']));
    await aMinuteLater();
    expect(await accounts()).toBe('ann bo cy');
    await fill(PEOPLE);
    await keep();
    await take();
  });

  it('stops when much would leave, and goes on when just that was agreed to', async () => {
    await raise(world, 'HSB', 'people', 300);
    await fill([...PEOPLE, ...many(40)]);
    await aMinuteLater();
    expect(await people()).toHaveLength(43);
    await fill([...PEOPLE, ...many(25)]);
    const stopped = await aMinuteLater();
    expect(stopped).toMatchObject({
      state: 'stopped',
      says: expect.stringContaining('15 of 43 people would leave'),
    });
    expect(await people()).toHaveLength(43);
    await world.living.job('summary');
    const watch = await world.call('ida', 'GET', '/watch');
    expect(watch.text).toContain('15 of 43 people would leave');
    // By itself it is not tried again, and nobody agrees to what they have not seen.
    await aMinuteLater();
    expect(await people()).toHaveLength(43);
    expect((await call('POST', '/reading', { agree: 'a'.repeat(64) })).status).toBe(409);
    await fill([...PEOPLE, ...many(20)]);
    const others = await take(stopped.leaving);
    expect(others).toMatchObject({ state: 'stopped', says: expect.stringContaining('20 of 43') });
    expect(await people()).toHaveLength(43);
    expect(await take(others.leaving)).toMatchObject({ state: 'linked', leaving: null });
    expect(await people()).toHaveLength(23);
  });

  it('takes in nobody where the plan has no room for all of them', async () => {
    await fill([...PEOPLE, ...many(400)]);
    expect(await tried()).toMatchObject({ fits: false });
    expect(await take()).toMatchObject({
      state: 'stopped',
      says: expect.stringMatching(/^The plan allows 300 people/),
    });
    expect(await people()).toHaveLength(23);
    await fill([...PEOPLE, ...many(20)]);
    expect(await take()).toMatchObject({ state: 'linked' });
  });

  it('goes on asking where it does not answer, and says so', async () => {
    await control(world.directoryUrl, 'PUT', '/control/realms/hsb.example', {
      token: 'changed meanwhile',
      people: [...PEOPLE, ...many(20)],
    });
    expect(await take()).toMatchObject({ state: 'linked', says: 'directory says: the token is wrong' });
    expect(await people()).toHaveLength(23);
    await fill([...PEOPLE, ...many(20), person('hal', 'Office')]);
    await aMinuteLater();
    expect(await people()).toHaveLength(24);
  });

  it('reads no other customer’s directory, and is told to nobody who does not reach them', async () => {
    const { body } = await world.call('ida', 'POST', '/customers/MHP/directory/tried', { body: asked() });
    expect(body).toMatchObject({ outcome: 'works', added: 1 });
    expect((await call('GET', '', undefined, 'jonah')).status).toBe(404);
    expect((await call('POST', '/tried', asked(), 'petra')).status).toBe(403);
  });

  it('keeps no other customer waiting while it takes long', async () => {
    const mhp = (method: string, path: string, body?: object): Promise<Called> =>
      world.call('ida', method, `/customers/MHP/directory${path}`, body ? { body } : {});
    let begin = (): void => undefined;
    const begun = new Promise<void>((resolve) => (begin = resolve));
    let open = (): void => undefined;
    const opened = new Promise<void>((resolve) => (open = resolve));
    const app = readingWith(async (realm) => {
      if (realm !== 'hsb.example') return;
      begin();
      await opened;
    });
    await call('POST', '/reading', { agree: null });
    const following = followDirectories(app);
    await begun;
    await mhp('PUT', '', { ...asked(), reason: '' });
    await mhp('POST', '/reading', { agree: null });
    await vi.waitFor(
      async () => expect((await mhp('GET', '')).body).toMatchObject({ state: 'linked', people: 1 }),
      {
        timeout: 10_000,
      },
    );
    expect(await link()).toMatchObject({ state: 'asked' });
    open();
    await following;
    expect(await link()).toMatchObject({ state: 'linked' });
  });

  it('has its token sealed by another key', async () => {
    const next = openSealing('another key of at least thirty-two characters', SECRET_KEY);
    expect(await sealLinksAnew({ ...world.app, sealing: next }, SYSTEM)).toBe(2);
    expect(await sealLinksAnew({ ...world.app, sealing: next }, SYSTEM)).toBe(0);
  });
});
