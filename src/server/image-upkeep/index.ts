import { MSP, systemScope } from '../access';
import type { App } from '../app';
import { beginByItself } from '../changes';
import { idleMachines } from '../images';

const SCOPE = systemScope(MSP);

/** Takes away the build machines that are wanted no more. */
export async function keepImages(app: App): Promise<void> {
  for (const { image, version, why } of await idleMachines(app))
    await beginByItself(app, SCOPE, 'end-build', { input: { version }, environment: image }, why);
}
