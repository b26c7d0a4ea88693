import { request as httpRequest, type IncomingHttpHeaders } from 'node:http';
import { connect } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEMO_PASSWORD } from '../../src/demo/scenario';
import { Engine, METRICS_TOKEN } from './setup/engine';

/** What the web server answers before any page or route is asked: as a process of its own, over the wire. */
describe('the front of the web server', { timeout: 60_000 }, () => {
  const engine = new Engine();
  beforeAll(async () => {
    await engine.open();
    await engine.startWeb();
  });
  afterAll(() => engine.close());

  interface Answer {
    readonly status: number;
    readonly headers: IncomingHttpHeaders;
    readonly text: string;
  }

  const ask = (
    path: string,
    options: {
      readonly method?: string;
      readonly headers?: Readonly<Record<string, string>>;
      readonly body?: string;
    } = {},
  ): Promise<Answer> =>
    new Promise((resolve, reject) => {
      const { body, ...rest } = options;
      const sent = httpRequest(engine.webAddress + '/', { ...rest, path }, (response) => {
        let text = '';
        response.setEncoding('utf8');
        response.on('data', (chunk: string) => (text += chunk));
        response.on('end', () =>
          resolve({ status: response.statusCode ?? 0, headers: response.headers, text }),
        );
      });
      sent.on('error', reject);
      sent.end(body);
    });

  /** Sends a request letter by letter, as only an attacker writes it. */
  const raw = (text: string): Promise<string> =>
    new Promise((resolve, reject) => {
      const { hostname, port } = new URL(engine.webAddress);
      const socket = connect(Number(port), hostname, () => socket.end(text));
      let said = '';
      socket.on('data', (chunk) => (said += chunk.toString('latin1')));
      socket.on('close', () => resolve(said));
      socket.on('error', reject);
    });

  const OWN = () => ({ origin: engine.webAddress, 'content-type': 'application/json' });
  const signIn = (mail: string, password: string, headers: Readonly<Record<string, string>> = {}) =>
    ask('/api/v1/session', {
      method: 'POST',
      headers: { ...OWN(), ...headers },
      body: JSON.stringify({ mail, password }),
    });

  it('answers a method or an address that nothing is behind with problem details', async () => {
    for (const [method, path, status] of [
      ['TRACE', '/', 405],
      ['TRACE', '/api/v1/me', 405],
      ['GET', '/%', 400],
      ['GET', '/api/v1/customers/%E0%A4%A', 400],
      ['GET', '/customers/%ff', 400],
    ] as const) {
      const answer = await ask(path, { method });
      expect([method, path, answer.status]).toEqual([method, path, status]);
      expect(answer.headers['content-type']).toBe('application/problem+json');
      expect(JSON.parse(answer.text)).toMatchObject({ status, title: expect.any(String) });
    }
    expect(await raw('GET / HTTP/1.1\r\nHost: a b\r\nConnection: close\r\n\r\n')).toMatch(/^HTTP\/1\.1 400 /);
    expect(await raw('GET http://%/ HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n')).toMatch(
      /^HTTP\/1\.1 400 /,
    );
  });

  it('serves files as what they are, and nothing beside them', async () => {
    const page = await ask('/sign-in');
    const script = /"(\/_astro\/[^"]+\.js)"/.exec(page.text)?.[1] ?? '';
    for (const path of ['/favicon.svg', '/theme.js', script]) {
      const file = await ask(path);
      expect([path, file.status, file.headers['x-content-type-options']]).toEqual([path, 200, 'nosniff']);
    }
    expect((await ask(script)).headers['cache-control']).toContain('immutable');
    for (const path of [
      '/../package.json',
      '/..%2f..%2fpackage.json',
      '/_astro/../../server/entry.mjs',
      '/.sources',
    ]) {
      const { status, text } = await ask(path);
      expect([path, status === 200, text.includes('dependencies')]).toEqual([path, false, false]);
    }
  });

  it('lets no script run within a page but those that it was made with', async () => {
    const page = await ask('/sign-in');
    const policy = String(page.headers['content-security-policy']);
    const scripts = /script-src ([^;]+)/.exec(policy)?.[1] ?? '';
    expect(scripts).toContain("'self'");
    expect(scripts).toContain("'sha256-");
    expect(scripts).not.toContain('unsafe');
    expect(policy).toContain("object-src 'none'");
  });

  it('counts tries against who sent them, whatever they claim, and tells the trail the truth', async () => {
    const statuses = [];
    for (let n = 0; n < 34; n++) {
      const from = `203.0.113.${n}, <b>not me</b>`;
      statuses.push(
        (await signIn(`guess${n}@terntallow.example`, 'guess', { 'x-forwarded-for': from })).status,
      );
    }
    expect(statuses.slice(0, 28)).toEqual(Array<number>(28).fill(401));
    expect(statuses.slice(-2)).toEqual([429, 429]);
    await engine.app.db.write('DELETE FROM sign_in_tries');
    const { status } = await signIn('ida@terntallow.example', DEMO_PASSWORD, {
      'x-forwarded-for': '203.0.113.9',
      'x-laager-peer': 'a text of mine',
    });
    expect(status).toBe(204);
    const entry = await engine.app.db.row<{ after_state: string }>(
      "SELECT after_state FROM trail WHERE action = 'sign in' ORDER BY id DESC LIMIT 1",
    );
    expect(JSON.parse(entry?.after_state ?? '')).toEqual({ from: '127.0.0.1' });
  });

  it('answers strange addresses of pages as pages that are not there', async () => {
    await engine.app.db.write('DELETE FROM sign_in_tries');
    const cookie =
      String((await signIn('ida@terntallow.example', DEMO_PASSWORD)).headers['set-cookie']?.[0]).split(
        ';',
      )[0] ?? '';
    for (const path of [
      '/customers/%C3%A9',
      '/customers/SVG/runs/%F0%9F%90%A6',
      '/customers/SVG/environments/%C3%A9',
      '/customers/SVG/environments/x/retire',
      '/customers/%00',
      '/mark/%C3%A9.svg',
      '/nowhere',
    ])
      expect([path, (await ask(path, { headers: { cookie } })).status]).toEqual([path, 404]);
    expect((await ask('/customers/SVG/costs?month=%C3%A9', { headers: { cookie } })).status).toBeLessThan(
      500,
    );
    expect((await ask('/customers/SVG', { headers: { cookie } })).status).toBe(200);
  });

  it('lets in without a sign-in only who shows the token of that way', async () => {
    const shows = (token: string) => ({ headers: { authorization: `Bearer ${token}` } });
    const read = await ask('/metrics', shows(METRICS_TOKEN));
    expect([read.status, read.headers['content-type']]).toEqual([
      200,
      'application/openmetrics-text; version=1.0.0; charset=utf-8',
    ]);
    expect(read.text).toContain('laager_node_up{');
    for (const token of ['', 'another']) expect((await ask('/metrics', shows(token))).status).toBe(401);
    expect((await ask('/metrics')).status).toBe(401);
    const pushed = await ask('/scim/v2/SVG/Users', shows('nobody gave it'));
    expect([pushed.status, pushed.headers['content-type']]).toEqual([401, 'application/scim+json']);
    expect((await ask('/serve')).status).toBe(302);
  });
});
