import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { createServer } from 'node:http';
import { OutsideError } from '../../src/server/outside';
import { httpProvider, type MakeAsk, type Provider } from '../../src/server/providers';
import { freePort } from '../../scripts/lib.mjs';
import { openWorld, type World } from './setup/world';

/** The provider's API as the adapter meets it. */
describe('the provider behind its port', () => {
  let world: World;
  let provider: Provider;
  let northern: Provider;
  beforeAll(async () => {
    world = await openWorld('port');
    provider = world.port();
    northern = world.port('northern');
  });
  afterAll(() => world.close());

  const tags = { customer: 'SVG' };
  const host = (name: string, node: string | null, site = 'KQ'): MakeAsk => ({
    kind: 'host',
    site,
    name,
    attributes: {
      size: 's4x16',
      image: 'Ostrel 12',
      subnet: 'x',
      address: '10.0.0.4',
      diskGiB: 128,
      node,
    },
    tags,
  });
  const later = async (): Promise<void> => world.living.moveTo(world.clock.at + 3_600_000);
  const trouble = (asked: Promise<unknown>): Promise<OutsideError> =>
    asked.then(
      () => Promise.reject(new Error('went through')),
      (error: unknown) => (error instanceof OutsideError ? error : Promise.reject(error)),
    );

  it('lets nobody in with a wrong secret; it may be put right any moment', async () => {
    const stranger = httpProvider({
      code: 'coast',
      url: world.simulationUrl,
      account: 'tern',
      secret: 'wrong',
    });
    expect(await trouble(stranger.signIn())).toMatchObject({
      says: 'provider coast says: account or secret is wrong',
      trouble: 'passing',
    });
  });

  it('takes its time, and does an operation once for each key', async () => {
    const first = await provider.make(host('ONE', 'kq-a1'), 'key one');
    expect(first.state).toBe('working');
    expect((await provider.resource(first.resource))?.state).toBe('building');
    const again = await provider.make(host('ONE', 'kq-a1'), 'key one');
    expect(again.id).toBe(first.id);
    await later();
    expect((await provider.operation(first.id)).state).toBe('done');
    expect(await provider.resource(first.resource)).toMatchObject({
      state: 'on',
      attributes: { node: 'kq-a1', size: 's4x16' },
    });
    expect((await provider.resources(tags)).filter((seen) => seen.name === 'ONE')).toHaveLength(1);
  });

  it('refuses for good what has no room, and what it does not offer', async () => {
    for (let i = 0; i < 24; i++) await provider.make(host(`F${i}`, 'kq-b1'), `fill ${i}`);
    expect(await trouble(provider.make(host('FULL', 'kq-b1'), 'full'))).toMatchObject({
      trouble: 'lasting',
    });
    for (let i = 0; i < 40; i++) await northern.make(host(`Q${i}`, null, 'NL'), `quota ${i}`);
    expect((await trouble(northern.make(host('OVER', null, 'NL'), 'over'))).message).toContain(
      'quota of 160 vCPU',
    );
  });

  it('pages through everything', async () => {
    for (let i = 0; i < 210; i++)
      await provider.make(
        {
          kind: 'subnet',
          site: 'KQ',
          name: `s${i}`,
          attributes: { cidr: '10.0.0.0/28', network: 'n' },
          tags: { customer: 'MHP' },
        },
        `s ${i}`,
      );
    const seen = await provider.resources({ customer: 'MHP' });
    expect(new Set(seen.map((one) => one.ref)).size).toBe(210);
    let after = '0';
    const seqs: number[] = [];
    for (let more = true; more;) {
      const page = await provider.feed(after);
      if (!page) throw new Error('the record does not go back that far');
      seqs.push(...page.entries.map((entry) => entry.seq));
      after = String(seqs.at(-1) ?? after);
      more = page.more;
    }
    expect(seqs).toEqual([...seqs].sort((a, b) => a - b));
    expect(new Set(seqs).size).toBe(seqs.length);
  });

  it('asks to slow down with a time to wait, which is passing trouble', async () => {
    await world.living.faults([{ kind: 'throttle' }]);
    expect(await trouble(provider.sites())).toMatchObject({ trouble: 'passing', retryAfterMs: 1_000 });
    await world.living.faults([{ kind: 'refuse' }]);
    expect(await trouble(provider.sites())).toMatchObject({ trouble: 'passing' });
    await world.living.faults([]);
    expect(await provider.sites()).toHaveLength(2);
  });

  it('does not answer when it is gone: passing trouble', async () => {
    const nowhere = httpProvider({ code: 'x', url: 'http://127.0.0.1:9', account: 'a', secret: 'b' });
    expect(await trouble(nowhere.signIn())).toMatchObject({
      message: 'does not answer',
      trouble: 'passing',
    });
  });

  it('answers with something else than agreed: trouble of its own kind, never of the database’s', async () => {
    const port = await freePort(4990);
    let say = 'not JSON at all';
    const server = createServer((_request, response) => {
      response.writeHead(200, { 'content-type': 'application/json' });
      response.end(say);
    });
    await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
    const odd = httpProvider({ code: 'odd', url: `http://127.0.0.1:${port}`, account: 'a', secret: 'b' });
    expect(await trouble(odd.signIn())).toMatchObject({ trouble: 'passing', system: 'provider odd' });
    say = '{"code":"ECONNRESET"}';
    expect(await trouble(odd.signIn())).toMatchObject({ trouble: 'lasting' });
    // A body that breaks off in the middle.
    server.removeAllListeners('request');
    server.on('request', (_request, response) => {
      response.writeHead(200, { 'content-length': '100' });
      response.write('{"tok');
      setImmediate(() => response.destroy());
    });
    expect(await trouble(odd.signIn())).toMatchObject({ trouble: 'passing', message: 'does not answer' });
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
  });

  it('has one bad entry passed over and told, and never a list without an end', async () => {
    const session = { id: 's1', host: 'h1', account: 'Ann', state: 'active', since: 1 };
    let page: object = {};
    const server = createServer((_request, response) => {
      response.writeHead(200, { 'content-type': 'application/json' });
      response.end(JSON.stringify({ token: 'x', ...page }));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const at = server.address();
    const url = `http://127.0.0.1:${typeof at === 'object' && at ? at.port : 0}`;
    const told: [string, number][] = [];
    const odd = httpProvider(
      { code: 'odd', url, account: 'a', secret: 'b' },
      async (of, count) => void told.push([of, count]),
    );
    const bad = [
      { ...session, id: 'é' },
      { ...session, id: 'x'.repeat(65) },
      { ...session, account: 'a'.repeat(81) },
      { ...session, since: -1 },
      { ...session, since: 1e20 },
      { ...session, host: 'a b' },
      null,
      'text',
    ];
    page = { entries: [...bad, session], next: null, place: '1' };
    const { sessions } = await odd.allSessions();
    // Accounts are the same whatever their case.
    expect(sessions).toEqual([{ ...session, account: 'ann' }]);
    expect(told).toEqual([['/v1/sessions', bad.length]]);
    // The record goes on behind an entry that cannot be understood.
    page = { entries: [{ seq: 7, at: 1, seen: { id: 'ü' } }], next: null };
    expect(await odd.feed('0')).toEqual({ entries: [], more: false, last: 7 });
    page = { entries: [session], next: 'same' };
    expect(await trouble(odd.allSessions())).toMatchObject({
      trouble: 'lasting',
      message: 'gives pages without an end',
    });
    page = { sites: [{ code: 'x', name: 'y', kind: 'own nodes', reserved_addresses: -4 }] };
    expect(await trouble(odd.sites())).toMatchObject({ trouble: 'lasting' });
    server.closeAllConnections();
    await new Promise((resolve) => server.close(resolve));
  });

  it('refuses what is bound to another version than there is, and does nothing', async () => {
    const made = (await provider.resources(tags)).find((one) => one.name === 'ONE');
    if (!made) throw new Error('ONE is missing');
    await provider.change(made.ref, made.version, { accepting: false });
    for (const late of [
      () => provider.change(made.ref, made.version, { accepting: true }),
      () => provider.act(made.ref, made.version, 'power-off', {}, 'late off'),
      () => provider.remove(made.ref, made.version, 'late remove'),
    ])
      expect(await trouble(late())).toMatchObject({ trouble: 'changed' });
    expect(await provider.resource(made.ref)).toMatchObject({
      state: 'on',
      attributes: { accepting: false },
    });
  });

  it('says what is at work on a resource, and bound to a version changes its tags', async () => {
    const { resource: ref, id } = await provider.make(host('BUSY', 'kq-a2'), 'key busy');
    expect((await provider.resource(ref))?.busyWith).toBe(id);
    await later();
    const read = await provider.resource(ref);
    expect(read?.busyWith).toBeNull();
    await provider.tag(ref, read?.version ?? 0, { run: 'one' });
    expect((await provider.resource(ref))?.tags).toEqual({ customer: 'SVG', run: 'one' });
    const late = provider.act(ref, read?.version ?? 0, 'power-off', {}, 'key busy off');
    expect(await trouble(late)).toMatchObject({ trouble: 'changed' });
  });

  it('loses a node with its hosts, and gives them back with it', async () => {
    const made = (await provider.resources(tags)).find((seen) => seen.name === 'ONE');
    await world.living.faults([{ kind: 'lose-node', target: 'kq-a1' }]);
    expect((await provider.resource(made?.ref ?? ''))?.state).toBe('unwell');
    const kelp = (await provider.sites()).find((site) => site.code === 'KQ');
    expect(kelp?.nodes.find((node) => node.id === 'kq-a1')?.state).toBe('lost');
    await world.living.faults([]);
    expect((await provider.resource(made?.ref ?? ''))?.state).toBe('on');
  });

  it('keeps what is gone to be looked at, and knows nothing of what never was', async () => {
    const made = (await provider.resources(tags)).find((seen) => seen.name === 'ONE');
    await provider.remove(made?.ref ?? '', made?.version ?? 0, 'remove one');
    await later();
    expect(await provider.resource(made?.ref ?? '')).toMatchObject({
      state: 'gone',
      goneAt: expect.any(Number),
    });
    expect((await provider.remove(made?.ref ?? '', made?.version ?? 0, 'remove again')).state).toBe('done');
    expect(await provider.resource('000000000000')).toBeUndefined();
  });
});
