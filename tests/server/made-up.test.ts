import Joi from 'joi';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Attributes } from '../../src/core/intent';
import { defineChange } from '../../src/core/planning';
import { differing, onlyOne, type ResourceKind } from '../../src/core/resources';
import { ok, refuse } from '../../src/core/result';
import { makeCatalogue } from '../../src/server/catalogue';
import { make, only, remove, set, type ResourceWork } from '../../src/server/resources';
import { begin, change, holdFor, openWorld, provisionFor, START, type World } from './setup/world';

/*
 * A kind of resource and a change that Laager does not have: a licence file on a pool's share. They are added from here,
 * and everything that is derived from the lists has them.
 */

type LicenceFile = {
  readonly pool: string;
  readonly product: string;
  readonly seats: number;
  /** No two of a customer's have the same. */
  readonly number?: string;
};

const KEY = 'licence-file';
const NUMBERS = 'licence-number';
const SEATS = 'licensed seats';
const filesOf = (more: Readonly<Record<string, readonly Attributes[]>>): readonly LicenceFile[] =>
  (more[KEY] ?? []) as readonly LicenceFile[];

const licenceFile: ResourceKind<LicenceFile> = {
  key: KEY,
  words: { one: 'licence file', many: 'licence files' },
  attributes: Joi.object<LicenceFile, true>({
    pool: Joi.string().required(),
    product: Joi.string().required(),
    seats: Joi.number().integer().min(1).required(),
    number: Joi.string(),
  }),
  wanted: (intent) =>
    filesOf(intent.more).map((file) => ({
      key: `${KEY}:${file.pool}:${file.product}`,
      kind: KEY,
      name: `${intent.name} ${file.product}`,
      attributes: file,
      needs: [`share:${file.pool}`],
    })),
  allocate: (all, _intent, desk) =>
    all.map((one) => {
      const before = desk.known(one.key)?.attributes.number;
      const number = typeof before === 'string' ? before : desk.free(NUMBERS, ['L1', 'L2', 'L3', 'L4'], 1)[0];
      return number === undefined ? one : { ...one, attributes: { ...one.attributes, number } };
    }),
  claims: ({ attributes: { number, seats } }, { realm }) => [
    ...onlyOne(NUMBERS, realm, number),
    { takes: 'quota', of: SEATS, amount: seats },
  ],
  differences: (wanted, present) => differing(wanted, present, 'seats', 'in place', false),
  steps: ({ do: what }) => [
    { action: what === 'make' || what === 'remove' ? what : 'set', seconds: what === 'make' ? 30 : 10 },
  ],
  meters: ({ seats }) =>
    seats === undefined ? [] : [{ meter: KEY, state: 'on', size: null, quantity: seats }],
  take: (intent, key, difference) => ({
    ...intent,
    more: {
      ...intent.more,
      [KEY]: filesOf(intent.more).flatMap((file) => {
        if (key !== `${KEY}:${file.pool}:${file.product}`) return [file];
        return difference === 'missing' ? [] : [{ ...file, seats: Number(difference.present) }];
      }),
    },
  }),
};

const wanted = (now: Parameters<typeof remove>[0]): Attributes => ({
  product: now.resource.attributes.product ?? '',
  seats: now.resource.attributes.seats ?? 0,
});

const licenceFileWork: ResourceWork = {
  read: only('product', 'seats'),
  actions: { make: make(wanted), set: set(wanted, () => 'as wanted'), remove },
};

const placeLicence = defineChange<LicenceFile>({
  kind: 'place-licence',
  subject: 'environment',
  verb: 'Place a licence file',
  input: Joi.object<LicenceFile>({
    pool: Joi.string().required(),
    product: Joi.string().required(),
    seats: Joi.number().integer().min(1).required(),
  }),
  right: 'build',
  confirm: 'press',
  undo: 'by difference',
  title: ({ product }) => `Place the licence of ${product}`,
  edit: (intent, file) => {
    if (!intent?.pools.some((pool) => pool.role === file.pool))
      return refuse({ pool: 'there is no such pool' });
    const others = filesOf(intent.more).filter((one) => one.product !== file.product);
    return ok({ ...intent, more: { ...intent.more, [KEY]: [...others, file] } });
  },
  policy: () => ({ atATime: 1, failureLimit: 1 }),
});

describe('a kind and a change that are added from outside', () => {
  const input = { pool: 'desks', product: 'drafting', seats: 24 };
  let world: World;
  let environment: string;

  beforeAll(async () => {
    const catalogue = makeCatalogue({
      kinds: [licenceFile as ResourceKind],
      changes: [placeLicence],
      work: { [KEY]: licenceFileWork },
    });
    world = await openWorld('made_up', catalogue);
    ({ environment } = await provisionFor(world, 'SVG', 'office', 24, 'KQ'));
    const rate = { meter: KEY, size: null, unit: 'month', price: '2.50', from: START - 86_400_000, to: null };
    expect((await world.call('petra', 'POST', '/cards/eur/rates', { body: rate })).status).toBe(201);
  });
  afterAll(() => world.close());

  const at = (part = ''): string => `/customers/SVG/environments/${environment}${part}`;
  const files = async () =>
    (await world.port().resources({ customer: 'SVG', environment })).filter((one) => one.kind === KEY);
  const differences = async () => {
    await world.living.job('feed');
    return (await world.call('ida', 'GET', at('/differences'))).body.differences;
  };
  const mended = async (how: 'as wanted' | 'as present', attribute?: string) => {
    const [chosen] = [{ key: `${KEY}:desks:drafting`, how, ...(attribute ? { attribute } : {}) }];
    await begin(world, 'SVG', 'mend', { differences: [chosen] }, { environment });
    await world.living.untilQuiet();
    return differences();
  };
  const changeBehindItsBack = async (seats: number): Promise<void> => {
    const [file] = await files();
    if (!file) throw new Error('there is no licence file');
    await world.port().change(file.ref, file.version, { seats });
  };

  it('has routes of its own, told in the document and kept like all others', async () => {
    const document = world.api.openApi() as { paths: object };
    const path = '/customers/{customer}/environments/{environment}/changes/place-licence';
    expect(Object.keys(document.paths).filter((one) => one.includes('place-licence'))).toEqual([
      `${path}/proposal`,
      `${path}/hold`,
      path,
    ]);
    const { environment: foreign } = await provisionFor(world, 'MHP', 'office', 6, 'KQ');
    for (const [code, id] of [
      ['MHP', foreign],
      ['FPS', foreign],
    ]) {
      const asked = `/customers/${code}/environments/${id}/changes/place-licence`;
      expect((await world.call('jonah', 'POST', `${asked}/proposal`, { body: { input } })).status).toBe(404);
      const begun = await world.call('jonah', 'POST', asked, {
        body: { input, fingerprint: 'x', reason: '' },
      });
      expect(begun.status).toBe(404);
    }
    const refused = await world.call('petra', 'POST', at('/changes/place-licence'), {
      body: { input, fingerprint: 'x', reason: '' },
    });
    expect(refused.status).toBe(403);
  });

  it('says what is wrong beside its own field', async () => {
    const refused = await change(world, 'SVG', 'place-licence', { ...input, pool: 'none' }, { environment });
    expect(refused.status).toBe(422);
    expect(refused.body.fields).toEqual({ 'input.pool': 'there is no such pool' });
    const wrong = await change(world, 'SVG', 'place-licence', { ...input, seats: 0 }, { environment });
    expect(Object.keys(wrong.body.fields as object)).toEqual(['input.seats']);
  });

  it('is proposed: one thing is made, for so much a month, after what it stands on', async () => {
    const proposed = await world.call('ida', 'POST', at('/changes/place-licence/proposal'), {
      body: { input },
    });
    expect(proposed.body.proposal).toMatchObject({
      title: 'Place the licence of drafting',
      tasks: [{ kind: KEY, name: 'office drafting', do: 'make' }],
      steps: [{ kind: KEY, action: 'make', seconds: 30 }],
      cost: [{ meter: KEY, quantity: 24, amount: { minor: 6000, currency: 'EUR' } }],
      monthly: { minor: 6000, currency: 'EUR' },
    });
  });

  it('is made by a run, once, and is there as wanted', async () => {
    const { run } = await begin(world, 'SVG', 'place-licence', input, { environment });
    await world.living.untilQuiet();
    expect((await world.call('ida', 'GET', `/customers/SVG/runs/${run}`)).body.state).toBe('done');
    expect(await files()).toMatchObject([{ attributes: { product: 'drafting', seats: 24 } }]);
    expect(await differences()).toEqual([]);
  });

  it('is charged from the provider’s record', async () => {
    await world.living.moveTo(world.clock.at + 86_400_000);
    await world.living.job('feed');
    const { lines } = (await world.call('petra', 'GET', '/customers/SVG/costs')).body;
    expect(lines).toContainEqual(expect.objectContaining({ meter: KEY, environment: 'office' }));
  });

  it('is seen to differ, and mended either way', async () => {
    await changeBehindItsBack(20);
    expect(await differences()).toMatchObject([
      { kind: KEY, attribute: 'seats', what: 'otherwise', says: 'seats is 20, wanted 24', takeable: true },
    ]);
    expect(await mended('as wanted', 'seats')).toEqual([]);
    expect((await files())[0]?.attributes.seats).toBe(24);
    await changeBehindItsBack(30);
    expect(await differences()).toMatchObject([{ says: 'seats is 30, wanted 24' }]);
    expect(await mended('as present', 'seats')).toEqual([]);
    expect((await files())[0]?.attributes.seats).toBe(30);
  });

  it('is made anew when it was taken away behind our back', async () => {
    const [file] = await files();
    if (!file) throw new Error('there is no licence file');
    await world.port().remove(file.ref, file.version, 'behind our back');
    await world.living.moveTo(world.clock.at + 600_000);
    expect(await differences()).toMatchObject([{ kind: KEY, what: 'missing', takeable: true }]);
    expect(await mended('as wanted')).toEqual([]);
    expect(await files()).toMatchObject([{ attributes: { seats: 30 } }]);
  });

  it('goes with its environment, and the proof names it', async () => {
    await begin(world, 'SVG', 'retire', {}, { environment });
    await world.living.untilQuiet();
    const proof = (await world.call('ida', 'GET', at('/proof'))).body;
    expect(proof.clean).toBe(true);
    expect(proof.rows).toContainEqual(
      expect.objectContaining({ kind: KEY, name: 'office drafting', says: 'gone' }),
    );
    expect(await files()).toEqual([]);
  });
});

describe('what is scarce of a kind that is added from outside', { timeout: 120_000 }, () => {
  let world: World;
  const environments: Record<string, string> = {};
  const place = (code: string, product: string, seats: number, options = {}) =>
    change(
      world,
      code,
      'place-licence',
      { pool: 'desks', product, seats },
      { environment: environments[code] ?? '', ...options },
    );
  const placed = async (code: string, product: string, seats: number): Promise<void> => {
    const made = await place(code, product, seats);
    expect([made.status, made.text]).toEqual([201, expect.anything()]);
    await world.living.untilQuiet();
  };
  const rows = (text: string) => world.app.db.rows<Record<string, unknown>>(text);

  beforeAll(async () => {
    const catalogue = makeCatalogue({
      kinds: [licenceFile as ResourceKind],
      changes: [placeLicence],
      work: { [KEY]: licenceFileWork },
    });
    world = await openWorld('made_up_claims', catalogue);
    await world.living.faults([{ kind: 'quota', target: SEATS, amount: 40 }], 'northern');
    const day = START - 86_400_000;
    for (const card of ['eur', 'gbp']) {
      const rate = { meter: KEY, size: null, unit: 'month', price: '2.50', from: day, to: null };
      await world.call('petra', 'POST', `/cards/${card}/rates`, { body: rate });
    }
    await world.living.job('ground');
    for (const code of ['SVG', 'MHP'])
      ({ environment: environments[code] = '' } = await provisionFor(world, code, 'office', 6, 'NL'));
    await world.living.untilQuiet();
  }, 120_000);
  afterAll(() => world.close());

  it('is a number of its own for each of a customer, taken from when it is begun until it is gone', async () => {
    await placed('SVG', 'drafting', 8);
    await placed('SVG', 'ledger', 4);
    await placed('MHP', 'drafting', 4);
    const taken =
      "SELECT space, value FROM allocation WHERE space LIKE 'licence-number%' ORDER BY space, value";
    expect(await rows(taken)).toEqual([
      { space: 'licence-number mhp.example', value: 'L1' },
      { space: 'licence-number svg.example', value: 'L1' },
      { space: 'licence-number svg.example', value: 'L2' },
    ]);
  });

  it('is a part of a quota, of which no more is begun than there is, whoever asks', async () => {
    const refused = await place('MHP', 'ledger', 25);
    expect([refused.status, refused.body.detail]).toEqual([
      422,
      expect.stringContaining('25 licensed seats needed, 24 of 40 free'),
    ]);
    await placed('SVG', 'ledger', 10);
    expect((await place('MHP', 'ledger', 19)).body.detail).toContain(
      '19 licensed seats needed, 18 of 40 free',
    );
    await placed('MHP', 'ledger', 18);
    expect(await rows('SELECT SUM(amount) AS n FROM quota_claim')).toEqual([{ n: '40' }]);
  });

  it('is kept for what is held', async () => {
    await begin(world, 'MHP', 'retire', {}, { environment: environments.MHP });
    await world.living.untilQuiet();
    expect(await rows('SELECT SUM(amount) AS n FROM quota_claim')).toEqual([{ n: '18' }]);
    const asked = { pool: 'desks', product: 'mail', seats: 20 };
    await holdFor(world, 'SVG', 'place-licence', asked, environments.SVG ?? '');
    const more = await place('SVG', 'chat', 3);
    expect(more.body.detail).toContain('3 licensed seats needed, 2 of 40 free');
    await placed('SVG', 'chat', 2);
    // The number that is kept is nobody else's either.
    const numbers = await rows(
      "SELECT value FROM allocation WHERE space LIKE 'licence-number%' ORDER BY value",
    );
    expect(numbers.map(({ value }) => value)).toEqual(['L1', 'L2', 'L4']);
  });

  it('is told in the proof, given back', async () => {
    await begin(world, 'SVG', 'retire', {}, { environment: environments.SVG });
    await world.living.untilQuiet();
    const path = `/customers/SVG/environments/${environments.SVG ?? ''}/proof`;
    const { values } = (await world.call('ida', 'GET', path)).body.returned as { values: unknown[] };
    expect(values).toContainEqual({
      space: NUMBERS,
      values: ['L1', 'L2', 'L4'],
      returned: true,
      shared: false,
    });
    expect(await rows('SELECT COUNT(*) AS n FROM quota_claim')).toEqual([{ n: 0 }]);
  });
});
