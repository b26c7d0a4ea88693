import { demoRoutes } from '../demo/routes';
import { apiOf, type Laager } from '../server/api';
import { openProcess, type Process } from './app';

/** A process that serves: the API beside the rest. */
export interface WebProcess extends Process {
  readonly api: Laager;
}

export async function openWeb(): Promise<WebProcess> {
  const here = await openProcess('web');
  return { ...here, api: apiOf(here.app, here.demoClock && demoRoutes(here.demoClock)) };
}
