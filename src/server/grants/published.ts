import type { Published } from '../../contract';
import { foundOn } from '../../core/items';
import type { CustomerScope } from '../access';
import type { App } from '../app';
import type { Connection } from '../db';
import { imagesAt } from '../images';
import { notFound } from '../problem';
import { offersOf } from './offers';

/** Environments that publish something, by name. */
export async function offeredPlaces(
  db: Connection,
  scope: CustomerScope,
): Promise<{ readonly id: string; readonly name: string }[]> {
  const offers = await offersOf(db, scope);
  return [...new Map(offers.map(({ environmentId, environment }) => [environmentId, environment]))].map(
    ([id, name]) => ({ id, name }),
  );
}

/** What an environment's pools publish in full, and what there is on their images. @throws Problem 404 */
export async function publishedIn(
  { db }: Pick<App, 'db'>,
  scope: CustomerScope,
  environment: string,
): Promise<Published> {
  const offers = (await offersOf(db, scope)).filter(({ environmentId }) => environmentId === environment);
  const [first] = offers;
  if (!first) throw notFound('environment');
  const { here, elsewhere } = await imagesAt(db, scope, first.site);
  const images = [...here, ...elsewhere];
  return {
    rules: first.rules,
    pools: offers.map(({ pool, image, items, crosses }) => ({
      pool,
      image,
      items,
      crosses,
      found: foundOn(images.find(({ name }) => name === image)?.of?.programs ?? []),
    })),
  };
}
