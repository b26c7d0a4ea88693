import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_PASSWORD } from '../../src/demo/scenario';
import { makeToken, scopeOfMail } from '../../src/server/sign-in';
import { Engine } from './setup/engine';

/** Two web servers and two workers on one database: whichever is asked, it is the same Laager. */
describe('several processes', { timeout: 180_000 }, () => {
  const engine = new Engine();
  let webs: readonly [string, string] = ['', ''];
  let token = '';
  beforeAll(async () => {
    await engine.open();
    webs = [await engine.startWeb(), await engine.startWeb('web2')];
    const lead = await scopeOfMail(engine.app.db, 'bram@terntallow.example');
    if (!lead) throw new Error('the lead is missing');
    token = (await makeToken(engine.app, lead, { name: 'test', days: 1 })).token;
  });
  afterEach(() => engine.calm());
  afterAll(() => engine.close());

  interface Answered {
    readonly status: number;
    readonly body: Record<string, unknown>;
    readonly headers: Headers;
  }
  const ask = async (
    web: number,
    method: string,
    path: string,
    { body, headers = {} }: { readonly body?: object; readonly headers?: Record<string, string> } = {},
  ): Promise<Answered> => {
    const address = webs[web] ?? '';
    const response = await fetch(`${address}/api/v1${path}`, {
      method,
      headers: {
        ...(headers.cookie === undefined ? { authorization: `Bearer ${token}` } : { origin: address }),
        ...(body ? { 'content-type': 'application/json' } : {}),
        ...headers,
      },
      ...(body ? { body: JSON.stringify(body) } : {}),
      signal: AbortSignal.timeout(20_000),
    });
    const text = await response.text();
    return {
      status: response.status,
      body: (text === '' ? {} : JSON.parse(text)) as Record<string, unknown>,
      headers: response.headers,
    };
  };

  const signIn = (web: number, password: string): Promise<Answered> =>
    ask(web, 'POST', '/session', {
      body: { mail: 'ida@terntallow.example', password },
      headers: { cookie: '' },
    });

  it('know who has signed in at the other, and who has signed out there', async () => {
    const { headers } = await signIn(0, DEMO_PASSWORD);
    const cookie = headers
      .getSetCookie()
      .map((one) => one.split(';')[0])
      .join('; ');
    for (const web of [0, 1])
      expect((await ask(web, 'GET', '/me', { headers: { cookie } })).status).toBe(200);
    expect((await ask(1, 'DELETE', '/session', { headers: { cookie } })).status).toBe(204);
    for (const web of [0, 1])
      expect((await ask(web, 'GET', '/me', { headers: { cookie } })).status).toBe(401);
  });

  it('begin once what was proposed by one and is sent to both at the same moment, and end it between two workers', async () => {
    const asked = { input: { environment: 'twice', people: 6, template: 'shared-office', site: 'KQ' } };
    const path = '/customers/SVG/changes/provision';
    const { body: proposed } = await ask(0, 'POST', `${path}/proposal`, { body: asked });
    const begin = (web: number): Promise<Answered> =>
      ask(web, 'POST', path, {
        body: { ...asked, fingerprint: proposed.fingerprint, reason: 'a test' },
        headers: { 'idempotency-key': 'at both' },
      });
    const [one, other] = await Promise.all([begin(0), begin(1)]);
    expect([one.status, other.status]).toEqual([201, 201]);
    expect(one.body).toEqual(other.body);
    engine.startWorker();
    engine.startWorker();
    await engine.untilRun(String(one.body.run), 'done', 90_000);
    await engine.expectExactlyWanted(String(one.body.environment));
    // Both have had a part in it, or could have: no step was done twice.
    const { entries } = (await ask(1, 'GET', '/customers/SVG/environments')).body as {
      entries: { name: string }[];
    };
    expect(entries.filter(({ name }) => name === 'twice')).toHaveLength(1);
  });

  it('tell at one what is done at the other', async () => {
    const stream = await fetch(`${webs[1]}/api/v1/events`, {
      headers: { authorization: `Bearer ${token}` },
      signal: AbortSignal.timeout(30_000),
    });
    const reader = stream.body?.pipeThrough(new TextDecoderStream()).getReader();
    if (!reader) throw new Error('there is no stream');
    let heard = '';
    const until = async (text: string): Promise<void> => {
      while (!heard.includes(text)) heard += (await reader.read()).value ?? '';
    };
    await until('ready');
    const said = await ask(0, 'POST', '/customers/MHP/desk-messages', {
      body: { person: null, text: 'The harbour is closed on Sunday.' },
    });
    expect(said.status).toBe(201);
    // It is told that something of MHP's people is new, and not what.
    await until('"id":"MHP"');
    expect(heard).not.toContain('harbour');
    await reader.cancel();
  });

  it('count wrong passwords together', async () => {
    const statuses: number[] = [];
    for (let n = 0; n < 16 && statuses.at(-1) !== 429; n++)
      statuses.push((await signIn(n % 2, 'wrong')).status);
    expect(statuses.at(-1)).toBe(429);
    // At the other, the right one does not come in either.
    for (const web of [0, 1]) expect((await signIn(web, DEMO_PASSWORD)).status).toBe(429);
  });
});
