import { imageEndpoints } from '../../contract';
import { ok, reads, publicRoute } from '../http';
import { listImages, readCalendar } from './read';

export const imageRoutes = [
  reads(imageEndpoints.list, async ({ app }, scope) => ok({ images: await listImages(app, scope) })),
  publicRoute(
    imageEndpoints.calendar,
    async ({ app, params }) =>
      new Response(await readCalendar(app, params.image, params.key), {
        headers: { 'content-type': 'text/calendar; charset=utf-8' },
      }),
  ),
];
