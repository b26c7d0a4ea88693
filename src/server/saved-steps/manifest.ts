import type { Manifest } from '../manifest';
import { forgetSteps } from '.';
import { savedStepsRoutes } from './routes';

export const savedStepsRoom: Manifest = {
  room: 'saved-steps',
  tables: ['saved_steps'],
  routes: savedStepsRoutes,
  ends: forgetSteps,
};
