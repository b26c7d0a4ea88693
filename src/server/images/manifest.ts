import type { Manifest } from '../manifest';
import { imageRoutes } from './routes';

export const imagesRoom: Manifest = {
  room: 'images',
  routes: imageRoutes,
};
