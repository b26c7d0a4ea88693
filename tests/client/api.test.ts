import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest';
import { addressOf, ApiProblem, call, getAll, SIGNED_OUT, whyOf } from '../../src/client/api';

/** The browser's side of the API, against a server that answers as it is told. */
describe('calling the API', () => {
  /** What the page says of itself. */
  const page: { focus?: string } = {};
  type Handler = (request: IncomingMessage, body: string, response: ServerResponse) => void;
  let server: Server;
  let handler: Handler = (_request, _body, response) => response.end();
  const windowEvents = new EventTarget();

  beforeAll(async () => {
    server = createServer((request, response) => {
      let body = '';
      request.on('data', (chunk: Buffer) => (body += chunk.toString()));
      request.on('end', () => handler(request, body, response));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as AddressInfo;
    // In a browser an address without a host is the page's own host's.
    vi.stubGlobal(
      'Request',
      class extends Request {
        constructor(input: RequestInfo | URL, init?: RequestInit) {
          super(typeof input === 'string' ? `http://127.0.0.1:${port}${input}` : input, init);
        }
      },
    );
    vi.stubGlobal('document', { body: { dataset: page } });
    vi.stubGlobal('dispatchEvent', (event: Event) => windowEvents.dispatchEvent(event));
  });
  afterEach(() => {
    handler = (_request, _body, response) => response.end();
  });
  afterAll(async () => {
    vi.unstubAllGlobals();
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
  });

  const answering = (status: number, body: unknown, type = 'application/json'): Handler => {
    return (_request, _body, response) => {
      response.writeHead(status, { 'content-type': type });
      response.end(typeof body === 'string' ? body : JSON.stringify(body));
    };
  };
  const problemOf = async (asked: Promise<unknown>): Promise<ApiProblem> => {
    try {
      await asked;
    } catch (error) {
      if (error instanceof ApiProblem) return error;
      throw error;
    }
    throw new Error('it went through');
  };

  it('says with each write whose page it is sent from, and of no customer’s page nothing', async () => {
    const said: (string | string[] | undefined)[] = [];
    handler = ({ headers }, _body, response) => {
      said.push(headers['x-laager-focus']);
      response.end('{}');
    };
    page.focus = 'MHP';
    await call('POST', '/a', { body: {} });
    await call('GET', '/a');
    delete page.focus;
    await call('POST', '/a', { text: { body: 'a: 1', type: 'application/yaml' } });
    expect(said).toEqual(['MHP', undefined, undefined]);
  });

  it('sends what it is given: JSON, CSV, key and version in their headers', async () => {
    const seen: { method: string; url: string; body: string; headers: IncomingMessage['headers'] }[] = [];
    handler = ({ method = '', url = '', headers }, body, response) => {
      seen.push({ method, url, body, headers });
      response.end('{}');
    };
    await call('POST', '/a', { body: { n: 1 }, key: 'k1', version: 7 });
    await call('POST', '/b', { csv: 'account\nx' });
    await call('DELETE', '/c');
    expect(seen).toMatchObject([
      {
        method: 'POST',
        url: '/api/v1/a',
        body: '{"n":1}',
        headers: { 'content-type': 'application/json', 'idempotency-key': 'k1', 'if-match': '"7"' },
      },
      { url: '/api/v1/b', body: 'account\nx', headers: { 'content-type': 'text/csv' } },
      { method: 'DELETE', url: '/api/v1/c', body: '' },
    ]);
    expect(seen[2]?.headers['content-type']).toBeUndefined();
  });

  it('takes an empty answer as none', async () => {
    handler = answering(200, '');
    expect(await call('GET', '/x')).toBeUndefined();
  });

  // RFC 9457: type, title, status, detail, and members of one's own.
  it('makes of problem details an error with a sentence, a code and what is wrong with each field', async () => {
    handler = answering(
      422,
      {
        type: 'urn:laager:problem:invalid',
        title: 'x',
        status: 422,
        detail: 'Some of what was sent cannot be used.',
        fields: { people: 'must be a number' },
        checks: [1],
      },
      'application/problem+json',
    );
    const problem = await problemOf(call('POST', '/x', { body: {} }));
    expect(problem).toMatchObject({
      status: 422,
      code: 'invalid',
      message: 'Some of what was sent cannot be used.',
      fields: { people: 'must be a number' },
      body: { checks: [1] },
    });
    // Where no field stands for it, what is wrong is told all the same.
    expect(whyOf(problem)).toBe('people must be a number.');
  });

  it.each([
    ['a page of a gateway', 502, '<html>bad gateway</html>'],
    ['nothing', 500, ''],
    ['a number', 500, '7'],
    ['a list', 500, '[]'],
  ])('says something sensible when an error is answered with %s', async (_what, status, body) => {
    handler = answering(status, body, 'text/html');
    const problem = await problemOf(call('GET', '/x'));
    expect(problem.status).toBe(status);
    expect(problem.message).toBe('Laager answered with something unexpected.');
  });

  it('says that what was entered is still there when no answer comes', async () => {
    handler = (_request, _body, response) => response.destroy();
    const problem = await problemOf(call('POST', '/x', { body: {} }));
    expect(problem).toMatchObject({ status: 0, code: 'no-answer' });
    expect(problem.message).toContain('What you entered is still here');
  });

  it('tells the page when nobody knows any more who asks; a wrong password is no such news', async () => {
    let told = 0;
    windowEvents.addEventListener(SIGNED_OUT, () => told++);
    handler = answering(401, { type: 'urn:x:sign-in', detail: 'Sign in first.' });
    await problemOf(call('GET', '/watch'));
    expect(told).toBe(1);
    await problemOf(call('POST', '/session', { body: {} }));
    expect(told).toBe(1);
  });

  it('reads a list to its end, page after page, and each page once', async () => {
    const urls: string[] = [];
    handler = ({ url = '' }, _body, response) => {
      urls.push(url);
      const after = new URL(url, 'http://x').searchParams.get('after');
      const pages: Record<string, unknown> = {
        first: { entries: [1, 2], next: 'b&c' },
        'b&c': { entries: [3], next: 'd' },
        d: { entries: [], next: null },
      };
      response.end(JSON.stringify(pages[after ?? 'first']));
    };
    expect(await getAll('/customers/{customer}/people', { customer: 'a/b' })).toEqual([1, 2, 3]);
    expect(urls).toHaveLength(3);
    expect(urls[0]).toMatch(/^\/api\/v1\/customers\/a%2Fb\/people\?/);
    expect(urls[1]).toContain('after=b%26c');
  });

  it('writes addresses safely: names filled in, and of the query what says something', () => {
    expect(addressOf('/runs', {}, { find: '', after: undefined })).toBe('/runs');
    expect(addressOf('/runs', {}, { find: 'a&b=c', limit: 5 })).toBe('/runs?find=a%26b%3Dc&limit=5');
    expect(addressOf('/customers/{customer}/runs/{run}', { customer: 'SVG', run: '../x' })).toBe(
      '/customers/SVG/runs/..%2Fx',
    );
  });
});
