import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DirectoryLink, LinkTry } from '../../src/contract';
import { control } from '../../src/demo/living';
import { openSealing, SYSTEM } from '../../src/server/access';
import { sealLinksAnew } from '../../src/server/directory-link';
import { openWorld, raise, SECRET_KEY, type Called, type World } from './setup/world';

const SECRET = 'a reader of the tests';
const person = (account: string, unit: string, over: object = {}): object => ({
  account,
  given: account,
  family: 'Holm',
  mail: `${account}@hsb.example`,
  unit,
  groups: ['Everyone'],
  disabled: false,
  ...over,
});

/** HSB has nobody yet; its directory has a seed house, an office, and some who cannot come. */
describe('the link to a customer’s directory', () => {
  let world: World;
  const fill = (people: readonly object[], realm = 'hsb.example'): Promise<unknown> =>
    control(world.directoryUrl, 'PUT', `/control/realms/${realm}`, {
      account: 'reader',
      secret: SECRET,
      people,
    });
  const PEOPLE = [
    person('ann', 'Seed house/Cold'),
    person('bo', 'Seed house/Warm', { groups: ['Everyone', 'Night'] }),
    person('cy', 'Office', { groups: ['Night'] }),
    person('dee', 'Seed house', { disabled: true }),
    person('eli', 'Office', { mail: '' }),
    person('fay', 'Office', { given: '=cmd()' }),
  ];
  beforeAll(async () => {
    world = await openWorld('directorylink');
    await fill(PEOPLE);
    await fill([person('zoe', 'Rooms')], 'mhp.example');
  });
  afterAll(() => world.close());

  const asked = (over: object = {}): object => ({
    account: 'reader',
    secret: SECRET,
    units: [],
    groups: [],
    ...over,
  });
  const call = (
    method: string,
    path: string,
    body?: object,
    who: 'ida' | 'petra' | 'jonah' = 'ida',
  ): Promise<Called> => world.call(who, method, `/customers/HSB/directory${path}`, body ? { body } : {});
  const tried = async (over: object = {}): Promise<LinkTry> =>
    (await call('POST', '/tried', asked(over))).body as unknown as LinkTry;
  const link = async (): Promise<DirectoryLink> => (await call('GET', '')).body as unknown as DirectoryLink;

  it('is signed in to for real, and counts who would come before anything is kept', async () => {
    expect(await tried()).toMatchObject({
      outcome: 'works',
      says: 'signed in; 6 are in it',
      people: 3,
      known: 0,
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
        { name: 'Everyone', people: 4 },
        { name: 'Night', people: 2 },
      ],
    });
    expect(await link()).toEqual({
      realm: 'hsb.example',
      account: null,
      units: [],
      groups: [],
      readAt: null,
      people: null,
    });
    expect((await world.call('ida', 'GET', '/customers/HSB/people')).body.entries).toEqual([]);
  });

  it('tells who cannot be taken in, and why', async () => {
    const { bad } = await tried();
    expect(bad).toEqual([expect.stringMatching(/^eli: .*mail/), expect.stringMatching(/^fay: .*formula/)]);
  });

  it.each([
    [{ units: ['Seed house'] }, 2, 3],
    [{ groups: ['Night'] }, 2, 4],
    [{ units: ['Seed house/Cold'], groups: ['Night'] }, 3, 3],
    [{ units: ['Nowhere'] }, 0, 6],
  ])('counts for the scope %j %i people', async (over, people, outside) => {
    expect(await tried(over)).toMatchObject({ people, outside });
  });

  it('fails with its own sentence where it does not let us in, and is not kept then', async () => {
    const wrong = asked({ secret: 'another' });
    expect((await call('POST', '/tried', wrong)).body).toMatchObject({
      outcome: 'fails',
      says: expect.stringContaining('account or secret is wrong'),
      fix: 'Copy account and secret again, whole and without spaces.',
    });
    const kept = await call('PUT', '', { ...wrong, reason: '' });
    expect([kept.status, Object.keys(kept.body.fields as object)]).toEqual([422, ['secret']]);
    expect((await call('PUT', '', { ...asked({ secret: null }), reason: '' })).body.fields).toEqual({
      secret: 'is not known yet',
    });
    expect((await call('POST', '/reading')).status).toBe(409);
  });

  it('is kept with its secret sealed, told to nobody, and used again where none is sent', async () => {
    expect((await call('PUT', '', { ...asked({ units: ['Seed house'] }), reason: 'theirs' })).status).toBe(
      200,
    );
    expect(await link()).toMatchObject({ account: 'reader', units: ['Seed house'] });
    const row = await world.app.db.row<{ secret: Buffer }>(
      'SELECT secret_sealed AS secret FROM directory_link',
    );
    expect(row?.secret.toString('latin1')).not.toContain(SECRET);
    const told = JSON.stringify([
      await link(),
      (await world.call('bram', 'GET', '/customers/HSB/trail')).body,
    ]);
    expect(told).not.toContain(SECRET);
    expect((await call('POST', '/tried', asked({ secret: null }))).body.outcome).toBe('works');
  });

  it('takes in who is in scope, once, and takes nobody away', async () => {
    expect((await call('POST', '/reading')).body).toMatchObject({
      kept: true,
      added: 2,
      changed: 0,
      badRows: 0,
    });
    expect((await call('POST', '/reading')).body).toMatchObject({ added: 0 });
    expect(await tried()).toMatchObject({ people: 3, known: 2 });
    await call('PUT', '', { ...asked({ units: ['Office'] }), reason: '' });
    expect((await call('POST', '/reading')).body).toMatchObject({ added: 1, badRows: 2 });
    const { entries } = (await world.call('ida', 'GET', '/customers/HSB/people')).body as {
      entries: readonly unknown[];
    };
    expect(entries).toHaveLength(3);
    expect(await link()).toMatchObject({ people: 1, readAt: world.clock.at });
  });

  it('takes in nobody where the plan has no room for all of them', async () => {
    await raise(world, 'HSB', 'people', 300);
    const many = Array.from({ length: 400 }, (_, n) => person(`p${n}`, 'Seed house'));
    await fill([...PEOPLE, ...many]);
    expect(await tried()).toMatchObject({ fits: false });
    await call('PUT', '', { ...asked(), reason: '' });
    const refused = await call('POST', '/reading');
    expect(refused.status).toBe(422);
    const { entries } = (await world.call('ida', 'GET', '/customers/HSB/people')).body as {
      entries: readonly unknown[];
    };
    expect(entries).toHaveLength(3);
    await fill(PEOPLE);
  });

  it('reads no other customer’s directory, and is told to nobody who does not reach them', async () => {
    const { body } = await world.call('ida', 'POST', '/customers/MHP/directory/tried', { body: asked() });
    expect(body).toMatchObject({ outcome: 'works', people: 1 });
    expect((await call('GET', '', undefined, 'jonah')).status).toBe(404);
    expect((await call('POST', '/tried', asked(), 'petra')).status).toBe(403);
  });

  it('has its secret sealed by another key', async () => {
    const next = openSealing('another key of at least thirty-two characters', SECRET_KEY);
    expect(await sealLinksAnew({ ...world.app, sealing: next }, SYSTEM)).toBe(1);
    expect(await sealLinksAnew({ ...world.app, sealing: next }, SYSTEM)).toBe(0);
  });
});
