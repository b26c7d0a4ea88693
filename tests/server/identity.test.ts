import type { Server } from 'node:http';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { freePort } from '../../scripts/lib.mjs';
import { apiOf, type Laager } from '../../src/server/api';
import type { App } from '../../src/server/app';
import { makeToken, scopeOfMail } from '../../src/server/sign-in';
import { codeAt } from '../../src/server/sign-in/factor';
import { startIdentity, type Identity } from '../../src/standins/identity/start';
import { Browser, HERE } from './setup/browser';
import { own } from './setup/ports';
import { openWorld, type World } from './setup/world';

const BACK = `${HERE}/api/v1/session/outside/back`;

const PEOPLE: readonly Identity[] = [
  {
    id: 'sanne',
    name: 'Sanne Holt',
    mail: 'sanne@terntallow.example',
    verified: true,
    groups: ['desk'],
    amr: ['pwd', 'mfa'],
  },
  {
    id: 'oskar',
    name: 'Oskar Lind',
    mail: 'oskar@terntallow.example',
    verified: true,
    groups: ['books', 'x'],
    amr: ['pwd'],
  },
  {
    id: 'visitor',
    name: 'A visitor',
    mail: 'v@terntallow.example',
    verified: true,
    groups: ['visitors'],
    amr: [],
  },
  {
    id: 'unsure',
    name: 'Not sure',
    mail: 'ida@terntallow.example',
    verified: false,
    groups: ['desk'],
    amr: [],
  },
  {
    id: 'bram',
    name: 'Bram Oyelaran',
    mail: 'bram@terntallow.example',
    verified: true,
    groups: ['desk'],
    amr: ['mfa'],
  },
  {
    id: 'ida2',
    name: 'Ida Quist',
    mail: 'ida@terntallow.example',
    verified: true,
    groups: ['heads'],
    amr: ['mfa'],
  },
];

/** OpenID Connect Core 1.0 (code flow) with PKCE (RFC 7636), against a simulated identity service. */
describe('signing in by an identity service', () => {
  let world: World;
  let app: App;
  let api: Laager;
  let identity: { server: Server; setPeople(now: readonly Identity[]): void };
  let issuer: string;

  beforeAll(async () => {
    world = await openWorld('identity');
    const port = await freePort(own(4930));
    issuer = `http://127.0.0.1:${port}`;
    identity = await startIdentity(
      port,
      { id: 'laager', secret: 'a secret of the tests', redirects: [BACK] },
      PEOPLE,
    );
    const service = { name: 'the test', issuer, client: 'laager', secret: 'a secret of the tests' };
    // Its tokens go by the wall's clock.
    app = { ...world.app, identity: service, clock: { ...world.app.clock, wall: Date.now } };
    api = apiOf(app);
    const rules = [
      { group: 'desk', role: 'engineer', customers: ['FPS', 'SVG'] },
      { group: 'books', role: 'bookkeeper', customers: null },
      { group: 'heads', role: 'lead', customers: null },
    ];
    const kept = await world.callFromBrowser('bram', 'PUT', '/operators-groups', { body: { rules } });
    expect([kept.status, kept.body]).toEqual([200, { rules }]);
  });
  afterAll(async () => {
    await new Promise((resolve) => {
      identity.server.close(resolve);
      identity.server.closeAllConnections();
    });
    await world.close();
  });

  const browser = (): Browser => new Browser(api);
  const refusalOf = (response: Response): string | null =>
    new URL(response.headers.get('location') ?? '/', HERE).searchParams.get('outside');

  it('asks for the code with PKCE, a state and a nonce, and keeps what it knows sealed', async () => {
    const here = browser();
    const response = await here.get(`${HERE}/api/v1/session/outside?next=/runs`);
    const to = new URL(response.headers.get('location') ?? '');
    expect(response.status).toBe(303);
    expect(to.origin).toBe(issuer);
    const asked = Object.fromEntries(to.searchParams);
    expect(asked).toMatchObject({
      response_type: 'code',
      code_challenge_method: 'S256',
      redirect_uri: BACK,
      client_id: 'laager',
    });
    // RFC 7636, section 4.2: base64url of a SHA-256, without padding.
    expect(asked.code_challenge).toMatch(/^[\w-]{43}$/);
    for (const one of [asked.state, asked.nonce]) expect(one?.length).toBeGreaterThan(20);
    const [cookie = ''] = response.headers.getSetCookie();
    expect(cookie).toMatch(/HttpOnly.*SameSite=Lax|SameSite=Lax.*HttpOnly/);
    expect(cookie).not.toContain(asked.state);
  });

  it('takes somebody on by their groups, and lets them in where they wanted to go', async () => {
    const here = browser();
    const response = await here.signIn('sanne');
    expect([response.status, response.headers.get('location')]).toEqual([303, '/runs']);
    expect((await here.me()).body).toMatchObject({ name: 'Sanne Holt', role: 'engineer', reach: 'listed' });
    const customers = await here.get(`${HERE}/api/v1/customers`);
    const { entries } = (await customers.json()) as { entries: { code: string }[] };
    expect(entries.map((one) => one.code)).toEqual(['FPS', 'SVG']);
    expect((await here.get(`${HERE}/api/v1/customers/MHP`)).status).toBe(404);
  });

  it('counts more than one thing shown there as the second factor, and nothing less', async () => {
    const require = (value: string): Promise<number> =>
      world.app.db.write(
        "INSERT INTO setting (name, value) VALUES ('second factor required', ?) ON DUPLICATE KEY UPDATE value = VALUES(value)",
        [value],
      );
    await require('yes');
    const [sanne, oskar] = [browser(), browser()];
    await sanne.signIn('sanne');
    await oskar.signIn('oskar');
    expect((await sanne.get(`${HERE}/api/v1/customers`)).status).toBe(200);
    expect((await oskar.get(`${HERE}/api/v1/customers`)).status).toBe(403);
    await require('no');
    expect((await oskar.me()).body).toMatchObject({ role: 'bookkeeper', reach: 'every' });
  });

  it('lets nobody past a second factor that is set here, where the service asked for none', async () => {
    const oskar = browser();
    await oskar.signIn('oskar');
    const who = await scopeOfMail(world.app.db, 'oskar@terntallow.example');
    const secret = 'GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ';
    await world.app.db.write('UPDATE operator SET factor_sealed = ?, factor_step = 0 WHERE id = ?', [
      world.app.sealing.seal(secret, ['second factor', who?.actor.id ?? '']),
      who?.actor.id ?? '',
    ]);
    expect((await oskar.get(`${HERE}/api/v1/customers`)).status).toBe(403);
    const show = (code: string): Promise<Response> =>
      oskar.put(`${HERE}/api/v1/second-factor/shown`, { code });
    expect((await show('000000')).status).toBe(422);
    expect((await show(codeAt(secret, app.clock.wall()))).status).toBe(204);
    expect((await oskar.get(`${HERE}/api/v1/customers`)).status).toBe(200);
    await world.app.db.write('UPDATE operator SET factor_sealed = NULL WHERE id = ?', [who?.actor.id ?? '']);
  });

  it('lets a token speak for so long as the service has said who somebody is', async () => {
    await browser().signIn('sanne');
    const sanne = await scopeOfMail(world.app.db, 'sanne@terntallow.example');
    if (!sanne) throw new Error('she is not known');
    const { token } = await makeToken(app, sanne, { name: 'nightly', days: 365 });
    expect((await world.callWith(token, 'GET', '/me')).status).toBe(200);
    await world.app.db.write('UPDATE operator SET outside_wall = outside_wall - ? WHERE id = ?', [
      15 * 86_400_000 + Date.now(),
      sanne.actor.id,
    ]);
    expect((await world.callWith(token, 'GET', '/me')).status).toBe(401);
  });

  it('gives at each sign-in what the groups give by then', async () => {
    identity.setPeople(
      PEOPLE.map((one) =>
        one.id === 'sanne' ? { ...one, groups: ['books'], name: 'Sanne Holt-Vane' } : one,
      ),
    );
    const here = browser();
    await here.signIn('sanne');
    expect((await here.me()).body).toMatchObject({
      name: 'Sanne Holt-Vane',
      role: 'bookkeeper',
      reach: 'every',
    });
    identity.setPeople(PEOPLE.map((one) => (one.id === 'sanne' ? { ...one, groups: [] } : one)));
    const sanne = await scopeOfMail(world.app.db, 'sanne@terntallow.example');
    if (!sanne) throw new Error('she is not known');
    const { token } = await makeToken(app, sanne, { name: 'nightly', days: 365 });
    expect((await world.callWith(token, 'GET', '/me')).status).toBe(200);
    const refused = await browser().signIn('sanne');
    expect(refusalOf(refused)).toBe('no groups');
    // With the groups everything else that let her in is gone.
    expect((await here.me()).status).toBe(401);
    expect((await world.callWith(token, 'GET', '/me')).status).toBe(401);
    // Whoever tries again gets where they wanted to go.
    expect(refused.headers.get('location')).toContain('next=%2Fruns');
    identity.setPeople(PEOPLE);
    const operators = (await world.call('bram', 'GET', '/operators')).body.operators as { mail: string }[];
    expect(operators.filter((one) => one.mail === 'sanne@terntallow.example')).toHaveLength(1);
  });

  it.each([
    ['in no group that gives anything', 'visitor', 'no groups'],
    ['whose mail address nobody confirmed', 'unsure', 'mail'],
    ['who would be the last lead and is none by their groups', 'bram', 'last lead'],
    ['who is nobody there', '', 'refused'],
  ])('lets nobody in %s', async (_who, id, why) => {
    const here = browser();
    expect(refusalOf(await here.signIn(id))).toBe(why);
    expect((await here.me()).status).toBe(401);
  });

  it('knows again who was taken on before with a password, and no other under the same mail address', async () => {
    const here = browser();
    await here.signIn('ida2');
    expect((await here.me()).body).toMatchObject({ name: 'Ida Quist', role: 'lead' });
    identity.setPeople([...PEOPLE, { ...PEOPLE[5], id: 'another' } as Identity]);
    expect(refusalOf(await browser().signIn('another'))).toBe('mail');
    identity.setPeople(PEOPLE);
  });

  it('takes no answer that another browser began, that was taken already, or that was changed on the way', async () => {
    const mine = browser();
    const back = await mine.outside('sanne');
    // Somebody is sent a link that would sign them in as another.
    expect(refusalOf(await browser().get(back))).toBe('over');
    const changed = new URL(back);
    changed.searchParams.set('state', 'another');
    expect(refusalOf(await mine.get(changed.href))).toBe('refused');
    expect((await mine.me()).status).toBe(401);
    const again = browser();
    const way = await again.outside('sanne');
    expect((await again.get(way)).headers.get('location')).toBe('/runs');
    expect(refusalOf(await again.get(way))).toBe('over');
  });

  it('leads to no page of others', async () => {
    for (const next of ['//evil.example', 'https://evil.example/', '/\\evil.example']) {
      const here = browser();
      const way = await here.outside(
        'sanne',
        `${HERE}/api/v1/session/outside?next=${encodeURIComponent(next)}`,
      );
      const led = new URL((await here.get(way)).headers.get('location') ?? '', HERE);
      expect(led.origin).toBe(HERE);
    }
  });

  it('says so where the service is not there, or none is set', async () => {
    const away = { ...app, identity: { name: '', issuer: 'http://127.0.0.1:9', client: 'x', secret: '' } };
    expect(refusalOf(await new Browser(apiOf(away)).get(`${HERE}/api/v1/session/outside`))).toBe(
      'not reached',
    );
    const none = apiOf({ ...app, identity: undefined });
    expect(refusalOf(await new Browser(none).get(`${HERE}/api/v1/session/outside`))).toBe('not reached');
  });

  it('does not let in whose time here has ended', async () => {
    const operators = (await world.call('bram', 'GET', '/operators')).body.operators as {
      mail: string;
      id: string;
      role: string;
    }[];
    const oskar = operators.find((one) => one.mail === 'oskar@terntallow.example');
    const body = { role: 'bookkeeper', customers: null, endsAt: 1 };
    expect(
      (await world.callFromBrowser('bram', 'PUT', `/operators/${oskar?.id ?? ''}`, { body })).status,
    ).toBe(200);
    expect(refusalOf(await browser().signIn('oskar'))).toBe('ended');
  });

  it('has what groups give said by leads alone, each group once', async () => {
    const rule = { group: 'desk', role: 'engineer', customers: null };
    const put = (who: 'ida' | 'bram' | 'petra', rules: object[]) =>
      world.callFromBrowser(who, 'PUT', '/operators-groups', { body: { rules } });
    expect((await put('petra', [])).status).toBe(403);
    // A lead of some customers would read codes of others here, and could take away what lets them in.
    await world.app.db.write("UPDATE operator SET role = 'lead' WHERE mail = 'jonah@terntallow.example'");
    const some = await world.call('jonah', 'GET', '/operators-groups');
    expect([some.status, some.text.includes('SVG')]).toEqual([403, false]);
    expect(
      (await world.callFromBrowser('jonah', 'PUT', '/operators-groups', { body: { rules: [] } })).status,
    ).toBe(403);
    expect((await put('bram', [rule, rule])).body.fields).toEqual({ 'rules.1.group': 'is there twice' });
    expect((await put('bram', [{ ...rule, customers: ['ZZZ'] }])).body.fields).toEqual({
      customers: 'ZZZ is not known',
    });
  });
});
