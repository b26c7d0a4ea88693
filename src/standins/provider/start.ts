import type { Server } from 'node:http';
import { openClock } from '../kit/clock';
import { openStore, type DatabaseAddress, type Store } from '../kit/database';
import { serve } from '../kit/server';
import { providerRoutes, type ProviderAccess } from './api';
import { CATALOGUES, type CatalogueName } from './catalogue';
import { Faults } from './faults';
import { listenForGateways } from './gateways';
import { PROVIDER_TABLES } from './schema';
import { World } from './world';

/** Starts the simulated provider on loopback, with the state that its database holds. */
export async function startProvider(
  address: DatabaseAddress,
  port: number,
  access: ProviderAccess,
  catalogue: CatalogueName = 'coast',
): Promise<{ server: Server; store: Store }> {
  const store = await openStore(address, PROVIDER_TABLES);
  const gateways = await listenForGateways(store);
  const world = new World(store, await openClock(store), CATALOGUES[catalogue], gateways.listens);
  await world.moveGateways();
  const faults = new Faults(store, world);
  await faults.load();
  const server = await serve(providerRoutes(world, faults, access), port, () => faults.activeFaults());
  server.on('close', () => gateways.server.close());
  return { server, store };
}
