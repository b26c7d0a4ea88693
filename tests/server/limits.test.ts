import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { peopleCsv, peopleOf } from '../../src/demo/people';
import { DEMO_PASSWORD } from '../../src/demo/scenario';
import { listQuery } from '../../src/contract';
import { SYSTEM } from '../../src/server/access';
import { routesOf } from '../../src/server/rooms';
import { createOperator } from '../../src/server/operators';
import { clientAddress, networkOf, readGates } from '../../src/server/client-address';
import { noteClient, safetyHeaders } from '../../src/server/http';
import { ownPath } from '../../src/server/pages';
import { openWorld, raise, provisionFor, type World } from './setup/world';

/** What a browser says of a request from our own pages. */
const own = { origin: 'http://laager.test', host: 'laager.test' };

describe('who is at the other end', () => {
  const gates = readGates('127.0.0.1, 10.0.0.0/8, ::1');

  it('is the socket’s address, whatever the header claims', () => {
    expect(clientAddress('192.0.2.7', '203.0.113.9', gates)).toBe('192.0.2.7');
    expect(clientAddress('127.0.0.1', '203.0.113.9', readGates(''))).toBe('127.0.0.1');
    expect(clientAddress('::ffff:192.0.2.7', null, gates)).toBe('192.0.2.7');
  });

  it('is what the configured gate appended, and never what stood left of it', () => {
    expect(clientAddress('127.0.0.1', '203.0.113.9', gates)).toBe('203.0.113.9');
    expect(clientAddress('127.0.0.1', 'a text of my own, 198.51.100.1', gates)).toBe('198.51.100.1');
    expect(clientAddress('127.0.0.1', '198.51.100.1, 203.0.113.9, 10.1.2.3', gates)).toBe('203.0.113.9');
  });

  it('stays the gate when that appended no address', () => {
    expect(clientAddress('127.0.0.1', '203.0.113.9, nonsense', gates)).toBe('127.0.0.1');
    expect(clientAddress('::1', '', gates)).toBe('::1');
  });

  it('counts an IPv6 host by its /64', () => {
    expect(networkOf('2001:db8:1:2:3:4:5:6')).toBe(networkOf('2001:db8:1:2::1'));
    expect(networkOf('2001:db8:1:2::1')).not.toBe(networkOf('2001:db8:1:3::1'));
    expect(networkOf('192.0.2.7')).toBe('192.0.2.7');
  });

  it('names a gate that cannot be one', () => {
    expect(() => readGates('10.0.0.0/33')).toThrow('10.0.0.0/33');
    expect(() => readGates('gate.example')).toThrow('gate.example');
  });
});

describe('what an answer tells a browser', () => {
  const headers = (proto: string | undefined, socket: string) => {
    const request = new Request('http://laager.example/', {
      headers: {
        ...(proto === undefined ? {} : { 'x-forwarded-proto': proto }),
        'x-forwarded-for': '192.0.2.7',
      },
    });
    noteClient(request, socket, readGates('10.0.0.1'));
    return safetyHeaders(request);
  };

  it('is to guess no type, and to come encrypted from now on where it came so through our gate', () => {
    expect(headers(undefined, '10.0.0.1')).toMatchObject({ 'x-content-type-options': 'nosniff' });
    expect(headers('https', '10.0.0.1')['strict-transport-security']).toBe('max-age=31536000');
    expect(headers('http', '10.0.0.1')['strict-transport-security']).toBeUndefined();
    expect(headers(undefined, '10.0.0.1')['strict-transport-security']).toBeUndefined();
    // Whoever is no gate of ours says nothing of how it came.
    expect(headers('https', '192.0.2.8')['strict-transport-security']).toBeUndefined();
  });
});

describe('where a sign-in leads', () => {
  const here = new URL('https://laager.example/sign-in');

  it('is a page of ours, with all of its address', () => {
    expect(ownPath('/customers/SVG/people?find=a%20b#last', here)).toBe(
      '/customers/SVG/people?find=a%20b#last',
    );
  });

  it('is no other place, as a browser reads it', () => {
    for (const asked of [
      '//evil.example',
      '/\\evil.example',
      '/\t/evil.example',
      '/\n/evil.example',
      '/..//evil.example',
      'https://evil.example',
      'javascript:alert(1)',
      '',
    ]) {
      const led = new URL(ownPath(asked, here), here);
      expect([asked, led.origin]).toEqual([asked, here.origin]);
    }
  });
});

describe('limits of what is sent', { timeout: 60_000 }, () => {
  let world: World;
  let environment: string;
  let run: string;
  beforeAll(async () => {
    world = await openWorld('limits');
    ({ environment, run } = await provisionFor(world, 'SVG', 'office', 5, 'KQ'));
  });
  afterAll(() => world.close());

  const sendRaw = (path: string, body: string, headers: Readonly<Record<string, string>> = {}) =>
    world.api.answer(
      new Request(`http://laager.test/api/v1${path}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', ...headers },
        body,
      }),
    );
  const asIda = () => ({ authorization: `Bearer ${world.tokens.ida}` });
  const manyKeys = (keys: number) =>
    JSON.stringify(Object.fromEntries(Array.from({ length: keys }, (_, n) => [`k${n}`, n])));

  it('takes no more than 4 kB to sign in, before it looks at it', async () => {
    const response = await sendRaw('/session', manyKeys(100_000), own);
    expect(response.status).toBe(413);
    expect((await sendRaw('/session', manyKeys(100), own)).status).toBe(422);
  });

  it('looks at no body that is deep or has very many keys, and tells no more than twenty faults', async () => {
    const path = '/customers/SVG/changes/provision/proposal';
    const deep = `${'['.repeat(100_000)}${']'.repeat(100_000)}`;
    const long = JSON.stringify({ input: { pools: Array.from({ length: 90_000 }, () => 0) } });
    for (const body of [manyKeys(15_000), deep, long]) {
      const response = await sendRaw(path, body, asIda());
      expect([response.status, ((await response.json()) as { title: string }).title]).toEqual([
        400,
        'Cannot be read',
      ]);
    }
    const many = await sendRaw('/sessions/acts', manyKeys(1_000), asIda());
    const told = (await many.json()) as { detail: string; fields: object };
    expect([many.status, Object.keys(told.fields).length]).toEqual([422, 20]);
    expect(told.detail).toMatch(/98\d more/);
  });

  it('reads a people file no further than it may be long', async () => {
    const importing = (csv: string) => world.call('ida', 'POST', '/customers/QFB/people/import', { csv });
    const rows = `account,given,family,mail\n${'a,b,c,d@e.example\n'.repeat(100_000)}`;
    expect((await importing(rows)).text).toContain('more than 20000 rows');
    expect((await importing(`account${',x'.repeat(1_900_000)}`)).text).toContain(
      'line 1 is longer than 4000 characters',
    );
    expect((await importing(`account${',x'.repeat(1_000)}`)).text).toContain('more than 20 columns');
    expect((await importing('account,given,family,mail\n"never closed')).text).toContain('cannot be read');
    const large = await importing('x'.repeat(4_100_000));
    expect(large.status).toBe(413);
  });

  it('lets others have their turn while it reads a large file', async () => {
    await raise(world, 'QFB', 'people', 20_000);
    const importing = world.call('ida', 'POST', '/customers/QFB/people/import', {
      csv: peopleCsv(peopleOf('QFB', 15_000)),
    });
    let turns = 0;
    let done = false;
    const taking = (async () => {
      while (!done) {
        await new Promise((resolve) => setImmediate(resolve));
        turns++;
      }
    })();
    const { status } = await importing;
    done = true;
    await taking;
    expect(status).toBe(200);
    // A megabyte in pieces of 32 kB: between them there is a turn.
    expect(turns).toBeGreaterThan(20);
  });

  it('refuses people whose names are not what they look like, by line', async () => {
    const csv = [
      'account,given,family,mail',
      'ann.good,Zoë,Åström,ann@qfb.example',
      'nul.name,Nu\u0000l,Name,nul@qfb.example',
      'bidi.name,Bi\u202edi,Name,bidi@qfb.example',
      '"tab.name","Ta\tb",Name,tab@qfb.example',
    ].join('\n');
    const { body } = await world.call('ida', 'POST', '/customers/QFB/people/import', { csv });
    expect(body).toMatchObject({
      kept: false,
      good: 1,
      badRows: 3,
      bad: [
        { line: 3, reason: 'holds a control character' },
        { line: 4, reason: 'holds a mark that turns its direction' },
        { line: 5, reason: 'holds a control character' },
      ],
    });
    const latin1 = Buffer.from('account,given,family,mail\nzoe,Zo\xeb,Name,zoe@qfb.example\n', 'latin1');
    const response = await world.api.answer(
      new Request('http://laager.test/api/v1/customers/QFB/people/import', {
        method: 'POST',
        headers: { 'content-type': 'text/csv', ...asIda() },
        body: latin1,
      }),
    );
    expect(await response.json()).toMatchObject({
      bad: [{ line: 2, reason: 'holds bytes that are not UTF-8' }],
    });
    const token = await world.callFromBrowser('ida', 'POST', '/tokens', {
      body: { name: 'pipe\u202eline', days: 1 },
    });
    expect([token.status, token.body.fields]).toEqual([
      422,
      { name: 'holds a mark that turns its direction' },
    ]);
  });

  it('takes an If-Match that it can read, and no other', async () => {
    const path = `/customers/SVG/runs/${run}/stop`;
    const asked = async (match: string) =>
      (await world.call('ida', 'POST', path, { body: { reason: '' }, headers: { 'if-match': match } }))
        .status;
    for (const match of ['"abc"', 'W/"3"', '"3", "4"', '', '-1', '1e9', '99999999999999999999'])
      expect([match, await asked(match)]).toEqual([match, 400]);
    expect(await asked('"99"')).toBe(412);
  });

  it('keeps Idempotency-Keys apart to the last bit, with all that a request says', async () => {
    const ask = (key: string, body: object, headers: Readonly<Record<string, string>> = {}) =>
      world.callFromBrowser('ida', 'POST', '/tokens', {
        body,
        headers: { 'idempotency-key': key, ...headers },
      });
    const lower = await ask('key-a', { name: 'one', days: 1 });
    const upper = await ask('KEY-A', { name: 'two', days: 1 });
    expect([lower.status, upper.status]).toEqual([201, 201]);
    expect(upper.body.token).not.toBe(lower.body.token);
    expect((await ask('key-a', { name: 'one', days: 1 }, { 'if-match': '"4"' })).status).toBe(422);
    for (const key of ['', ' ', 'x'.repeat(81)])
      expect([key, (await ask(key, { name: 'x', days: 1 })).status]).toEqual([key, 400]);
  });

  it('takes an id or a place in a list that is no such thing for what it is', async () => {
    const strange = ['%C3%A9', '%F0%9F%90%A6', '%00', "'%20OR%201=1", '..', 'x'.repeat(200)];
    for (const id of strange) {
      for (const path of [
        `/customers/${id}`,
        `/customers/SVG/runs/${id}`,
        `/customers/SVG/environments/${id}`,
        `/customers/SVG/environments/${id}/hosts`,
        `/customers/SVG/environments/${id}/proof`,
      ])
        expect([path, (await world.call('ida', 'GET', path)).status]).toEqual([path, 404]);
      for (const path of [
        '/customers',
        '/runs',
        '/trail',
        '/sessions',
        '/templates/shared-office/environments',
        '/customers/SVG/people',
        '/customers/SVG/environments',
        `/customers/SVG/environments/${environment}/hosts`,
      ]) {
        const { status, text } = await world.call('ida', 'GET', `${path}?after=${id}`);
        expect([path, id, [200, 400].includes(status), text.includes('broken')]).toEqual([
          path,
          id,
          true,
          false,
        ]);
        if (id.startsWith('%')) expect([path, id, status]).toEqual([path, id, 400]);
      }
    }
  });

  it('finds in every list that promises to', async () => {
    const lists = routesOf(world.app.catalogue).filter((route) => route.query === listQuery);
    expect(lists.length).toBeGreaterThan(8);
    const moving = { version: 1, customers: ['SVG'], count: 1 };
    expect((await world.call('bram', 'POST', '/plans/jetty/moves', { body: moving })).status).toBe(201);
    for (const { path } of lists) {
      const real = path
        .replace('{customer}', 'SVG')
        .replace('{environment}', environment)
        .replace('{template}', 'shared-office');
      const found = async (find: string) => {
        const { status, body } = await world.call('ida', 'GET', `${real}?find=${find}`);
        return { path, status, found: (body.entries as unknown[]).length };
      };
      const all = await found('');
      if (!path.endsWith('sessions')) expect([path, all.found > 0]).toEqual([path, true]);
      expect(await found('zzz-nobody-has-this')).toEqual({ ...all, found: 0 });
    }
  });
});

describe('trying to sign in', { timeout: 60_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('tries');
  });
  afterAll(() => world.close());

  const signIn = (mail: string, password: string, peer: string, cookie = '') =>
    world.api.answer(
      new Request('http://laager.test/api/v1/session', {
        method: 'POST',
        headers: {
          'content-type': 'application/json',
          origin: 'http://laager.test',
          host: 'laager.test',
          'x-laager-peer': peer,
          ...(cookie === '' ? {} : { cookie }),
        },
        body: JSON.stringify({ mail, password }),
      }),
    );
  const browserOf = (response: Response): string =>
    response.headers
      .getSetCookie()
      .find((one) => one.startsWith('laager_browser='))
      ?.split(';')[0] ?? '';

  it('lets nobody lock another out: a browser that was in before gets in while others are slowed down', async () => {
    const petra = 'petra@terntallow.example';
    const browser = browserOf(await signIn(petra, DEMO_PASSWORD, '10.1.0.1'));
    expect(browser).not.toBe('');
    const guesses = [];
    for (let n = 0; n < 12; n++) guesses.push(await signIn(petra, 'guess', `10.1.1.${n}`));
    // Five are looked at, and one that is the first for a slowed account.
    expect(guesses.map((one) => one.status)).toEqual([
      ...Array<number>(6).fill(401),
      ...Array<number>(6).fill(429),
    ]);
    const last = Number(guesses.at(-1)?.headers.get('retry-after'));
    expect(last).toBeGreaterThan(0);
    expect(last).toBeLessThanOrEqual(36);
    expect((await signIn(petra, DEMO_PASSWORD, '10.1.2.1', browser)).status).toBe(204);
  });

  it('knows a browser for one account only, and none that was made up', async () => {
    const bram = 'bram@terntallow.example';
    const browser = browserOf(await signIn('ida@terntallow.example', DEMO_PASSWORD, '10.2.0.1'));
    const statuses = [];
    for (let n = 0; n < 8; n++) statuses.push((await signIn(bram, 'guess', `10.2.1.${n}`, browser)).status);
    expect(statuses.slice(-2)).toEqual([429, 429]);
    expect((await signIn(bram, 'guess', '10.2.2.1', 'laager_browser=made.up')).status).toBe(429);
  });

  it('counts by account, however the address is written', async () => {
    const statuses = [];
    for (let n = 0; n < 8; n++) {
      const mail = n % 2 === 0 ? 'JONAH@terntallow.example' : '  jonah@TERNTALLOW.example ';
      statuses.push((await signIn(mail, 'guess', `10.3.1.${n}`)).status);
    }
    expect(statuses.slice(-2)).toEqual([429, 429]);
    // An address with an accent is another one, and nobody's.
    expect((await signIn('jonáh@terntallow.example', DEMO_PASSWORD, '10.3.2.1')).status).toBe(401);
  });

  it('does not forget an address’s tries because one of them was right', async () => {
    const peer = '10.4.0.1';
    const statuses = [];
    for (let n = 0; n < 40; n++) {
      statuses.push((await signIn(`nobody${n}@terntallow.example`, 'guess', peer)).status);
      if (n % 4 === 3) await signIn('ida@terntallow.example', DEMO_PASSWORD, peer);
    }
    expect(statuses.slice(0, 30).every((status) => status === 401)).toBe(true);
    expect(statuses.slice(-8).every((status) => status === 429)).toBe(true);
  });

  it('tells what tokens there are, ends them, and has none made by a token', async () => {
    const made = await world.callFromBrowser('ida', 'POST', '/tokens', {
      body: { name: 'night build', days: 3 },
    });
    const [id, token] = [String(made.body.id), String(made.body.token)];
    const byToken = await world.callWith(token, 'POST', '/tokens', { body: { name: 'another', days: 3 } });
    expect([byToken.status, byToken.body.type]).toEqual([403, 'urn:laager:problem:token']);
    const tokens = async (who: keyof World['tokens']) =>
      (await world.call(who, 'GET', '/tokens')).body.tokens as {
        id: string;
        operator: string;
        usedAt: number;
      }[];
    const own = (await tokens('ida')).find((one) => one.id === id);
    expect(own).toMatchObject({ name: 'night build', usedAt: expect.any(Number) });
    expect((await tokens('jonah')).map((one) => one.operator)).toEqual(['Jonah Weir']);
    expect((await tokens('bram')).some((one) => one.id === id)).toBe(true);
    expect((await world.call('jonah', 'DELETE', `/tokens/${id}`)).status).toBe(404);
    expect((await world.callWith(token, 'GET', '/me')).status).toBe(200);
    expect((await world.call('bram', 'DELETE', `/tokens/${id}`)).status).toBe(204);
    expect((await world.callWith(token, 'GET', '/me')).status).toBe(401);
  });

  it('notes each refused try, whose and from where, without what was typed', async () => {
    const warn = vi.spyOn(world.app.log, 'warn');
    await signIn('ida@terntallow.example', 'hunted-and-wrong', '198.51.100.40');
    await signIn('typed-in-the-wrong-field', 'hunted-and-wrong', '198.51.100.41');
    const noted = JSON.stringify(warn.mock.calls);
    warn.mockRestore();
    expect(noted).toMatch(/"account":"[0-9A-Z]{26}","from":"198\.51\.100\.40"/);
    expect(noted).toContain('"account":"unknown","from":"198.51.100.41"');
    expect(noted).not.toMatch(/hunted|wrong-field/);
  });

  it('changes one’s own password by the one that one has, and ends one’s sign-ins in other browsers', async () => {
    const [first, second] = ['a-lantern-in-the-fog', 'two-lanterns-in-the-fog'];
    await createOperator(world.app, SYSTEM, {
      name: 'Pia Holm',
      mail: 'pia@terntallow.example',
      role: 'engineer',
      customers: [],
      password: first,
    });
    const enter = async (password: string, peer = '198.51.100.9'): Promise<string> => {
      const response = await signIn('pia@terntallow.example', password, peer);
      return response.headers.getSetCookie()[0]?.split(';')[0] ?? '';
    };
    const change = async (cookie: string, password: string, next: string) => {
      const response = await world.api.answer(
        new Request('http://laager.test/api/v1/password', {
          method: 'PUT',
          headers: { 'content-type': 'application/json', ...own, cookie },
          body: JSON.stringify({ password, next }),
        }),
      );
      const text = await response.text();
      return {
        status: response.status,
        fields: text === '' ? undefined : (JSON.parse(text) as { fields?: object }).fields,
      };
    };
    const me = async (cookie: string): Promise<number> =>
      (await world.api.answer(new Request('http://laager.test/api/v1/me', { headers: { ...own, cookie } })))
        .status;
    const [here, elsewhere] = [await enter(first), await enter(first)];
    const token = await world.callWith(world.tokens.ida, 'PUT', '/password', {
      body: { password: DEMO_PASSWORD, next: second },
    });
    expect([token.status, token.body.type]).toEqual([403, 'urn:laager:problem:token']);
    expect(await change(here, 'wrong-one-altogether', second)).toEqual({
      status: 422,
      fields: { password: 'is not your current password' },
    });
    expect(await change(here, first, 'short')).toMatchObject({
      status: 422,
      fields: { next: 'at least 12 characters' },
    });
    expect(await change(here, first, first)).toEqual({
      status: 422,
      fields: { next: 'is the one you have' },
    });
    expect([await me(here), await me(elsewhere)]).toEqual([200, 200]);
    expect((await change(here, first, second)).status).toBe(204);
    expect([await me(here), await me(elsewhere)]).toEqual([200, 401]);
    expect([await enter(first), await me(await enter(second))]).toEqual(['', 200]);
    const trail = await world.call('bram', 'GET', '/trail?find=change%20password');
    expect(trail.text).toContain('Pia Holm');
    expect(trail.text).not.toContain(second);
    // Whoever finds the browser cannot guess on, and signing in is slowed down for nobody.
    const guesses = [];
    for (let n = 0; n < 10; n++) guesses.push((await change(here, `a guess of number ${n}`, first)).status);
    expect(guesses.at(-1)).toBe(429);
    expect(await me(await enter(second, '198.51.100.77'))).toBe(200);
  });
});
