import { createServer, type Server } from 'node:http';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { OutsideError, outsideHttp } from '../../src/server/outside';
import { openAuthority } from './setup/authority';
import { START, openWorld, type Called, type World } from './setup/world';

const DAY = 86_400_000;

/** What one person sends keeps nobody else waiting: their request is answered while the other's is worked on. */
describe('a request that costs much', () => {
  let world: World;
  const authority = openAuthority({ from: START - 400 * DAY, until: START + 4000 * DAY });
  beforeAll(async () => {
    world = await openWorld('blocking');
  });
  afterAll(async () => {
    authority.close();
    await world.close();
  });

  const ends = async (costly: Promise<Called>): Promise<{ first: string; answer: Called }> => {
    const other = world.call('ida', 'GET', '/customers/SVG').then(() => 'the other');
    const first = await Promise.race([costly.then(() => 'the costly one'), other]);
    const answer = await costly;
    await other;
    return { first, answer };
  };

  it('like a certificate with as many rounds as it may have, is ended', async () => {
    const leaf = authority.leaf(['desks.fps.example'], { from: START - DAY, until: START + 365 * DAY });
    const pkcs12 = authority.pkcs12(leaf, 'lantern', 700_000);
    const { first, answer } = await ends(
      world.call('ida', 'POST', '/customers/FPS/certificates/reading', {
        body: { pkcs12, password: 'lantern' },
      }),
    );
    expect(first).toBe('the other');
    expect(answer.body.faults).toEqual({
      pkcs12: expect.stringMatching(/takes too long to open|so many rounds/) as string,
    });
  });

  it('like a file of customers with many keys, is refused', async () => {
    const yaml = `customers:\n  - ${Array.from({ length: 60_000 }, (_, n) => `k${n}: 1`).join('\n    ')}`;
    const { first, answer } = await ends(world.call('bram', 'POST', '/customers/file', { yaml }));
    expect(first).toBe('the other');
    expect([answer.status, (answer.body.faults as unknown[]).length > 0]).toEqual([200, true]);
  });

  it('like a list of people that begins with blank lines, is read', async () => {
    const csv = `${'\r\n'.repeat(500)}account,given,family,mail\r\nzed,Zed,Quill,zed@qfb.example\r\n`;
    const { answer } = await ends(world.call('ida', 'POST', '/customers/QFB/people/import', { csv }));
    expect([answer.status, answer.body.added]).toEqual([200, 1]);
  });
});

describe('an answer from outside', () => {
  let server: Server;
  let url = '';
  let body = Buffer.from('');
  let headers: Record<string, string> = {};
  beforeAll(async () => {
    server = createServer((_request, response) => response.writeHead(200, headers).end(body));
    await new Promise<void>((listens) => server.listen(0, '127.0.0.1', listens));
    const address = server.address();
    url = `http://127.0.0.1:${typeof address === 'object' && address ? address.port : 0}`;
  });
  afterAll(() => {
    server.close();
    server.closeAllConnections();
  });

  it('that unpacks to a thousand times its size is read no further than it may be long', async () => {
    body = gzipSync(Buffer.alloc(100_000_000, ' '));
    headers = { 'content-encoding': 'gzip', 'content-type': 'application/json' };
    expect(body.length).toBeLessThan(150_000);
    const before = process.memoryUsage().arrayBuffers;
    await expect(outsideHttp('provider', url)('GET', '/')).rejects.toThrow('longer than');
    expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(60_000_000);
  });

  it('may have no key that reaches a prototype', async () => {
    body = Buffer.from('{"tags":{"__proto__":{"x":1}}}');
    headers = { 'content-type': 'application/json' };
    await expect(outsideHttp('provider', url)('GET', '/')).rejects.toBeInstanceOf(OutsideError);
    expect(({} as { x?: unknown }).x).toBeUndefined();
  });
});
