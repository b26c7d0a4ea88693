import type { Manifest } from '../manifest';
import { SYSTEM } from '../access';
import { atEach, readSites, sealProvidersAnew, trySignIn } from '.';
import { providerRoutes } from './routes';

const GROUND_MS = 20_000;

export const providersRoom: Manifest = {
  room: 'providers',
  tables: ['provider', 'provider_rate', 'node', 'site', 'ground_change'],
  routes: providerRoutes,
  jobs: [
    {
      name: 'ground',
      everyMs: GROUND_MS,
      run: (app) =>
        atEach(app, GROUND_MS, async (provider) => {
          const { worked } = await trySignIn(app, provider);
          if (worked) await readSites(app, provider, SYSTEM);
        }),
    },
  ],
  reencrypts: { 'secrets of providers': (app) => sealProvidersAnew(app, SYSTEM) },
};
