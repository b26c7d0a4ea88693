import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { MadeImage } from '../../src/contract';
import { begin, change, openWorld, withoutIds, type Called, type Made, type World } from './setup/world';

const LOOK = 'steps:\n  - set: screen lock\n    to: 10 min\n';
const RECIPE = 'steps:\n  - install: Tallybrook 4.2\n  - use: look\n';

/** Steps that recipes share by name. */
describe('saved steps', { timeout: 90_000 }, () => {
  let world: World;
  let office: Made;
  let clinic: Made;

  const at = (name: string, customer = 'MSP'): string => `/customers/${customer}/saved-steps/${name}`;
  const keep = (
    name: string,
    text: string,
    { who = 'ida' as 'ida' | 'jonah' | 'petra', customer = 'MSP' } = {},
  ): Promise<Called> => world.call(who, 'PUT', at(name, customer), { body: { text } });
  const listed = async (customer: string, who: 'ida' | 'jonah' = 'ida') =>
    (
      (await world.call(who, 'GET', `/customers/${customer}/saved-steps`)).body as unknown as {
        saved: { name: string; own: boolean; usedBy: string[]; text: string }[];
      }
    ).saved;
  const image = (code: string, owner: string) =>
    begin(world, owner, 'new-image', {
      code,
      name: code,
      says: '',
      site: 'KQ',
      from: 'Ostrel 12 multi-user',
      recipe: RECIPE,
      keep: 1,
      size: 's4x16',
      diskGiB: 96,
      licences: [],
    });
  const build = (owner: string, { environment }: Made): Promise<Called> =>
    change(world, owner, 'build-image', { note: 'x' }, { environment });
  const recipeOf = async (code: string): Promise<string | undefined> => {
    const { images } = (await world.call('ida', 'GET', '/images')).body as unknown as { images: MadeImage[] };
    return images.find((one) => one.code === code)?.versions[0]?.recipe;
  };

  beforeAll(async () => {
    world = await openWorld('savedsteps');
    office = await image('office', 'MSP');
    clinic = await image('clinic', 'SVG');
  });
  afterAll(() => world.close());

  it('are missed before anything is built', async () => {
    const refused = await build('MSP', office);
    expect([refused.status, refused.text]).toEqual([
      422,
      expect.stringContaining('uses saved steps that are not kept: look'),
    ]);
  });

  it('are kept by who builds, and refused with the line', async () => {
    expect((await keep('look', LOOK, { who: 'petra' })).status).toBe(403);
    const wrong = await keep('look', 'steps:\n  - set: screen lock\n');
    expect([wrong.status, wrong.text]).toEqual([422, expect.stringContaining('line 2: set says where')]);
    expect((await keep('Look', LOOK)).status).toBe(404);
    expect((await keep('look', LOOK)).status).toBe(204);
    expect(await listed('MSP')).toMatchObject([{ name: 'look', own: true, usedBy: ['office'] }]);
  });

  it('are in a version as they were when its build was begun', async () => {
    expect((await build('MSP', office)).status).toBe(201);
    await keep('look', LOOK.replace('10 min', '2 min'));
    const recipe = await recipeOf('office');
    expect([recipe?.includes('10 min'), recipe?.includes('use:')]).toEqual([true, false]);
    await world.living.untilQuiet();
  });

  it('of the MSP are every image’s to use; of one name a customer’s own come first, and are theirs alone', async () => {
    expect(
      (await keep('look', LOOK.replace('10 min', '1 min'), { who: 'jonah', customer: 'SVG' })).status,
    ).toBe(204);
    expect((await listed('SVG', 'jonah')).map(({ name, own }) => [name, own])).toEqual([['look', true]]);
    expect((await listed('FPS')).map(({ own, text }) => [own, text.includes('1 min')])).toEqual([
      [false, false],
    ]);
    expect((await keep('look', LOOK, { who: 'jonah', customer: 'MSP' })).status).toBe(404);
    expect((await build('SVG', clinic)).status).toBe(201);
    expect(await recipeOf('clinic')).toContain('1 min');
    await world.living.untilQuiet();
  });

  it('are not dropped while a recipe uses them', async () => {
    const refused = await world.call('ida', 'DELETE', at('look'));
    expect([refused.status, withoutIds(refused.text)]).toEqual([
      409,
      expect.stringContaining('clinic, office'),
    ]);
    await begin(world, 'MSP', 'write-recipe', { recipe: LOOK }, { environment: office.environment });
    await begin(world, 'SVG', 'write-recipe', { recipe: LOOK }, { environment: clinic.environment });
    expect((await world.call('ida', 'DELETE', at('look'))).status).toBe(204);
    expect((await world.call('ida', 'DELETE', at('look'))).status).toBe(404);
    expect((await listed('SVG')).map(({ name }) => name)).toEqual(['look']);
  });
});
