import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { LinkTry, Person, PersonDetail } from '../../src/contract';
import { BULK, GROUP, PATCH, PLACE, USER } from '../../src/core/scim';
import { followDirectories } from '../../src/server/directory-link';
import { answerPush } from '../../src/server/pages';
import { openWorld, type World } from './setup/world';

const TOKEN = 'a token that nobody guesses, of more than 24';

interface Told {
  readonly status: number;
  readonly etag: string | null;
  readonly body: Readonly<Record<string, unknown>> & { readonly id: string; readonly totalResults: number };
}

/** What a customer's directory pushes to us (RFC 7644); QFB's and FPS's do. Sections are those of the RFC. */
describe('a directory that pushes', { timeout: 120_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('pushed');
    for (const code of ['QFB', 'FPS'])
      expect((await link(code, { secret: `${TOKEN} ${code}` })).status).toBe(200);
  });
  afterAll(() => world.close());

  const link = (code: string, over: object = {}) =>
    world.call('ida', 'PUT', `/customers/${code}/directory`, {
      body: { via: 'push', secret: null, units: [], groups: [], reason: '', ...over },
    });
  const push = async (
    method: string,
    path: string,
    body?: object,
    {
      code = 'QFB',
      token = `${TOKEN} ${code}`,
      headers = {},
    }: { code?: string; token?: string; headers?: object } = {},
  ): Promise<Told> => {
    const response = await answerPush(
      world.app,
      new Request(`http://laager.test/scim/v2/${code}/${path}`, {
        method,
        headers: { authorization: `Bearer ${token}`, 'content-type': 'application/scim+json', ...headers },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      }),
    );
    const text = await response.text();
    return {
      status: response.status,
      etag: response.headers.get('etag'),
      body: (text === '' ? {} : JSON.parse(text)) as Told['body'],
    };
  };
  const user = (name: string, over: object = {}): object => ({
    schemas: [USER],
    userName: name,
    name: { givenName: name, familyName: 'Quill' },
    emails: [{ value: `${name}@qfb.example`, primary: true }],
    active: true,
    ...over,
  });
  const patch = (operations: readonly object[]): object => ({ schemas: [PATCH], Operations: operations });
  const follow = async (): Promise<void> => {
    await world.app.db.write('UPDATE directory_link SET due_wall = 0');
    await followDirectories(world.app);
  };
  const people = async (code = 'QFB'): Promise<Person[]> =>
    (await world.call('ida', 'GET', `/customers/${code}/people?limit=1000`)).body.entries as Person[];

  /** Those from a file stay who they were: they are in no directory. */
  const pushedOf = (known: readonly Person[]): string[] =>
    known.flatMap(({ account }) => (account.includes('.') ? [] : [account])).sort();

  it('says what it serves (RFC 7643, sections 5 to 7), to nobody without the token', async () => {
    const { status, body } = await push('GET', 'ServiceProviderConfig');
    expect([status, body.patch]).toEqual([200, { supported: true }]);
    expect((await push('GET', 'ResourceTypes')).body.totalResults).toBe(2);
    for (const wrong of ['', 'wrong', `${TOKEN} FPS`, `${TOKEN} QFB `.trim() + 'x'])
      expect((await push('GET', 'Users', undefined, { token: wrong })).status).toBe(401);
    for (const code of ['SVG', 'NOPE', 'MSP', '%27', '%C3%A9', 'qfb'])
      expect((await push('GET', 'Users', undefined, { code, token: `${TOKEN} QFB` })).status).toBe(401);
  });

  it('pushes people and groups one by one, who come once somebody has it taken in, in their groups', async () => {
    const made = [];
    for (const name of ['ann', 'bo', 'cleo']) {
      const { status, body } = await push(
        'POST',
        'Users',
        user(name, { [PLACE]: { unit: 'Bindery/Sewing' } }),
      );
      expect(status).toBe(201);
      made.push(body.id);
    }
    const group = await push('POST', 'Groups', {
      schemas: [GROUP],
      displayName: 'Sewers',
      members: made.slice(0, 2).map((value) => ({ value, type: 'User' })),
    });
    await push('POST', 'Groups', {
      schemas: [GROUP],
      displayName: 'Bindery',
      members: [{ value: group.body.id, type: 'Group' }],
    });
    // Until somebody says so nobody comes; what would, is told for real.
    await follow();
    expect((await people()).map(({ account }) => account)).not.toContain('ann');
    const { body } = await world.call('ida', 'POST', '/customers/QFB/directory/tried', {
      body: { via: 'push', secret: null, units: [], groups: [] },
    });
    expect(body as unknown as LinkTry).toMatchObject({ outcome: 'works', people: 3, added: 3 });
    await world.call('ida', 'POST', '/customers/QFB/directory/reading', { body: {} });
    await follow();
    const known = await people();
    expect(pushedOf(known)).toEqual(['ann', 'bo', 'cleo']);
    const ann = known.find(({ account }) => account === 'ann');
    const detail = (await world.call('ida', 'GET', `/customers/QFB/people/${ann?.id ?? ''}`))
      .body as unknown as PersonDetail;
    expect(detail.unit).toBe('Bindery/Sewing');
    expect(detail.groups.map(({ name }) => name).sort()).toEqual(['Bindery', 'Sewers']);
  });

  it('renames, switches off and takes away (3.5.2, 3.6), which is followed by itself', async () => {
    const of = async (name: string): Promise<string> =>
      (
        (await push('GET', `Users?filter=${encodeURIComponent(`userName eq "${name}"`)}`)).body.Resources as {
          id: string;
        }[]
      )[0]?.id ?? '';
    const [ann, bo] = [await of('ANN'), await of('bo')];
    const before = await people();
    expect(
      (await push('PATCH', `Users/${ann}`, patch([{ op: 'replace', path: 'userName', value: 'anna' }])))
        .status,
    ).toBe(200);
    await follow();
    expect((await people()).find(({ account }) => account === 'anna')?.id).toBe(
      before.find(({ account }) => account === 'ann')?.id,
    );
    await push('PATCH', `Users/${bo}`, patch([{ op: 'replace', value: { active: false } }]));
    await follow();
    expect(pushedOf(await people())).toEqual(['anna', 'cleo']);
    expect((await push('DELETE', `Users/${ann}`)).status).toBe(204);
    expect((await push('GET', `Users/${ann}`)).status).toBe(404);
    const { body } = await push('GET', 'Groups?filter=displayName%20eq%20%22Sewers%22');
    expect(
      (body.Resources as { members: { value: string }[] }[])[0]?.members.map(({ value }) => value),
    ).toEqual([bo]);
  });

  it('changes only what it knew (3.14), and makes no two of one name (3.3)', async () => {
    const { body, etag } = await push('POST', 'Users', user('dora'));
    const rename = (headers: object) =>
      push('PATCH', `Users/${body.id}`, patch([{ op: 'replace', path: 'name.familyName', value: 'Quire' }]), {
        headers,
      });
    expect((await rename({ 'if-match': 'W/"99"' })).status).toBe(412);
    expect((await rename({ 'if-match': etag ?? '' })).status).toBe(200);
    expect((await push('POST', 'Users', user('DORA'))).body).toMatchObject({
      status: '409',
      scimType: 'uniqueness',
    });
    const at = await Promise.all([push('POST', 'Users', user('eve')), push('POST', 'Users', user('Eve'))]);
    expect(at.map(({ status }) => status).sort()).toEqual([201, 409]);
  });

  it('refuses what is none, and keeps nothing of it', async () => {
    const count = async (): Promise<number> => (await push('GET', 'Users?count=0')).body.totalResults;
    const before = await count();
    for (const [bad, status] of [
      [user(''), 400],
      [{ schemas: [USER] }, 400],
      [user('x', { emails: 'none' }), 400],
      [[], 400],
    ] as const)
      expect((await push('POST', 'Users', bad)).status).toBe(status);
    expect((await push('POST', 'Users', user('x', { note: 'x'.repeat(4_000_000) }))).status).toBe(413);
    expect((await push('PUT', 'Users', user('x'))).status).toBe(405);
    expect((await push('GET', 'Nothing')).status).toBe(404);
    for (const id of ['%C3%A9', "x'or'1", '%00', 'x'.repeat(300)])
      expect([id, (await push('GET', `Users/${id}`)).status]).toEqual([id, 404]);
    expect((await push('GET', 'Users?filter=nonsense')).body).toMatchObject({ scimType: 'invalidFilter' });
    expect((await push('PATCH', 'Users/x', patch([]))).status).toBe(404);
    expect(await count()).toBe(before);
  });

  it('pushes many at once (3.7)', async () => {
    const { body } = await push('POST', 'Bulk', {
      schemas: [BULK],
      Operations: [
        { method: 'POST', path: '/Users', bulkId: 'one', data: user('finn') },
        {
          method: 'POST',
          path: '/Groups',
          bulkId: 'g',
          data: {
            schemas: [GROUP],
            displayName: 'Pressers',
            members: [{ value: 'bulkId:one', type: 'User' }],
          },
        },
      ],
    });
    expect((body.Operations as { status: string; location: string }[]).map(({ status }) => status)).toEqual([
      '201',
      '201',
    ]);
    expect((body.Operations as { location: string }[])[0]?.location).toMatch(/^\/scim\/v2\/QFB\/Users\/\w+$/);
  });

  it('reaches nothing of another customer, whatever id it names', async () => {
    const { body } = await push('POST', 'Users', user('theirs'), { code: 'FPS' });
    for (const method of ['GET', 'DELETE']) expect((await push(method, `Users/${body.id}`)).status).toBe(404);
    expect((await push('PUT', `Users/${body.id}`, user('mine'))).status).toBe(404);
    // The same name is somebody else there.
    expect((await push('POST', 'Users', user('theirs'))).status).toBe(201);
    expect(
      (await push('GET', 'Users?filter=userName%20eq%20%22theirs%22', undefined, { code: 'FPS' })).body
        .totalResults,
    ).toBe(1);
  });

  it('with another token or way lets the one before in no more', async () => {
    expect((await link('FPS', { secret: 'short' })).body.fields).toHaveProperty('secret');
    const next = 'another token, as long as the first';
    expect((await link('FPS', { secret: next })).status).toBe(200);
    expect((await push('GET', 'Users', undefined, { code: 'FPS' })).status).toBe(401);
    expect((await push('GET', 'Users', undefined, { code: 'FPS', token: next })).status).toBe(200);
  });
});
