import { DateTime } from 'luxon';
import { systemScope } from '../access';
import type { App } from '../app';
import { beginByItself } from '../changes';
import { dueImages, idleMachines, waitingPilots } from '../images';

/** Takes away the build machines that are wanted no more. */
export async function endMachines(app: App): Promise<void> {
  for (const { owner, image, version, why } of await idleMachines(app))
    await beginByItself(
      app,
      systemScope(owner),
      'end-build',
      { input: { version }, environment: image },
      why,
    );
}

/** Follows the rules of images: builds anew what is due, and gives pilots what a rule had built. */
export async function refreshImages(app: App): Promise<void> {
  for (const { id: image, owner } of await dueImages(app)) {
    const note = `refresh of ${DateTime.fromMillis(app.clock.now(), { zone: 'utc' }).toFormat('d LLLL yyyy')}`;
    const asked = { input: { note, byRule: true }, environment: image };
    await beginByItself(app, systemScope(owner), 'build-image', asked, 'its rule asks for it');
  }
  for (const { customer, environment, pool, image } of await waitingPilots(app.db)) {
    const asked = { input: { pool, image, track: 'trial' }, environment };
    await beginByItself(app, systemScope(customer), 'use-image', asked, 'a pilot tries it first');
  }
}
