import type { Server } from 'node:http';
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest';
import { freePort } from '../../scripts/lib.mjs';
import { BULK, ENTERPRISE_USER, GROUP, LIST, PATCH, USER } from '../../src/core/scim';
import { scimReader } from '../../src/server/directory/scim';
import { startDirectory } from '../../src/standins/directory/start';
import type { Store } from '../../src/standins/kit/database';
import { own } from '../server/setup/ports';

const TOKEN = 'a token of these tests';

interface Scim {
  readonly status: number;
  readonly etag: string | null;
  readonly body: {
    readonly id: string;
    readonly userName?: string;
    readonly totalResults: number;
    readonly itemsPerPage: number;
    readonly Resources: readonly { readonly id: string; readonly [more: string]: unknown }[];
    readonly Operations: readonly { readonly status: string; readonly location?: string }[];
    readonly [more: string]: unknown;
  };
}

/** The simulated directory as any client of SCIM 2.0 meets it. Sections are those of RFC 7644. */
describe('a directory that speaks SCIM', () => {
  let running: { server: Server; store: Store };
  let url = '';
  beforeAll(async () => {
    const port = await freePort(own(4975));
    running = await startDirectory(
      {
        host: '127.0.0.1',
        port: inject('databasePort'),
        user: 'root',
        password: '',
        database: 'standin_scim',
      },
      port,
      'a key',
    );
    url = `http://127.0.0.1:${port}`;
    for (const realm of ['a.example', 'b.example'])
      await fetch(`${url}/control/realms/${realm}`, {
        method: 'PUT',
        body: JSON.stringify({ token: `${TOKEN} ${realm}`, people: [] }),
      });
  });
  afterAll(async () => {
    running.server.closeAllConnections();
    await new Promise((resolve) => running.server.close(resolve));
    await running.store.close();
  });

  const call = async (
    method: string,
    path: string,
    body?: object,
    headers: Readonly<Record<string, string>> = {},
  ): Promise<Scim> => {
    const response = await fetch(`${url}/realms/a.example/scim/v2${path}`, {
      method,
      headers: {
        authorization: `Bearer ${TOKEN} a.example`,
        'content-type': 'application/scim+json',
        ...headers,
      },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    const text = await response.text();
    return {
      status: response.status,
      etag: response.headers.get('etag'),
      body: (text === '' ? {} : JSON.parse(text)) as Scim['body'],
    };
  };
  const user = (userName: string, over: object = {}): object => ({
    schemas: [USER],
    userName,
    name: { givenName: 'Barbara', familyName: 'Jensen' },
    emails: [{ value: `${userName}@example.com`, type: 'work', primary: true }],
    active: true,
    ...over,
  });

  it('lets in nobody without its token, nor with another realm’s (section 2)', async () => {
    expect((await call('GET', '/Users', undefined, { authorization: 'Bearer wrong' })).status).toBe(401);
    const other = { authorization: `Bearer ${TOKEN} b.example` };
    expect((await call('GET', '/Users', undefined, other)).status).toBe(401);
  });

  it('makes a user, tells where it is, and refuses a second of the name (section 3.3)', async () => {
    const made = await call('POST', '/Users', user('bjensen'));
    expect(made).toMatchObject({ status: 201, etag: 'W/"1"', body: { userName: 'bjensen' } });
    expect(made.body.meta).toMatchObject({
      resourceType: 'User',
      location: `/realms/a.example/scim/v2/Users/${made.body.id}`,
    });
    expect((await call('POST', '/Users', user('BJensen'))).body).toMatchObject({
      schemas: ['urn:ietf:params:scim:api:messages:2.0:Error'],
      status: '409',
      scimType: 'uniqueness',
    });
  });

  it('answers 404 with an error of its own kind for whom it does not know (section 3.12)', async () => {
    expect(await call('GET', '/Users/2819c223-7f76-453a-919d-413861904646')).toMatchObject({
      status: 404,
      body: { status: '404', detail: expect.stringContaining('2819c223') },
    });
  });

  it('gives pages, counted from 1, and only a count where none is wanted (section 3.4.2.4)', async () => {
    for (const name of ['p1', 'p2', 'p3', 'p4']) await call('POST', '/Users', user(name));
    const page = await call('GET', '/Users?startIndex=2&count=2');
    expect(page.body).toMatchObject({ schemas: [LIST], totalResults: 5, startIndex: 2, itemsPerPage: 2 });
    expect(page.body.Resources.map(({ userName }) => userName)).toEqual(['p1', 'p2']);
    expect((await call('GET', '/Users?count=0')).body).toMatchObject({ totalResults: 5, Resources: [] });
    expect((await call('GET', '/Users?startIndex=-3&count=1')).body).toMatchObject({ startIndex: 1 });
    expect((await call('GET', '/Users?startIndex=99')).body).toMatchObject({
      totalResults: 5,
      itemsPerPage: 0,
    });
    expect((await call('GET', '/Users?attributes=userName&count=1')).body.Resources[0]).toEqual({
      schemas: [USER],
      id: expect.any(String),
      userName: 'bjensen',
    });
  });

  it('filters, by the database or by looking, with the same result (section 3.4.2.2)', async () => {
    const names = async (filter: string): Promise<unknown[]> =>
      (await call('GET', `/Users?filter=${encodeURIComponent(filter)}`)).body.Resources.map(
        ({ userName }) => userName,
      );
    expect(await names('userName eq "P2"')).toEqual(['p2']);
    expect(await names('userName sw "p" and not (userName eq "p2")')).toEqual(['p1', 'p3', 'p4']);
    expect((await call('GET', '/Users?filter=userName%20zz')).body).toMatchObject({
      scimType: 'invalidFilter',
    });
  });

  it('changes what was read last and nothing newer (section 3.14)', async () => {
    const { body, etag } = await call('POST', '/Users', user('q1'));
    const off = { schemas: [PATCH], Operations: [{ op: 'replace', path: 'active', value: false }] };
    const changed = await call('PATCH', `/Users/${body.id}`, off, { 'if-match': etag ?? '' });
    expect(changed).toMatchObject({ status: 200, etag: 'W/"2"', body: { active: false } });
    expect((await call('PATCH', `/Users/${body.id}`, off, { 'if-match': etag ?? '' })).status).toBe(412);
    expect((await call('GET', `/Users/${body.id}`, undefined, { 'if-none-match': 'W/"2"' })).status).toBe(
      304,
    );
    const replaced = await call('PUT', `/Users/${body.id}`, user('q1', { title: 'Vet' }));
    expect(replaced.body).toMatchObject({ id: body.id, title: 'Vet', active: true });
    expect((await call('DELETE', `/Users/${body.id}`)).status).toBe(204);
    expect((await call('GET', `/Users/${body.id}`)).status).toBe(404);
  });

  it('does many things at once, one of them with what another makes (section 3.7.2)', async () => {
    const { body } = await call('POST', '/Bulk', {
      schemas: [BULK],
      failOnErrors: 1,
      Operations: [
        { method: 'POST', path: '/Users', bulkId: 'qwerty', data: user('Alice') },
        {
          method: 'POST',
          path: '/Groups',
          bulkId: 'ytrewq',
          data: {
            schemas: [GROUP],
            displayName: 'Tour Guides',
            members: [{ type: 'User', value: 'bulkId:qwerty' }],
          },
        },
        { method: 'POST', path: '/Users', bulkId: 'again', data: user('alice') },
        { method: 'POST', path: '/Users', bulkId: 'never', data: user('never') },
      ],
    });
    expect(body.Operations.map(({ status }) => status)).toEqual(['201', '201', '409']);
    const id = body.Operations[0]?.location?.split('/').at(-1);
    const groups = await call('GET', '/Groups?filter=displayName%20eq%20%22Tour%20Guides%22');
    expect(groups.body.Resources[0]?.members).toEqual([{ type: 'User', value: id }]);
    await call('DELETE', `/Users/${id}`);
    expect((await call('GET', '/Groups')).body.Resources[0]?.members).toEqual([]);
  });

  it('says what it can (section 4)', async () => {
    expect((await call('GET', '/ServiceProviderConfig')).body).toMatchObject({
      patch: { supported: true },
      bulk: { supported: true },
      etag: { supported: true },
    });
    expect((await call('GET', '/ResourceTypes')).body.Resources.map(({ id }) => id)).toEqual([
      'User',
      'Group',
    ]);
    expect((await call('GET', '/Schemas')).body.Resources.map(({ id }) => id)).toContain(USER);
  });

  it('tells our reader who is in it, with the department where no unit is told, and who was changed since', async () => {
    const reader = scimReader(`${url}/realms/a.example/scim/v2`, `${TOKEN} a.example`);
    const before = await reader.people({ from: 0 });
    expect(before.entries[0]).toMatchObject({
      account: 'bjensen',
      given: 'Barbara',
      family: 'Jensen',
      mail: 'bjensen@example.com',
      unit: '',
      disabled: false,
    });
    const since = new Date(before.at ?? 0).toISOString();
    const { body } = await call(
      'POST',
      '/Users',
      user('late', { [ENTERPRISE_USER]: { department: 'Tours' }, active: false, emails: undefined }),
    );
    const later = await reader.people({ from: 0, since });
    expect(later.entries.find(({ id }) => id === body.id)).toMatchObject({
      unit: 'Tours',
      disabled: true,
      mail: '',
    });
    expect(await reader.person(body.id)).toMatchObject({ account: 'late' });
    expect(await reader.person('nobody')).toBeUndefined();
    await expect(scimReader(`${url}/realms/a.example/scim/v2`, 'wrong').people({ from: 0 })).rejects.toThrow(
      'the token is wrong',
    );
  });
});
