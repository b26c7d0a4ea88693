import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { begin, changePath, openWorld, type World } from './setup/world';

const SECRET = 'K-1234-5678';
const RECIPE =
  'steps:\n  - install: Tallybrook 4.2\n  - run: activate {secret:licence-key}\n  - check: Tallybrook starts\n';

describe('secrets of recipes', { timeout: 60_000 }, () => {
  let world: World;
  let image: string;
  beforeAll(async () => {
    world = await openWorld('secrets');
    const made = await begin(world, 'MSP', 'new-image', {
      code: 'office',
      name: 'Office',
      says: '',
      site: 'KQ',
      from: 'Ostrel 12 multi-user',
      recipe: RECIPE,
      keep: 1,
      size: 's4x16',
      diskGiB: 64,
      licences: [],
    });
    image = made.environment;
    await world.living.untilQuiet();
  });
  afterAll(() => world.close());

  const at = (name: string, customer = 'MSP'): string => `/customers/${customer}/recipe-secrets/${name}`;
  const keep = (name: string, secret: string, who: 'ida' | 'jonah' | 'petra' = 'ida', customer = 'MSP') =>
    world.call(who, 'PUT', at(name, customer), { body: { secret } });
  const build = () =>
    world.call('ida', 'POST', `${changePath('MSP', 'build-image', image)}/proposal`, {
      body: { input: { note: 'first' } },
    });

  it('that is named and not kept is found before anything is built', async () => {
    const { text } = await build();
    expect(text).toContain('licence-key: not kept here');
    expect(
      (await world.port().resources({ customer: 'MSP' })).filter(({ kind }) => kind === 'builder'),
    ).toEqual([]);
  });

  it('is kept by who builds for all, sealed, and told to nobody', async () => {
    expect((await keep('licence-key', SECRET, 'jonah')).status).toBe(404);
    expect((await keep('licence-key', SECRET, 'petra')).status).toBe(403);
    expect((await keep('Licence', SECRET)).status).toBe(404);
    expect((await keep('licence-key', SECRET)).status).toBe(204);
    const list = await world.call('ida', 'GET', '/customers/MSP/recipe-secrets');
    expect(list.body.secrets).toMatchObject([{ name: 'licence-key', by: 'Ida Quist' }]);
    expect(list.text).not.toContain(SECRET);
    const [row] = await world.app.db.rows<{ sealed: Buffer }>('SELECT sealed FROM recipe_secret');
    expect(row?.sealed.includes(SECRET)).toBe(false);
    expect((await world.call('ida', 'GET', '/trail?find=secret')).text).not.toContain(SECRET);
    // A customer's are its own.
    expect((await keep('licence-key', 'theirs', 'ida', 'SVG')).status).toBe(204);
    expect((await world.call('ida', 'GET', '/customers/FPS/recipe-secrets')).body.secrets).toEqual([]);
  });

  it('is given to the step that names it, and stands in nothing that is kept of it', async () => {
    const { run } = await begin(world, 'MSP', 'build-image', { note: 'first' }, { environment: image });
    await world.living.untilQuiet();
    const { body, text } = await world.call('ida', 'GET', `/customers/MSP/runs/${run}`);
    expect(body.state).toBe('done');
    expect(text).toContain('{secret:licence-key}');
    expect(text).not.toContain(SECRET);
    for (const { name } of await world.app.db.rows<{ name: string }>(
      "SELECT table_name AS name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE'",
    ))
      expect([
        name,
        JSON.stringify(await world.app.db.rows(`SELECT * FROM \`${name}\``)).includes(SECRET),
      ]).toEqual([name, false]);
  });

  it('is kept no longer, and what names it is not built', async () => {
    await world.living.job('feed');
    await world.living.job('machines');
    await world.living.untilQuiet();
    expect((await world.call('ida', 'DELETE', at('licence-key'))).status).toBe(204);
    expect((await world.call('ida', 'DELETE', at('licence-key'))).status).toBe(404);
    expect((await build()).text).toContain('licence-key: not kept here');
  });
});
