import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openWorld, type World } from './setup/world';

describe('views that somebody keeps', () => {
  let world: World;
  beforeAll(async () => {
    world = await openWorld('savedviews');
  });
  afterAll(() => world.close());

  type Who = 'ida' | 'runa' | 'bram';
  const keep = (who: Who, name: string, query: string) =>
    world.call(who, 'PUT', '/saved-views', { body: { page: 'customers', name, query } });
  const views = async (who: Who) => (await world.call(who, 'GET', '/saved-views?page=customers')).body.views;

  it('are theirs alone, by name, and replaced under the same', async () => {
    await keep('ida', 'Vets', 'tag=sector%3Aveterinary');
    await keep('ida', 'On trial', 'state=trial');
    expect((await keep('ida', 'Vets', 'plan=Harbour')).body.views).toEqual([
      { name: 'On trial', query: 'state=trial' },
      { name: 'Vets', query: 'plan=Harbour' },
    ]);
    expect(await views('bram')).toEqual([]);
    expect((await keep('runa', 'Mine', 'need=yes')).status).toBe(200);
    await world.call('runa', 'DELETE', '/saved-views?page=customers&name=Vets');
    expect(await views('ida')).toHaveLength(2);
    expect((await world.call('ida', 'DELETE', '/saved-views?page=customers&name=Vets')).status).toBe(204);
    expect(await views('ida')).toEqual([{ name: 'On trial', query: 'state=trial' }]);
  });

  it('are refused beside the field, and where there are too many', async () => {
    expect((await keep('bram', ' ', '')).body.fields).toEqual({ name: 'name it' });
    expect((await keep('bram', 'x'.repeat(61), '')).status).toBe(422);
    const other = await world.call('bram', 'PUT', '/saved-views', {
      body: { page: 'others', name: 'x', query: '' },
    });
    expect(Object.keys(other.body.fields as object)).toEqual(['page']);
    for (let n = 0; n < 40; n++) await keep('bram', `view ${n}`, 'need=yes');
    expect((await keep('bram', 'one more', '')).status).toBe(409);
    expect(await views('bram')).toHaveLength(40);
  });

  it('brings the customers with their tags to choose by', async () => {
    const { customers } = (await world.call('ida', 'GET', '/watch')).body as unknown as {
      customers: readonly { code: string; tags: object }[];
    };
    expect(customers.find((one) => one.code === 'SVG')?.tags).toEqual({ sector: 'veterinary', clinics: '6' });
  });
});
