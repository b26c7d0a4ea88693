import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { etagOf } from '../../src/contract/etag';
import { NO_LIMITS } from '../../src/core/plans';
import { routesOf } from '../../src/server/rooms';
import { makeCatalogue } from '../../src/server/catalogue';
import { openWorld, SECRET, type Called, type World } from './setup/world';

/** What is sent with PUT and replaces nothing that somebody else may have changed meanwhile. */
const NOT_REPLACED: Readonly<Record<string, string>> = {
  '/password': 'one’s own, with the one before',
  '/second-factor': 'one’s own, with a code of the one before',
  '/second-factor/shown': 'a code',
  '/saved-views': 'one’s own',
  '/desk/favourite': 'one’s own',
  '/watch/marks': 'a mark of now',
  '/operators-settings': 'one flag',
  '/sites/{site}/ranges': 'one step of a range that is named',
  '/templates/{template}/draft': 'names the draft before it by number in its body',
  '/customers/{customer}/recipe-secrets/{secret}': 'is never shown, so nobody changes what they saw',
};

/** RFC 9110, section 13.1.1: a write over what is no longer as it was read is refused. */
describe('what replaces stored values', { timeout: 90_000 }, () => {
  let world: World;
  let bodies: Readonly<Record<string, readonly [string, object]>>;

  beforeAll(async () => {
    world = await openWorld('stored');
    const { operators } = (await world.call('bram', 'GET', '/operators')).body as unknown as {
      operators: { id: string; name: string }[];
    };
    const { providers } = (await world.call('bram', 'GET', '/providers')).body as unknown as {
      providers: { code: string; name: string; url: string; account: string; secretEndsAt: null }[];
    };
    const [coast] = providers;
    if (!coast) throw new Error('no provider is connected');
    const runa = operators.find(({ name }) => name === 'Runa Falk');
    const { name, url, account, secretEndsAt } = coast;
    const link = { via: 'push', address: '', base: '', bindAs: '', units: [], groups: [] };
    const inSvg = '/customers/{customer}';
    const whole = (await about()).body;
    const { code: _c, state: _s, plan: _p, site: _h, currency: _m, card: _r, ...said } = whole;
    bodies = {
      [`${inSvg}/about`]: [`/customers/SVG/about`, { ...said, name: 'Saltmirren Vets', reason: '' }],
      [`${inSvg}/desk-rules`]: [
        '/customers/SVG/desk-rules',
        { crosses: ['clipboard'], screen: 'as the window', reason: '' },
      ],
      [`${inSvg}/directory`]: [
        '/customers/SVG/directory',
        { ...link, secret: 'a token of theirs, long enough', reason: 'at first' },
      ],
      [`${inSvg}/desk-identity`]: [
        '/customers/SVG/desk-identity',
        {
          name: 'theirs',
          issuer: 'https://id.example',
          client: 'laager',
          secret: 'a secret of theirs',
          knownBy: 'mail',
          onlyThere: false,
        },
      ],
      [`${inSvg}/profiles`]: [
        '/customers/SVG/profiles',
        {
          needs: [
            {
              key: 'light',
              peoplePerVcpu: 5,
              memoryGiB: 2,
              diskOperations: 9,
              graphicsGiB: 0,
              source: 'measured',
            },
          ],
        },
      ],
      [`${inSvg}/saved-steps/{name}`]: [
        '/customers/SVG/saved-steps/look',
        { text: 'steps:\n  - set: screen lock\n    to: 10 min\n' },
      ],
      '/providers/{provider}': [
        `/providers/${coast.code}`,
        { name: `${name} again`, url, account, secretEndsAt, secret: SECRET },
      ],
      '/customer-drafts/{draft}': [
        '/customer-drafts/01ARZ3NDEKTSV4RRFFQ69G5FAV',
        { fields: { code: 'NEW', name: 'Half', form: '{}' } },
      ],
      '/notices': [
        '/notices',
        { address: 'http://127.0.0.1:9/notices', secret: 'a secret of at least 24 letters' },
      ],
      '/operators/{operator}': [
        `/operators/${runa?.id ?? ''}`,
        { role: 'auditor', customers: ['SVG'], endsAt: null },
      ],
      '/operators-groups': [
        '/operators-groups',
        { rules: [{ group: 'desk', role: 'engineer', customers: ['FPS'] }] },
      ],
      '/plans/{plan}': ['/plans/punt', { name: 'Punt', most: NO_LIMITS }],
      '/approval-rule': ['/approval-rule', { above: [], kinds: ['retire'], leadsToo: false }],
    };
  });
  afterAll(() => world.close());

  const about = (): Promise<Called> => world.call('bram', 'GET', '/customers/SVG/about');
  const put = (path: string, body: object, tag: string | null, key?: string): Promise<Called> =>
    world.callFromBrowser('bram', 'PUT', path, {
      body,
      headers: {
        ...(tag === null ? {} : { 'if-match': tag }),
        ...(key === undefined ? {} : { 'idempotency-key': key }),
      },
    });

  it('is every PUT but those that say why not', () => {
    const puts = routesOf(makeCatalogue()).filter(({ method }) => method === 'PUT');
    const guarded = puts.filter(({ stored }) => stored).map(({ path }) => path);
    expect(guarded.sort()).toEqual(Object.keys(bodies).sort());
    expect(puts.flatMap(({ path, stored }) => (stored ? [] : [path])).sort()).toEqual(
      Object.keys(NOT_REPLACED).sort(),
    );
  });

  it('is replaced by who knows it as it is, and by nobody else', async () => {
    for (const [path, body] of Object.values(bodies)) {
      const unseen = await put(path, body, '"something-else"');
      expect([path, unseen.status, unseen.body.type]).toEqual([path, 412, 'urn:laager:problem:changed']);
      const tag = unseen.headers.get('etag') ?? '';
      expect([path, tag]).toEqual([path, `"${etagOf(unseen.body.current)}"`]);
      expect(JSON.stringify(unseen.body.current)).not.toMatch(/secret of|at least 24|a token of/);
      const saved = await put(path, body, tag);
      expect([path, saved.status, saved.text]).toEqual([
        path,
        expect.toSatisfy((n: number) => n < 300),
        saved.text,
      ]);
      const now = saved.headers.get('etag');
      expect([path, now === tag]).toEqual([path, false]);
      // The page that was opened before does not know.
      expect([path, (await put(path, body, tag)).status]).toEqual([path, 412]);
      // What the save answered is what there is now.
      expect([path, (await put(path, body, now)).status]).toEqual([path, saved.status]);
    }
  });

  it('keeps what the other tab has saved', async () => {
    const first = await about();
    const tag = first.headers.get('etag');
    const { code: _c, state: _s, plan: _p, site: _h, currency: _m, card: _r, ...said } = first.body;
    const other = await put('/customers/SVG/about', { ...said, tags: { team: 'north' }, reason: '' }, tag);
    expect([other.status, other.body.changed]).toEqual([200, ['tags']]);
    const stale = await put('/customers/SVG/about', { ...said, name: 'Stale', reason: '' }, tag);
    expect([stale.status, (stale.body.current as { tags: object }).tags]).toEqual([412, { team: 'north' }]);
    expect((await about()).body).toMatchObject({ name: said.name, tags: { team: 'north' } });
  });

  it('is written by one of two at once', async () => {
    const tag = (await about()).headers.get('etag');
    const { code: _c, state: _s, plan: _p, site: _h, currency: _m, card: _r, ...said } = (await about()).body;
    const both = await Promise.all(
      ['One', 'Two'].map((name) => put('/customers/SVG/about', { ...said, name, reason: '' }, tag)),
    );
    expect(both.map(({ status }) => status).sort()).toEqual([200, 412]);
    const [rules, body] = bodies['/customers/{customer}/desk-rules'] ?? ['', {}];
    const known = (await put(rules, body, '"else"')).headers.get('etag');
    const three = await Promise.all(
      ['every screen', '1280 × 800', '1600 × 900'].map((screen) => put(rules, { ...body, screen }, known)),
    );
    expect(three.map(({ status }) => status).sort()).toEqual([200, 412, 412]);
  });

  it('is answered again as it was, when the same request comes twice', async () => {
    const known = await about();
    const { code: _c, state: _s, plan: _p, site: _h, currency: _m, card: _r, ...said } = known.body;
    const tag = known.headers.get('etag');
    const body = { ...said, name: 'Saltmirren Veterinary Group', reason: '' };
    const twice = [
      await put('/customers/SVG/about', body, tag, 'k1'),
      await put('/customers/SVG/about', body, tag, 'k1'),
    ];
    expect(twice.map(({ status, body: made }) => [status, made.changed])).toEqual([
      [200, ['name']],
      [200, ['name']],
    ]);
  });

  it('keeps its tag from whoever may not change it', async () => {
    const [path, body] = bodies['/customers/{customer}/about'] ?? ['', {}];
    const foreign = await world.call('jonah', 'PUT', path.replace('SVG', 'QFB'), {
      body,
      headers: { 'if-match': '"x"' },
    });
    expect([foreign.status, foreign.headers.get('etag')]).toEqual([404, null]);
    const noRight = await world.call('petra', 'PUT', path, { body, headers: { 'if-match': '"x"' } });
    expect([noRight.status, noRight.headers.get('etag')]).toEqual([403, null]);
  });

  it.each([['3'], ['W/"3"'], ['"a", "b"'], ['"a b"']])('cannot be known by a tag like %s', async (tag) => {
    const [path, body] = bodies['/approval-rule'] ?? ['', {}];
    expect((await put(path, body, tag)).status).toBe(400);
  });
});
