import { readdirSync, readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { usualPool } from '../../src/core/templates';
import { intentForm } from '../../src/server/intents/form';
import { templateForm } from '../../src/server/templates/form';
import { openWorld, provisionFor, type World } from './setup/world';

/** Which room alone reads and writes the documents of a table. */
const ROOMS = { intent: 'intents', template_revision: 'templates', held_proposal: 'holds' } as const;

const sources = ['src/server', 'src/demo'].flatMap((root) =>
  readdirSync(root, { recursive: true, encoding: 'utf8' })
    .filter((path) => path.endsWith('.ts'))
    .map((path) => ({ path: `${root}/${path}`, text: readFileSync(`${root}/${path}`, 'utf8') })),
);

describe('stored documents', () => {
  it.each(Object.entries(ROOMS))('of %s are written by the room %s alone', (table, room) => {
    const writing = new RegExp(`(INSERT INTO|UPDATE|DELETE FROM|REPLACE INTO) ${table}\\b`);
    const rooms = sources.filter(({ text }) => writing.test(text)).map(({ path }) => path.split('/')[2]);
    expect([...new Set(rooms)]).toEqual([room]);
  });

  it('of an environment are read by one room alone', () => {
    const reading = /(FROM|JOIN) intent\b/;
    const rooms = sources.filter(({ text }) => reading.test(text)).map(({ path }) => path.split('/')[2]);
    expect([...new Set(rooms)]).toEqual(['intents']);
  });
});

describe('an intent', { timeout: 120_000 }, () => {
  let world: World;
  let environment = '';
  beforeAll(async () => {
    world = await openWorld('documents');
    ({ environment } = await provisionFor(world, 'SVG', 'clinic', 8, 'KQ'));
  }, 120_000);
  afterAll(() => world.close());

  const stored = async (): Promise<string> => {
    const row = await world.app.db.row<{ document: string }>(
      'SELECT document FROM intent WHERE environment_id = ? ORDER BY version DESC LIMIT 1',
      [environment],
    );
    return row?.document ?? '';
  };
  const page = async (): Promise<number> =>
    (await world.call('ida', 'GET', `/customers/SVG/environments/${environment}`)).status;

  it('says its format', async () => {
    expect(JSON.parse(await stored())).toMatchObject({ format: intentForm.format });
  });

  it('of a later version is not read, and the others are', async () => {
    const before = await stored();
    const later = JSON.stringify({ ...(JSON.parse(before) as object), format: intentForm.format + 1 });
    const put = (text: string): Promise<unknown> =>
      world.app.db.write('UPDATE intent SET document = ? WHERE environment_id = ?', [text, environment]);
    await put(later);
    expect(await page()).toBe(500);
    expect((await world.call('ida', 'GET', '/customers/FPS/environments')).status).toBe(200);
    await put(before);
    expect(await page()).toBe(200);
  });
});

describe('a template’s revision', () => {
  it('stays readable when a term is limited otherwise later', () => {
    const usual = usualPool('desks', 'Ostrel 12 multi-user', {});
    const document = {
      name: 'Old',
      says: '',
      called: 'old',
      naming: '{customer}-{counter:2}',
      atATime: 5,
      failureLimit: 2,
      tags: {},
      features: [],
      inputs: [],
      pools: [{ ...usual, image: 'Ostrel 12 multi-user ', diskGiB: 999_999_999 }],
    };
    expect(templateForm.read(JSON.stringify(document))).toEqual(document);
    expect(() => templateForm.read(JSON.stringify({ ...document, pools: [{ role: 'desks' }] }))).toThrow(
      'any.required',
    );
  });
});
