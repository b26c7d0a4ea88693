import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { httpProvider, ProviderTrouble, type Provider } from '../../src/server/provider';
import { openWorld, SECRET, type World } from './setup/world';

/** The provider's API as the adapter meets it. */
describe('the provider behind its port', () => {
  let world: World;
  let provider: Provider;
  beforeAll(async () => {
    world = await openWorld('port');
    provider = httpProvider({ url: world.simulationUrl, account: 'tern', secret: SECRET });
  });
  afterAll(() => world.close());

  const tags = { customer: 'SVG' };
  const host = (name: string, node: string | null, site = 'KQ') =>
    ({
      do: 'make host',
      site,
      name,
      size: 's4x16',
      image: 'Ostrel 12',
      subnet: 'x',
      address: '10.0.0.4',
      diskGiB: 128,
      node,
      tags,
    }) as const;
  const later = async (): Promise<void> => world.living.moveTo(world.clock.at + 3_600_000);
  const trouble = (asked: Promise<unknown>): Promise<ProviderTrouble> =>
    asked.then(
      () => Promise.reject(new Error('went through')),
      (error: unknown) => (error instanceof ProviderTrouble ? error : Promise.reject(error)),
    );

  it('lets nobody in with a wrong secret, and says so for good', async () => {
    const stranger = httpProvider({ url: world.simulationUrl, account: 'tern', secret: 'wrong' });
    expect(await trouble(stranger.signIn())).toMatchObject({
      message: 'account or secret is wrong',
      lasting: true,
    });
  });

  it('takes its time, and does an operation once for each key', async () => {
    const first = await provider.begin(host('ONE', 'kq-a1'), 'key one');
    expect(first.state).toBe('working');
    expect((await provider.resource(first.resource))?.state).toBe('building');
    const again = await provider.begin(host('ONE', 'kq-a1'), 'key one');
    expect(again.id).toBe(first.id);
    await later();
    expect((await provider.operation(first.id)).state).toBe('done');
    expect(await provider.resource(first.resource)).toMatchObject({
      state: 'on',
      node: 'kq-a1',
      size: 's4x16',
    });
    expect((await provider.resources('SVG')).filter((seen) => seen.name === 'ONE')).toHaveLength(1);
  });

  it('refuses for good what has no room, and what it does not offer', async () => {
    for (let i = 0; i < 24; i++) await provider.begin(host(`F${i}`, 'kq-b1'), `fill ${i}`);
    expect(await trouble(provider.begin(host('FULL', 'kq-b1'), 'full'))).toMatchObject({ lasting: true });
    for (let i = 0; i < 40; i++) await provider.begin(host(`Q${i}`, null, 'NL'), `quota ${i}`);
    expect((await trouble(provider.begin(host('OVER', null, 'NL'), 'over'))).message).toContain(
      'quota of 160 vCPU',
    );
  });

  it('pages through everything', async () => {
    for (let i = 0; i < 210; i++)
      await provider.begin(
        {
          do: 'make subnet',
          site: 'KQ',
          name: `s${i}`,
          cidr: '10.0.0.0/28',
          network: 'n',
          tags: { customer: 'MHP' },
        },
        `s ${i}`,
      );
    const seen = await provider.resources('MHP');
    expect(new Set(seen.map((one) => one.id)).size).toBe(210);
    let after = 0;
    const seqs: number[] = [];
    for (let more = true; more;) {
      const page = await provider.feed(after);
      seqs.push(...page.entries.map((entry) => entry.seq));
      after = seqs.at(-1) ?? after;
      more = page.more;
    }
    expect(seqs).toEqual([...seqs].sort((a, b) => a - b));
    expect(new Set(seqs).size).toBe(seqs.length);
  });

  it('asks to slow down with a time to wait, which is passing trouble', async () => {
    await world.living.faults([{ kind: 'throttle' }]);
    expect(await trouble(provider.sites())).toMatchObject({ lasting: false, retryAfterMs: 1_000 });
    await world.living.faults([{ kind: 'refuse' }]);
    expect(await trouble(provider.sites())).toMatchObject({ lasting: false });
    await world.living.faults([]);
    expect(await provider.sites()).toHaveLength(3);
  });

  it('does not answer when it is gone: passing trouble', async () => {
    const nowhere = httpProvider({ url: 'http://127.0.0.1:9', account: 'a', secret: 'b' });
    expect(await trouble(nowhere.signIn())).toMatchObject({ message: 'does not answer', lasting: false });
  });

  it('loses a node with its hosts, and gives them back with it', async () => {
    const made = (await provider.resources('SVG')).find((seen) => seen.name === 'ONE');
    await world.living.faults([{ kind: 'lose-node', target: 'kq-a1' }]);
    expect((await provider.resource(made?.id ?? ''))?.state).toBe('unwell');
    const kelp = (await provider.sites()).find((site) => site.code === 'KQ');
    expect(kelp?.nodes.find((node) => node.id === 'kq-a1')?.state).toBe('lost');
    await world.living.faults([]);
    expect((await provider.resource(made?.id ?? ''))?.state).toBe('on');
  });

  it('keeps what is gone to be looked at, and knows nothing of what never was', async () => {
    const made = (await provider.resources('SVG')).find((seen) => seen.name === 'ONE');
    await provider.begin({ do: 'remove', ref: made?.id ?? '' }, 'remove one');
    await later();
    expect(await provider.resource(made?.id ?? '')).toMatchObject({
      state: 'gone',
      goneAt: expect.any(Number),
    });
    expect((await provider.begin({ do: 'remove', ref: made?.id ?? '' }, 'remove again')).state).toBe('done');
    expect(await provider.resource('000000000000')).toBeUndefined();
  });
});
