import type { Manifest } from '../manifest';
import { SYSTEM } from '../access';
import { forgetSecrets, sealSecretsAnew } from '.';
import { recipeSecretRoutes } from './routes';

export const recipeSecretsRoom: Manifest = {
  room: 'recipe-secrets',
  tables: ['recipe_secret'],
  routes: recipeSecretRoutes,
  ends: forgetSecrets,
  reencrypts: { 'secrets of recipes': (app) => sealSecretsAnew(app, SYSTEM) },
};
