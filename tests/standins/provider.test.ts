import type { Server } from 'node:http';
import { inject } from 'vitest';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { freePort } from '../../scripts/lib.mjs';
import type { Store } from '../../src/standins/kit/database';
import { startProvider } from '../../src/standins/provider/start';
import { own } from '../server/setup/ports';

const ACCESS = { account: 'tern', secret: 'a secret of these tests' };
const START = Date.UTC(2026, 10, 18, 9, 0);
const MINUTE = 60_000;

interface Said {
  readonly status: number;
  readonly body: Record<string, unknown>;
  readonly headers: Headers;
}

/** The simulated provider over its own HTTP API, as a program that knows nothing of Laager would meet it. */
describe('the simulated provider', () => {
  let server: Server;
  let store: Store;
  let port = 0;
  let token = '';
  let at = START;

  const address = () => ({
    host: '127.0.0.1',
    port: inject('databasePort'),
    user: 'root',
    password: '',
    database: 'standin_provider',
  });
  const start = async (): Promise<void> => {
    ({ server, store } = await startProvider(address(), port, ACCESS));
  };
  const stop = async (): Promise<void> => {
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
    await store.close();
  };
  const say = async (
    method: string,
    path: string,
    body?: unknown,
    headers: Record<string, string> = {},
  ): Promise<Said> => {
    const response = await fetch(`http://127.0.0.1:${port}${path}`, {
      method,
      headers: { authorization: `Bearer ${token}`, ...headers },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
    const text = await response.text();
    return {
      status: response.status,
      headers: response.headers,
      body: text === '' ? {} : (JSON.parse(text) as Record<string, unknown>),
    };
  };
  const moveTo = async (to: number): Promise<void> => {
    at = to;
    await say('PUT', '/control/clock', { at, speed: 0 });
  };
  const faults = (...list: object[]): Promise<Said> => say('PUT', '/control/faults', { faults: list });
  const begun = (said: Said): { id: string; resource: string; state: string } =>
    said.body as unknown as { id: string; resource: string; state: string };
  const host = (name: string, attributes: object = {}, more: object = {}) => ({
    kind: 'host',
    site: 'KQ',
    name,
    attributes: {
      size: 's2x8',
      image: 'Ostrel 12 multi-user',
      subnet: 'none',
      address: '10.0.0.9',
      diskGiB: 128,
      node: 'kq-a1',
      ...attributes,
    },
    tags: { customer: 'SVG', environment: 'e1' },
    ...more,
  });
  const make = (body: unknown, key?: string): Promise<Said> =>
    say('POST', '/v1/resources', body, key === undefined ? {} : { 'idempotency-key': key });
  const act = (ref: string, action: string, parameters: object = {}, headers = {}): Promise<Said> =>
    say('POST', `/v1/resources/${ref}/actions`, { action, parameters }, headers);
  const change = (ref: string, attributes: object, headers = {}): Promise<Said> =>
    say('PATCH', `/v1/resources/${ref}`, { attributes }, headers);
  const attributesOf = async (ref: string): Promise<Record<string, unknown>> =>
    (await say('GET', `/v1/resources/${ref}`)).body.attributes as Record<string, unknown>;
  const stateOf = async (id: string): Promise<unknown> =>
    (await say('GET', `/v1/resources/${id}`)).body.state;

  beforeAll(async () => {
    port = await freePort(own(4960));
    await start();
    await moveTo(START);
    token = String((await say('POST', '/v1/token', ACCESS)).body.token);
  });
  afterAll(() => stop());
  beforeEach(() => faults());

  describe('signing in', () => {
    it('gives a token for account and secret, and for nothing else', async () => {
      for (const wrong of [
        { ...ACCESS, secret: 'no' },
        { ...ACCESS, account: 'gull' },
      ])
        expect((await say('POST', '/v1/token', wrong)).status).toBe(401);
      expect((await say('POST', '/v1/token', { account: 'tern' })).status).toBe(400);
    });

    it('serves nobody without a token, nor with one that has expired', async () => {
      for (const path of ['/v1/sites', '/v1/prices', '/v1/resources', '/v1/feed', '/v1/sessions'])
        expect((await say('GET', path, undefined, { authorization: '' })).status).toBe(401);
      const other = String((await say('POST', '/v1/token', ACCESS)).body.token);
      await store.write('UPDATE token SET expires_wall = 0 WHERE token = ?', [other]);
      const late = await say('GET', '/v1/sites', undefined, { authorization: `Bearer ${other}` });
      expect(late.body).toMatchObject({ code: 'token' });
    });
  });

  describe('what it offers', () => {
    it('lists its sites: two of own nodes in two zones each', async () => {
      const { body } = await say('GET', '/v1/sites');
      const sites = body.sites as {
        code: string;
        kind: string;
        nodes: { zone: string; vcpu: number }[];
        quota: { vcpu: number; vcpu_used: number } | null;
      }[];
      expect(sites.map((site) => [site.code, site.kind])).toEqual([
        ['KQ', 'own nodes'],
        ['TF', 'own nodes'],
      ]);
      for (const site of sites) {
        expect(new Set(site.nodes.map((node) => node.zone)).size).toBe(2);
        expect(site.quota).toBeNull();
      }
      // 32 cores sold four times over.
      expect(sites[0]?.nodes[0]?.vcpu).toBe(128);
    });

    it('has a second catalogue: a hosted region under a quota, that names things in its own way', async () => {
      const northernPort = await freePort(own(4960));
      const northern = await startProvider(
        { ...address(), database: 'standin_northern' },
        northernPort,
        ACCESS,
        'northern',
      );
      const call = async (path: string, body?: unknown): Promise<Record<string, unknown>> => {
        const response = await fetch(`http://127.0.0.1:${northernPort}${path}`, {
          method: body === undefined ? 'GET' : 'POST',
          headers: { authorization: `Bearer ${other}` },
          ...(body === undefined ? {} : { body: JSON.stringify(body) }),
        });
        return (await response.json()) as Record<string, unknown>;
      };
      let other = '';
      other = String((await call('/v1/token', ACCESS)).token);
      expect((await call('/v1/sites')).sites).toMatchObject([
        {
          code: 'NL',
          kind: 'hosted region',
          nodes: [],
          reserved_addresses: 8,
          quota: { vcpu: 160, vcpu_used: 0 },
        },
      ]);
      const made = await call('/v1/resources', host('FAR', { node: null }, { site: 'NL' }));
      expect(made.resource).toMatch(/^region\/host\/[0-9a-f]{12}$/);
      const found = await call(`/v1/resources/${encodeURIComponent(String(made.resource))}`);
      expect(found).toMatchObject({ name: 'FAR', state: 'building' });
      // Sizes with a graphics processor have a quota of their own within the whole.
      const drawing = (name: string): Promise<Record<string, unknown>> =>
        call('/v1/resources', host(name, { node: null, size: 's16x64g16' }, { site: 'NL' }));
      for (const name of ['D1', 'D2', 'D3']) expect((await drawing(name)).resource).toBeTruthy();
      expect(await drawing('D4')).toMatchObject({ code: 'quota' });
      expect((await call('/v1/sites')).sites).toMatchObject([
        {
          quota: {
            vcpu_used: 2 + 3 * 16,
            families: [{ family: 'graphics', vcpu: 48, vcpu_used: 48 }],
          },
        },
      ]);
      northern.server.closeAllConnections();
      await new Promise((resolve) => northern.server.close(resolve));
      await northern.store.close();
    });

    it('has a price list of exact decimals with its currency', async () => {
      const { body } = await say('GET', '/v1/prices');
      expect(body.currency).toBe('EUR');
      const sizes = body.sizes as { key: string; hourly: string }[];
      expect(sizes.every((size) => /^\d+\.\d{4}$/.test(size.hourly))).toBe(true);
    });
  });

  describe('operations', () => {
    it('answer 202 with a place to look, take minutes, and end at their own instant', async () => {
      const said = await make(host('OP1'), 'op 1');
      expect(said.status).toBe(202);
      expect(said.headers.get('location')).toBe(`/v1/operations/${begun(said).id}`);
      expect(begun(said).state).toBe('working');
      await moveTo(at + 2 * MINUTE);
      expect((await say('GET', `/v1/operations/${begun(said).id}`)).body.state).toBe('working');
      await moveTo(at + 10 * MINUTE);
      const feed = (await say('GET', '/v1/feed?after=0')).body.entries as {
        at: number;
        seen: { id: string; state: string };
      }[];
      const on = feed.find((entry) => entry.seen.id === begun(said).resource && entry.seen.state === 'on');
      // A host takes 400 simulated seconds, give or take a sixth; nobody looked at that very moment.
      const took = ((on?.at ?? 0) - START) / 1_000;
      expect(took).toBeGreaterThan(300);
      expect(took).toBeLessThan(650);
    });

    it('are done once for a key, even when the key comes many times at once', async () => {
      const all = await Promise.all(Array.from({ length: 6 }, () => make(host('ONCE'), 'once')));
      expect(new Set(all.map((said) => begun(said).id)).size).toBe(1);
      const { body } = await say('GET', '/v1/resources?customer=SVG');
      expect((body.entries as { name: string }[]).filter((one) => one.name === 'ONCE')).toHaveLength(1);
    });

    it('prepare, join, switch and remove a host in turn', async () => {
      const made = begun(await make(host('TURN')));
      const ref = made.resource;
      await moveTo(at + 15 * MINUTE);
      expect(await stateOf(ref)).toBe('on');
      await act(ref, 'install-agent');
      await act(ref, 'join', { realm: 'svg.example' });
      await moveTo(at + 15 * MINUTE);
      expect(await attributesOf(ref)).toMatchObject({
        agent: 'ready',
        joined: 'svg.example',
      });
      await act(ref, 'power-off');
      await moveTo(at + 5 * MINUTE);
      expect(await stateOf(ref)).toBe('off');
      await say('DELETE', `/v1/resources/${ref}`);
      await moveTo(at + 5 * MINUTE);
      expect(await stateOf(ref)).toBe('gone');
      expect((await act(ref, 'power-on')).status).toBe(410);
      expect((await change(ref, { accepting: false })).status).toBe(410);
    });

    it('resize a host, and grow its disk and then what is on it', async () => {
      const { resource: ref } = begun(await make(host('GROWS')));
      await moveTo(at + 15 * MINUTE);
      await act(ref, 'resize', { size: 's4x16', node: 'kq-a2' });
      await act(ref, 'grow-disk', { diskGiB: 256 });
      await moveTo(at + 15 * MINUTE);
      // The disk is larger, and nobody can use it yet.
      expect(await attributesOf(ref)).toMatchObject({
        size: 's4x16',
        node: 'kq-a2',
        diskGiB: 256,
        fileSystemGiB: 128,
      });
      await act(ref, 'grow-file-system');
      await moveTo(at + 5 * MINUTE);
      expect(await attributesOf(ref)).toMatchObject({ fileSystemGiB: 256 });
      await act(ref, 'grow-disk', { diskGiB: 64 });
      await moveTo(at + 5 * MINUTE);
      expect(await attributesOf(ref)).toMatchObject({ diskGiB: 256 });
      expect((await act(ref, 'resize', { size: 's16x64', node: 'kq-z9' })).status).toBe(422);
    });

    // RFC 9110, section 13.1.1 (If-Match) and 15.5.13 (412).
    it('and changes bound to a version are done only while it is that one', async () => {
      const { resource: ref } = begun(await make(host('BOUND')));
      await moveTo(at + 15 * MINUTE);
      const seen = Number((await say('GET', `/v1/resources/${ref}`)).body.version);
      const bound = { 'if-match': `"${seen}"` };
      expect((await change(ref, { accepting: false }, bound)).status).toBe(200);
      // Whoever read it before that is told, and nothing is done.
      expect((await change(ref, { accepting: true }, bound)).status).toBe(412);
      expect((await act(ref, 'power-off', {}, bound)).status).toBe(412);
      expect((await say('DELETE', `/v1/resources/${ref}`, undefined, bound)).status).toBe(412);
      expect(await attributesOf(ref)).toMatchObject({ accepting: false });
      expect(await stateOf(ref)).toBe('on');
      // An operation that is under way is a change, too.
      const now = Number((await say('GET', `/v1/resources/${ref}`)).body.version);
      const off = await act(ref, 'power-off', {}, { 'if-match': `"${now}"`, 'idempotency-key': 'bound off' });
      expect(off.status).toBe(202);
      expect((await act(ref, 'power-on', {}, { 'if-match': `"${now}"` })).status).toBe(412);
      // The same key again is answered as before, whatever the version.
      const again = await act(
        ref,
        'power-off',
        {},
        { 'if-match': `"${now}"`, 'idempotency-key': 'bound off' },
      );
      expect(begun(again).id).toBe(begun(off).id);
    });

    it('make also what it has never heard of, as it is', async () => {
      const body = { kind: 'licence-file', site: 'KQ', name: 'file', attributes: { seats: 5 }, tags: {} };
      const { resource: ref } = begun(await make(body));
      await moveTo(at + 5 * MINUTE);
      expect((await say('GET', `/v1/resources/${ref}`)).body).toMatchObject({
        kind: 'licence-file',
        state: 'ready',
        attributes: { seats: 5 },
      });
    });

    it('fail a host as often as was asked, leave none behind, and work again after', async () => {
      await faults({ kind: 'fail-host', target: 'UNLUCKY', amount: 1 });
      const first = begun(await make(host('UNLUCKY'), 'bad'));
      await moveTo(at + 15 * MINUTE);
      const failed = (await say('GET', `/v1/operations/${first.id}`)).body;
      expect(failed).toMatchObject({ state: 'failed' });
      expect(String(failed.says)).toContain('UNLUCKY');
      expect(await stateOf(first.resource)).toBe('gone');
      const again = begun(await make(host('UNLUCKY'), 'good'));
      await moveTo(at + 15 * MINUTE);
      expect(await stateOf(again.resource)).toBe('on');
    });
  });

  describe('refusals', () => {
    it.each([
      ['a body that is no JSON', 'POST', '/v1/resources', '{', 400],
      ['a body that is no object', 'POST', '/v1/resources', '7', 400],
      ['a site that is not there', 'POST', '/v1/resources', { kind: 'network', site: 'XX', name: 'n' }, 422],
      ['a field that is missing', 'POST', '/v1/resources', { site: 'KQ', name: 'n' }, 400],
      [
        'attributes that are none',
        'POST',
        '/v1/resources',
        { kind: 'x', site: 'KQ', name: 's', attributes: 7 },
        400,
      ],
      ['tags that are none', 'POST', '/v1/resources', { kind: 'x', site: 'KQ', name: 's', tags: 'x' }, 400],
      ['a filter that is none', 'GET', "/v1/resources?a'b=1", undefined, 400],
      ['a path that is not served', 'GET', '/v1/cellar', undefined, 404],
      ['an operation that never was', 'GET', '/v1/operations/000000000000', undefined, 404],
      ['a resource that never was', 'DELETE', '/v1/resources/000000000000', undefined, 404],
    ])('of %s', async (_what, method, path, body, status) => {
      const said = await say(method, path, body);
      expect(said.status).toBe(status);
      expect(said.body).toMatchObject({ code: expect.any(String), message: expect.any(String) });
    });

    it('of a size it does not offer, and a node it does not have', async () => {
      expect((await make(host('X', { size: 's1x1' }))).status).toBe(422);
      expect((await make(host('X', { node: 'kq-z9' }))).status).toBe(422);
      expect((await make(host('X', { diskGiB: 32 }))).body).toMatchObject({
        code: 'disk-too-small',
        message: 'Ostrel 12 multi-user needs 64 GiB',
      });
    });

    it('of more than a second’s share of calls', async () => {
      await faults({ kind: 'throttle' });
      const said = await say('GET', '/v1/sites');
      expect([said.status, said.headers.get('retry-after')]).toEqual([429, '1']);
      // The simulation's own controls stay in reach.
      expect((await say('GET', '/control/faults')).status).toBe(200);
    });
  });

  describe('people', () => {
    const accounts = Array.from({ length: 40 }, (_, i) => `person${i}`);
    let hosts: string[] = [];
    let pool = '';

    const makePool = async (arrival: string, seats: number, count: number): Promise<void> => {
      const made = begun(
        await make({
          kind: 'pool',
          site: 'TF',
          name: `pool ${arrival}`,
          attributes: { seats, arrival },
          tags: { customer: 'HSB' },
        }),
      );
      pool = made.resource;
      hosts = [];
      for (let i = 0; i < count; i++)
        hosts.push(
          begun(
            await make(
              host(
                `${arrival}${i}`,
                { node: `tf-a${(i % 2) + 1}` },
                { site: 'TF', tags: { customer: 'HSB' } },
              ),
            ),
          ).resource,
        );
      await moveTo(at + 15 * MINUTE);
      for (const id of hosts) await change(id, { pool, accepting: true });
      await make({
        kind: 'publication',
        site: 'TF',
        name: `items ${arrival}`,
        attributes: { pool, items: ['Full desktop'], accounts, licences: accounts.length },
        tags: { customer: 'HSB' },
      });
      await moveTo(at + 5 * MINUTE);
    };
    const sessions = async (): Promise<{ host: string; account: string; since: number }[]> =>
      (
        (await say('GET', '/v1/sessions')).body.entries as { host: string; account: string; since: number }[]
      ).filter((one) => hosts.includes(one.host));
    const perHost = async (): Promise<number[]> => {
      const seen = await sessions();
      return hosts.map((id) => seen.filter((one) => one.host === id).length);
    };
    /** Thursday at eleven in Dublin: whoever comes that day is in. */
    const ELEVEN = Date.UTC(2026, 10, 19, 11);

    it('come spread evenly over the hosts, each person once', async () => {
      await makePool('spread', 20, 4);
      await moveTo(ELEVEN);
      const counts = await perHost();
      expect(Math.max(...counts) - Math.min(...counts)).toBeLessThanOrEqual(1);
      const seen = await sessions();
      expect(seen.length).toBeGreaterThan(20);
      expect(new Set(seen.map((one) => one.account)).size).toBe(seen.length);
      expect(seen.every((one) => one.since <= at)).toBe(true);
    });

    it('keep off a host that is drained, and their sessions end with a host that goes off', async () => {
      const [first = '', second = ''] = hosts;
      await change(first, { accepting: false });
      const before = await perHost();
      await moveTo(at + 2 * 60 * MINUTE);
      expect((await perHost())[0]).toBeLessThanOrEqual(before[0] ?? 0);
      await act(second, 'power-off');
      await moveTo(at + 5 * MINUTE);
      expect((await perHost())[1]).toBe(0);
    });

    it('are out at night, and put out when a host’s sessions are ended', async () => {
      await moveTo(Date.UTC(2026, 10, 20, 3));
      expect(await sessions()).toEqual([]);
      await moveTo(Date.UTC(2026, 10, 20, 11));
      expect((await sessions()).length).toBeGreaterThan(0);
      for (const id of hosts) expect((await say('DELETE', `/v1/resources/${id}/sessions`)).status).toBe(204);
      expect(await store.rows('SELECT id FROM session WHERE pool = ?', [pool])).toEqual([]);
    });

    it('are told something once, however often it is sent', async () => {
      const [first = ''] = hosts;
      for (let i = 0; i < 2; i++)
        expect((await say('PUT', `/v1/resources/${first}/messages/m1`, { text: 'save' })).status).toBe(204);
      const { messages } = (await say('GET', '/control/messages')).body;
      expect(messages).toMatchObject([{ host: first, id: 'm1', text: 'save' }]);
    });

    it('fill one host after the other where the pool says so', async () => {
      await makePool('fill', 10, 4);
      await moveTo(Date.UTC(2026, 10, 24, 11));
      const counts = (await perHost()).sort((a, b) => b - a);
      const full = counts.filter((count) => count === 10).length;
      expect(full).toBeGreaterThan(1);
      // No second host is begun while another has a free seat: at most one is part full.
      expect(counts.filter((count) => count > 0 && count < 10).length).toBeLessThanOrEqual(1);
    });
  });

  describe('its memory', () => {
    it('outlives a restart: resources, operations under way, faults and the time', async () => {
      const made = begun(await make(host('LASTS', { node: 'kq-b2' })));
      await faults({ kind: 'lose-node', target: 'kq-b3' });
      const before = at;
      await stop();
      await start();
      expect((await say('GET', `/v1/operations/${made.id}`)).body.state).toBe('working');
      expect((await say('GET', '/control/faults')).body.faults).toMatchObject([{ target: 'kq-b3' }]);
      const health = (await say('GET', '/health')).body;
      expect(health).toEqual({ works: true, at: before });
      await moveTo(at + 15 * MINUTE);
      expect(await stateOf(made.resource)).toBe('on');
    });

    it('tells everything that ever happened, in order, page by page', async () => {
      const seqs: number[] = [];
      for (let after: string | null = '0'; after !== null;) {
        const page: Record<string, unknown> = (await say('GET', `/v1/feed?after=${after}`)).body;
        seqs.push(...(page.entries as { seq: number }[]).map((entry) => entry.seq));
        after = page.next as string | null;
      }
      expect(seqs.length).toBeGreaterThan(40);
      expect(seqs).toEqual([...new Set(seqs)].sort((a, b) => a - b));
    });

    it('says nothing new when a change changes nothing', async () => {
      const made = begun(await make(host('SAME', { node: 'kq-b2' })));
      await moveTo(at + 15 * MINUTE);
      const length = async (): Promise<number> =>
        (await store.row<{ n: number }>('SELECT COUNT(*) AS n FROM feed'))?.n ?? -1;
      await change(made.resource, { accepting: false });
      const before = await length();
      await change(made.resource, { accepting: false });
      expect(await length()).toBe(before);
    });
  });
});
