import SwaggerParser from '@apidevtools/swagger-parser';
import Ajv2020 from 'ajv/dist/2020';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { peopleOf } from '../../src/demo/people';
import { DEMO_PASSWORD } from '../../src/demo/scenario';
import { makeCatalogue } from '../../src/server/catalogue';
import { routesOf } from '../../src/server/rooms';
import type { Route } from '../../src/server/http';
import { can, RIGHTS, RIGHTS_OF, ROLES, type Session } from '../../src/contract';
import {
  fillDirectory,
  linkDirectory,
  openWorld,
  holdFor,
  provisionFor,
  SECRET,
  type World,
} from './setup/world';

const ROUTES = routesOf(makeCatalogue());

describe('getting in', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('access');
  });
  afterAll(() => world.close());

  interface Sending {
    readonly method?: string;
    readonly body?: unknown;
    readonly headers?: Readonly<Record<string, string>>;
  }

  const send = (path: string, { method = 'GET', body, headers = {} }: Sending = {}) =>
    world.api.answer(
      new Request(`http://laager.test/api/v1${path}`, {
        method,
        headers: {
          host: 'laager.test',
          ...(body === undefined ? {} : { 'content-type': 'application/json' }),
          ...headers,
        },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      }),
    );
  const own = { origin: 'http://laager.test' };
  const signIn = (mail: string, password: string, peer = '10.9.9.9') =>
    send('/session', {
      method: 'POST',
      body: { mail, password },
      headers: { ...own, 'x-laager-peer': peer },
    });
  const cookieFrom = (response: Response): string => response.headers.get('set-cookie')?.split(';')[0] ?? '';

  it('signs in with mail and password, sets a cookie that scripts cannot read, and signs out for good', async () => {
    const response = await signIn('ida@terntallow.example', DEMO_PASSWORD);
    expect(response.status).toBe(204);
    const cookie = response.headers.get('set-cookie') ?? '';
    expect(cookie).toMatch(/HttpOnly/);
    expect(cookie).toMatch(/SameSite=Lax/);
    const headers = { cookie: cookieFrom(response), ...own };
    expect((await send('/me', { headers })).status).toBe(200);
    expect((await send('/session', { method: 'DELETE', headers })).status).toBe(204);
    expect((await send('/me', { headers })).status).toBe(401);
  });

  it('puts who signed in, from where, and who signed out on the trail, and no refused try', async () => {
    const entries = async () =>
      (await world.call('bram', 'GET', '/trail?find=sign')).body.entries as Record<string, unknown>[];
    const before = (await entries()).length;
    await signIn('bram@terntallow.example', 'not his', '10.7.0.1');
    expect(await entries()).toHaveLength(before);
    const cookie = cookieFrom(await signIn('bram@terntallow.example', DEMO_PASSWORD, '10.7.0.2'));
    await send('/session', { method: 'DELETE', headers: { cookie, ...own } });
    expect((await entries()).slice(0, 2)).toMatchObject([
      { action: 'sign out', actor: 'Bram Oyelaran', role: 'lead', customer: null },
      { action: 'sign in', subject: 'bram@terntallow.example', after: { from: '10.7.0.2' } },
    ]);
  });

  it('shows others’ sign-ins to those only who reach every customer', async () => {
    await signIn('jonah@terntallow.example', DEMO_PASSWORD, '10.7.0.3');
    const { body } = await world.call('jonah', 'GET', '/trail?limit=1000');
    const unowned = (body.entries as { customer: string | null; actor: string }[]).filter(
      (entry) => entry.customer === null,
    );
    expect(unowned.length).toBeGreaterThan(0);
    expect(unowned.every((entry) => entry.actor.startsWith('Jonah'))).toBe(true);
  });

  it('keeps the answer to a repeated request sealed, so that a token shown once stands nowhere', async () => {
    const ask = { body: { name: 'once', days: 1 }, headers: { 'idempotency-key': 'once-1' } };
    const first = await world.callFromBrowser('ida', 'POST', '/tokens', ask);
    const again = await world.callFromBrowser('ida', 'POST', '/tokens', ask);
    expect(again.text).toBe(first.text);
    const token = String(first.body.token);
    expect(token).toMatch(/^laager_/);
    const rows = await world.app.db.rows<{ made: Buffer }>(
      "SELECT made FROM idempotency WHERE idempotency_key = 'once-1'",
    );
    expect(rows).toHaveLength(1);
    expect(rows[0]?.made.toString('latin1')).not.toContain(token);
  });

  it('keeps passwords of twelve characters and more as argon2id, and gives each sign-in 256 bits of its own', async () => {
    // A lead chooses nobody's password.
    const chosen = await world.callFromBrowser('bram', 'POST', '/operators', {
      body: {
        name: 'Short',
        mail: 'short@terntallow.example',
        role: 'engineer',
        password: 'of twelve letters',
      },
    });
    expect([chosen.status, Object.keys(chosen.body.fields as object)]).toEqual([422, ['password']]);
    const kept = await world.app.db.rows<{ password_hash: string }>('SELECT password_hash FROM operator');
    expect(kept.every((row) => row.password_hash.startsWith('$argon2id$'))).toBe(true);
    const cookies = [];
    for (const peer of ['10.6.0.1', '10.6.0.2'])
      cookies.push(
        cookieFrom(await signIn('ida@terntallow.example', DEMO_PASSWORD, peer)).split('=')[1] ?? '',
      );
    expect(new Set(cookies).size).toBe(2);
    for (const cookie of cookies) {
      expect(Buffer.from(cookie, 'base64url')).toHaveLength(32);
      const found = await world.app.db.rows('SELECT 1 FROM web_session WHERE token_hash = ?', [cookie]);
      expect(found).toEqual([]);
    }
  });

  it('marks the cookie Secure behind TLS', async () => {
    const response = await send('/session', {
      method: 'POST',
      body: { mail: 'ida@terntallow.example', password: DEMO_PASSWORD },
      headers: { ...own, 'x-forwarded-proto': 'https', 'x-laager-peer': '10.9.9.8' },
    });
    expect(response.headers.get('set-cookie')).toMatch(/Secure/);
  });

  it('says the same of an unknown mail address as of a wrong password', async () => {
    const [wrong, unknown] = [
      await signIn('ida@terntallow.example', 'no', '10.0.0.1'),
      await signIn('who@nowhere.example', 'no', '10.0.0.2'),
    ];
    expect(wrong.status).toBe(401);
    expect(await wrong.text()).toBe(await unknown.text());
  });

  it('names the fields that are missing', async () => {
    const response = await send('/session', { method: 'POST', body: {}, headers: own });
    expect(response.status).toBe(422);
    expect(await response.json()).toMatchObject({ fields: { mail: 'is required', password: 'is required' } });
  });

  it('refuses a change that another site sends with our cookie', async () => {
    const headers = { cookie: cookieFrom(await signIn('ida@terntallow.example', DEMO_PASSWORD)) };
    const foreign = { ...headers, origin: 'http://evil.example' };
    expect((await send('/tokens', { method: 'POST', body: { name: 'x' }, headers: foreign })).status).toBe(
      403,
    );
    expect((await send('/tokens', { method: 'POST', body: { name: 'x' }, headers })).status).toBe(403);
    expect(
      (
        await send('/session', {
          method: 'POST',
          body: { mail: 'a', password: 'b' },
          headers: { origin: 'http://evil.example' },
        })
      ).status,
    ).toBe(403);
  });

  it('lets nobody in without a sign-in, on any route', async () => {
    for (const route of ROUTES.filter((one) => one.access !== 'public')) {
      const response = await send(route.path.replace(/\{\w+\}/g, 'SVG'), {
        method: route.method,
        headers: own,
      });
      expect([route.path, response.status]).toEqual([route.path, 401]);
    }
    expect((await send('/me', { headers: { authorization: 'Bearer laager_guess' } })).status).toBe(401);
  });

  it('lets a bookkeeper and an auditor look but not build, stop or retire', async () => {
    for (const [who, role] of [
      ['petra', 'bookkeeper'],
      ['runa', 'auditor'],
    ] as const) {
      for (const route of ROUTES.filter((one) => one.method !== 'GET' && !can(RIGHTS_OF[role], one.right))) {
        const path = route.path.replace('{customer}', 'SVG').replace(/\{\w+\}/g, 'x');
        const { status } = await world.call(who, route.method, path, { body: {} });
        expect([who, route.path, status]).toEqual([who, route.path, 403]);
      }
      expect((await world.call(who, 'GET', '/customers/SVG/costs')).status).toBe(200);
    }
  });

  /** What is one's own, or looks only, or is each customer's in reach: all else outside a customer concerns everyone. */
  const OWN = [
    /^(POST|DELETE) \/session$/,
    /second-factor(\/shown)?$/,
    /^PUT \/password$/,
    /\/tokens/,
    /\/saved-views$/,
    /\/customer-drafts\//,
    /^POST \/customers(\/proposal|\/file)?$/,
    /\/sessions\/acts/,
    /^PUT \/watch\/marks$/,
    /^POST \/plans\/\{plan\}\/moves$/,
    // Of one that reaches all its parts (parent-runs.test.ts).
    /^POST \/parent-runs\/\{parent\}\/(stop|resume|end)$/,
    // Whose template it is, its text says: what is for everyone is published by who reaches everyone (templates.test.ts).
    /\/templates\//,
    // Within their own reach (operators.test.ts).
    /^(POST|PUT|DELETE) \/operators(\/|$)/,
  ];

  it('lets nobody who reaches some customers change what belongs to everyone', async () => {
    const bram = await world.scope('bram');
    await world.app.db.write("UPDATE operator SET reach = 'listed' WHERE id = ?", [bram.actor.id]);
    await world.app.db.write(
      "INSERT INTO operator_customer (operator_id, customer_id) SELECT ?, id FROM customer WHERE code = 'SVG'",
      [bram.actor.id],
    );
    const outside = ROUTES.filter((one) => one.method !== 'GET' && one.access === 'operator');
    const unsaid = outside.filter(
      (one) => one.everyone !== true && !OWN.some((own) => own.test(`${one.method} ${one.path}`)),
    );
    expect(unsaid.map((one) => `${one.method} ${one.path}`)).toEqual([]);
    const everyones = outside.filter((one) => one.everyone === true);
    expect(everyones.length).toBeGreaterThan(15);
    for (const route of everyones) {
      const { status, body } = await world.callFromBrowser(
        'bram',
        route.method,
        route.path.replace(/\{\w+\}/g, 'x'),
        {
          body: {},
        },
      );
      expect([route.path, status, body.type]).toEqual([route.path, 403, 'urn:laager:problem:reach']);
    }
    const provider = await world.callFromBrowser('bram', 'PUT', '/providers/northern', {
      body: { name: 'Northern', url: 'http://127.0.0.1:9', account: 'x', secret: SECRET },
    });
    expect(provider.status).toBe(403);
    await world.app.db.write("UPDATE operator SET reach = 'every' WHERE id = ?", [bram.actor.id]);
    await world.app.db.write('DELETE FROM operator_customer WHERE operator_id = ?', [bram.actor.id]);
  });

  it('lets no API token change how people sign in, nor who works here', async () => {
    for (const route of ROUTES.filter((one) => one.inPerson === true)) {
      const path = route.path.replace(/\{\w+\}/g, 'x');
      const { status, body } = await world.call('bram', route.method, path, { body: {} });
      expect([route.path, status, body.type]).toEqual([route.path, 403, 'urn:laager:problem:token']);
    }
    const ways = [
      '/operators',
      '/operators-groups',
      '/operators-settings',
      '/approval-rule',
      '/tokens',
      '/password',
    ];
    const named = ROUTES.filter((one) => one.inPerson === true).map(({ path }) => path);
    for (const way of ways) expect(named).toContain(way);
  });

  it('lets a token do what it was made for and no more, whatever its operator may', async () => {
    const made = async (name: string, rights: readonly string[]): Promise<string> =>
      (
        await world.callFromBrowser('bram', 'POST', '/tokens', {
          body: { name, rights },
        })
      ).body.token as string;
    const status = async (token: string, method: string, path: string, body: object): Promise<number> =>
      (await world.callWith(token, method, path, { body })).status;
    const [looks, books] = [await made('looks', []), await made('books', ['book'])];
    expect((await world.callWith(looks, 'GET', '/me', {})).body.rights).toEqual(['see']);
    for (const route of ROUTES.filter((one) => one.access !== 'public' && one.access !== 'person')) {
      if (route.method === 'GET' || route.changesNothing === true) continue;
      const path = route.path.replace('{customer}', 'SVG').replace(/\{\w+\}/g, 'x');
      expect([path, await status(looks, route.method, path, {})]).toEqual([path, 403]);
      if (route.right !== 'book')
        expect([path, await status(books, route.method, path, {})]).toEqual([path, 403]);
    }
    expect(await status(books, 'POST', '/cards', {})).toBe(422);
    const { tokens } = (await world.call('bram', 'GET', '/tokens')).body as unknown as {
      tokens: { name: string; rights: string[] | null }[];
    };
    const of = (name: string) => tokens.find((one) => one.name === name)?.rights;
    expect([of('looks'), of('books'), of('test')]).toEqual([[], ['book'], null]);
    const strange = await world.callFromBrowser('bram', 'POST', '/tokens', {
      body: { name: 'more', rights: ['rule'] },
    });
    expect(strange.status).toBe(422);
  });

  it('leaves an auditor nothing to write but what is their own, and what changes nothing', () => {
    const open = ROUTES.filter(
      (one) =>
        one.method !== 'GET' &&
        one.changesNothing !== true &&
        can(RIGHTS_OF.auditor, one.right) &&
        one.access !== 'public' &&
        one.access !== 'person',
    );
    expect(open.map((one) => `${one.method} ${one.path}`)).toEqual([
      'POST /second-factor',
      'PUT /second-factor',
      'PUT /second-factor/shown',
      'DELETE /second-factor',
      'PUT /password',
      'POST /tokens',
      'DELETE /tokens/{token}',
      'PUT /saved-views',
      'DELETE /saved-views',
    ]);
  });

  it('is told to people as one table of who may what', async () => {
    const table = (head: readonly string[], rows: readonly (readonly string[])[]): string =>
      [head, head.map(() => '---'), ...rows].map((cells) => `| ${cells.join(' | ')} |`).join('\n');
    const asked = (route: Route): string =>
      route.access === 'person'
        ? 'a customer’s person, at their own desk'
        : route.anyone === true
          ? 'no sign-in'
          : (route.right ?? (route.method === 'GET' || route.changesNothing === true ? 'see' : 'their own'));
    const roles = table(
      ['role', ...RIGHTS],
      ROLES.map((role) => [role, ...RIGHTS.map((right) => (can(RIGHTS_OF[role], right) ? 'yes' : '–'))]),
    );
    const routes = table(
      ['route', 'requires', 'also'],
      ROUTES.map((route) => [
        `\`${route.method} ${route.path}\``,
        asked(route),
        [
          ...(route.everyone === true ? ['reach of every customer'] : []),
          ...(route.inPerson === true ? ['no API token'] : []),
        ].join(', '),
      ]),
    );
    const text = `# Who may what\n\nA role is a named set of rights. An API token has those of its operator, or fewer. Everything is within one's reach: what is\nout of it is not there for anyone. Written by \`tests/server/access.test.ts\` from the routes themselves.\n\n${roles}\n\n${routes}\n`;
    await expect(text).toMatchFileSnapshot('../../docs/rights.md');
  });

  it('answers what it cannot use with problem details', async () => {
    const cases: readonly [string, string, object, number][] = [
      ['GET', '/nowhere', {}, 404],
      ['DELETE', '/watch', {}, 405],
      ['GET', '/customers?limit=0', {}, 400],
      ['GET', '/customers/svg', {}, 404],
      ['GET', "/customers/SVG'%20OR%201=1--", {}, 404],
      ['GET', '/customers/SVG/costs?month=2026-13', {}, 400],
      ['POST', '/customers/SVG/changes/provision', { csv: 'x' }, 415],
      ['GET', '/customers/%E0%A4%A', {}, 404],
    ];
    for (const [method, path, options, status] of cases) {
      const called = await world.call('ida', method, path, options);
      expect([path, called.status]).toEqual([path, status]);
      expect(called.headers.get('content-type')).toBe('application/problem+json');
      expect(called.body).toMatchObject({
        status,
        title: expect.any(String),
        type: expect.stringContaining('urn:'),
      });
    }
  });

  it('reads no more of a body than it may be long, whatever its header says', async () => {
    let sent = 0;
    const endless = new ReadableStream<Uint8Array>({
      pull: (controller) => {
        sent += 65_536;
        controller.enqueue(new Uint8Array(65_536).fill(32));
      },
    });
    const response = await world.api.answer(
      new Request('http://laager.test/api/v1/session', {
        method: 'POST',
        headers: { 'content-type': 'application/json', host: 'laager.test', ...own },
        body: endless,
        duplex: 'half',
      } as RequestInit),
    );
    expect(response.status).toBe(413);
    expect(sent).toBeLessThan(5_000_000);
    const long = await send('/session', {
      method: 'POST',
      body: { mail: 'x'.repeat(4_100_000), password: 'y' },
      headers: own,
    });
    expect(long.status).toBe(413);
  });

  it('takes a search for what it is: text', async () => {
    const { status, body } = await world.call(
      'ida',
      'GET',
      `/search?text=${encodeURIComponent("%' OR '1'='1")}`,
    );
    expect(status).toBe(200);
    expect(body.found).toEqual([]);
  });

  it('keeps secrets sealed, in the database and in every answer', async () => {
    const row = await world.app.db.row<{ code: string; secret_sealed: Buffer }>(
      'SELECT code, secret_sealed FROM provider',
    );
    expect(row?.secret_sealed.toString('latin1')).not.toContain(SECRET);
    expect(
      world.app.sealing.unseal(row?.secret_sealed ?? Buffer.alloc(0), ['provider', row?.code ?? '']),
    ).toBe(SECRET);
    for (const path of ['/sites', '/watch', '/me', '/trail']) {
      const { text } = await world.call('ida', 'GET', path);
      expect(text).not.toContain(SECRET);
      expect(text).not.toMatch(/argon2|sealed|token_hash/);
    }
  });

  it('sets no clock outside the demo', async () => {
    expect((await world.call('ida', 'PUT', '/clock', { body: { speed: 60 } })).status).toBe(405);
  });

  it('has an OpenAPI 3.1 document that is valid and names every route', async () => {
    const document = await SwaggerParser.validate(structuredClone(world.api.openApi()) as never);
    const named = Object.entries(document.paths ?? {}).flatMap(([path, methods]) =>
      Object.keys(methods as object).map((method) => `${method.toUpperCase()} ${path}`),
    );
    expect(named.sort()).toEqual(ROUTES.map((route) => `${route.method} ${route.path}`).sort());
  });

  it('has schemas in it that a validator of JSON Schema takes, each by itself', () => {
    // OpenAPI 3.1 takes JSON Schema 2020-12 as it stands (OpenAPI 3.1.0, section 4.8.24).
    const ajv = new Ajv2020({ strict: false, validateFormats: false });
    const schemas = (node: unknown): object[] => {
      if (typeof node !== 'object' || node === null) return [];
      return Object.entries(node).flatMap(([key, value]) =>
        key === 'schema' ? [value as object] : schemas(value),
      );
    };
    const found = schemas((world.api.openApi() as { paths: object }).paths);
    expect(found.length).toBeGreaterThan(200);
    const wrong = found.filter((schema) => ajv.validateSchema(schema) !== true);
    expect(wrong).toEqual([]);
  });

  it('answers in the shapes that its document tells', async () => {
    await fillDirectory(world, 'SVG', [{ ...peopleOf('SVG', 1)[0], unit: '', groups: ['Vets'] }]);
    await linkDirectory(world, 'SVG');
    const made = await provisionFor(world, 'SVG', 'shapes', 10, 'KQ');
    const idOf = async (what: string): Promise<string> =>
      ((await world.call('ida', 'GET', `/customers/SVG/${what}`)).body.entries as { id: string }[])[0]?.id ??
      '';
    await world.living.moveTo(world.clock.at + 3_600_000);
    await world.living.job('sessions');
    const [session] = (await world.call('ida', 'GET', '/customers/SVG/sessions')).body.entries as Session[];
    const looks = `/customers/SVG/sessions/${session?.provider ?? ''}/${session?.id ?? ''}/look-along`;
    const look = await world.call('ida', 'POST', looks, { body: {} });
    const [person, group] = [await idOf('people'), await idOf('groups')];
    const host = await idOf(`environments/${made.environment}/hosts`);
    await world.living.job('summary');
    const { body: trail } = await world.call('ida', 'GET', '/customers/SVG/trail');
    const entry = (trail.entries as { id: string }[])[0]?.id ?? '';
    const moving = await world.call('bram', 'POST', '/plans/jetty/moves', {
      body: { version: 1, customers: ['SVG'], count: 1 },
    });
    const hold = await holdFor(world, 'SVG', 'add-hosts', { pool: 'desks', hosts: 1 }, made.environment);
    for (const route of ROUTES.filter(
      (one) => one.method === 'GET' && one.answer && one.access !== 'person',
    )) {
      const path = route.path
        .replace('{customer}', 'SVG')
        .replace('{environment}', made.environment)
        .replace('{run}', made.run)
        .replace('{entry}', entry)
        .replace('{hold}', hold)
        .replace('{session}', session?.id ?? '')
        .replace('{parent}', String(moving.body.run))
        .replace('{provider}', session?.provider ?? '')
        .replace('{look}', String(look.body.id))
        .replace('{person}', person)
        .replace('{host}', host)
        .replace('{group}', group)
        .replace('{plan}', 'jetty')
        .replace('{template}', 'shared-office')
        .replace('{revision}', '1')
        .replace('{secret}', 'x');
      const query = path.endsWith('/facts')
        ? '?site=KQ&template=shared-office'
        : path === '/search'
          ? '?text=svg'
          : path.endsWith('/why')
            ? `?environment=${made.environment}&pool=desks&item=x`
            : '';
      const who = can(RIGHTS_OF.engineer, route.right) ? 'ida' : 'bram';
      const { status, body } = await world.call(who, 'GET', path + query);
      expect([path, status]).toEqual([path, 200]);
      expect([path, route.answer?.validate(body, { convert: false }).error?.message]).toEqual([
        path,
        undefined,
      ]);
    }
  });
});
