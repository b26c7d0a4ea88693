import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Check } from '../../src/core/planning';
import { apiOf, type Laager } from '../../src/server/api';
import { httpDirectory } from '../../src/server/directory';
import { changePath, DIRECTORY_KEY, openWorld, type World } from './setup/world';

/* What would fail in the middle of a build is caught before anything is built. */

describe('before anything is built', { timeout: 90_000 }, () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('preflight');
    await world.call('ida', 'POST', '/templates/elsewhere/revisions', {
      body: {
        note: 'x',
        text: "name: Elsewhere\nnaming: '{customer}-{environment}{counter:2}'\npools:\n  - role: desks\n    image: An image of nobody\n    people: =people\n",
      },
    });
  });
  afterAll(() => world.close());

  const input = (over: object) => ({
    environment: 'ward',
    template: 'shared-office',
    people: 8,
    site: 'KQ',
    ...over,
  });
  /** Proposes and tries to begin all the same. @returns the checks, and what beginning answered */
  const tried = async (over: object, api: Laager = world.api) => {
    const path = `/api/v1${changePath('SVG', 'provision')}`;
    const post = async (to: string, body: object) => {
      const response = await api.answer(
        new Request(`http://laager.test${to}`, {
          method: 'POST',
          headers: { authorization: `Bearer ${world.tokens.ida}`, 'content-type': 'application/json' },
          body: JSON.stringify(body),
        }),
      );
      return { status: response.status, body: (await response.json()) as Record<string, unknown> };
    };
    const asked = { input: input(over) };
    const proposed = await post(`${path}/proposal`, asked);
    const { checks } = proposed.body.proposal as { checks: Check[] };
    const begun = await post(path, { ...asked, fingerprint: proposed.body.fingerprint, reason: 'try it' });
    return { check: (key: string) => checks.find((one) => one.key === key), begun };
  };
  const nothingStands = async (): Promise<void> => {
    const rows = await world.app.db.rows('SELECT id FROM run');
    expect(rows).toEqual([]);
    expect(await world.port().resources({ customer: 'SVG' })).toEqual([]);
    expect(await world.app.db.rows('SELECT value FROM allocation')).toEqual([]);
  };
  const blocked = async (key: string, says: RegExp, over: object, api?: Laager) => {
    const { check, begun } = await tried(over, api);
    expect(check(key)).toMatchObject({ state: 'blocks', says: expect.stringMatching(says) as string });
    expect(check(key)?.do).toBeTruthy();
    expect([key, begun.status]).toEqual([key, 422]);
    await nothingStands();
  };
  const withDirectory = (url: string, key: string): Laager =>
    apiOf({ ...world.app, directory: httpDirectory(url, key) });

  it('a wrong password for joining is found by using it', () =>
    blocked('directory', /key|refus|sign|allowed/i, {}, withDirectory(world.directoryUrl, 'not the key')));

  it('a directory that is out of reach', () =>
    blocked('directory', /listens|answer|reach/i, {}, withDirectory('http://127.0.0.1:2', DIRECTORY_KEY)));

  it('an image that is nowhere', () =>
    blocked('image', /An image of nobody is not at Kelp Quay/, { template: 'elsewhere' }));

  it('a site whose zones are full', async () => {
    await world.call('bram', 'POST', '/customers/SVG/allowances', {
      body: { limit: 'hosts', most: 400, until: world.clock.at + 30 * 86_400_000, reason: 'x' },
    });
    await blocked('capacity', /fit nowhere/, {
      people: 390,
      site: 'TF',
      inputs: [{ key: 'work', value: 'graphics' }],
    });
  });

  it('a quota that is used up', () =>
    blocked('capacity', /vCPU needed, \d+ of \d+ free/, {
      people: 390,
      site: 'NL',
      inputs: [{ key: 'work', value: 'graphics' }],
    }));

  it('a quota of sizes with a graphics processor, while the whole has room', async () => {
    await world.call('ida', 'POST', '/templates/drawing/revisions', {
      body: {
        note: 'x',
        text: "name: Drawing\nnaming: '{customer}-{environment}{counter:2}'\npools:\n  - role: desks\n    kind: personal\n    image: Ostrel 12\n    size: 8 vCPU · 32 GiB · 8 GiB graphics\n    people: =people\n",
      },
    });
    await blocked('capacity', /^56 vCPU of graphics needed, 48 of 48 free$/, {
      template: 'drawing',
      people: 7,
      site: 'NL',
    });
  });

  it('a provider that lets us in no more', async () => {
    await world.living.faults([{ kind: 'refuse' }]);
    const { check, begun } = await tried({});
    expect(check('credentials')?.state).toBe('blocks');
    expect(check('credentials')).toMatchObject({
      evidence: 'tried at the provider of Kelp Quay',
      at: world.clock.at,
    });
    expect(begun.status).toBe(422);
    await world.living.faults([]);
    await nothingStands();
  });

  it('a name that the directory knows is not given again, whoever made it', async () => {
    await world.app.directory.join('svg.example', 'svg-ward02');
    const path = `${changePath('SVG', 'provision')}/proposal`;
    const { body } = await world.call('ida', 'POST', path, { body: { input: input({}) } });
    const names = (body.proposal as unknown as { tasks: { kind: string; name: string }[] }).tasks
      .filter(({ kind }) => kind === 'host')
      .map(({ name }) => name);
    expect(names.slice(0, 2)).toEqual(['SVG-WARD01', 'SVG-WARD03']);
    const { checks } = body.proposal as unknown as { checks: Check[] };
    expect(checks.find(({ key }) => key === 'names')?.evidence).toMatch(
      /held against \d+ names in the directory/,
    );
    expect(checks.find(({ key }) => key === 'capacity')?.evidence).toMatch(
      /zone kq-a: \d+, \d+ GiB of memory left; zone kq-b/,
    );
  });

  it('a name of a server that is nobody’s is not given again, and is told to nobody', async () => {
    const attributes = {
      size: 's4x16',
      image: 'Ostrel 12 multi-user',
      diskGiB: 128,
      node: 'kq-a1',
      address: '10.99.0.9',
    };
    await world
      .port()
      .make({ kind: 'host', site: 'KQ', name: 'Svg-Desk01', attributes, tags: {} }, 'made by somebody');
    await world.living.moveTo(world.clock.at + 20 * 60_000);
    await world.living.job('feed');
    const path = `${changePath('SVG', 'provision')}/proposal`;
    const asked = { body: { input: input({ environment: 'desk' }) } };
    const { body } = await world.call('jonah', 'POST', path, asked);
    const { tasks } = body.proposal as unknown as { tasks: { kind: string; name: string }[] };
    expect(tasks.find(({ kind }) => kind === 'host')?.name).toBe('SVG-DESK02');
    const facts = await world.call('jonah', 'GET', '/customers/SVG/facts?site=KQ&template=shared-office');
    expect(facts.status).toBe(200);
    expect([facts.text, JSON.stringify(body)].filter((text) => /svg-desk01/i.test(text))).toEqual([]);
  });
});
