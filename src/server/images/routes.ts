import { imageEndpoints } from '../../contract';
import { ok, reads } from '../http';
import { listImages } from './read';

export const imageRoutes = [
  reads(imageEndpoints.list, async ({ app }, scope) => ok({ images: await listImages(app, scope) })),
];
