import type { App } from '../app';
import type { Ask, ResourceKind } from '../provider';
import type { Job, Place } from './job';

/** How far a step has come: done, or the provider is at work on an operation. */
export type Progress =
  | {
      readonly kind: 'done';
      readonly says: string;
      readonly made?: { readonly kind: ResourceKind; readonly ref: string };
    }
  | { readonly kind: 'under way'; readonly operation: string }
  | { readonly kind: 'failed'; readonly says: string };

/** Does a step, or begins it. It may be called again after a crash at any point, and then changes nothing twice. */
export type Work = (app: App, job: Job, place: Place) => Promise<Progress>;

export const done = (says: string): Progress => ({ kind: 'done', says });
export const failed = (says: string): Progress => ({ kind: 'failed', says });

/** A step's key at the provider: its id, and a number that grows only once the provider has said that it failed. */
export const keyOf = (job: Job): string => `${job.id}-${job.round}`;

/**
 * Asks the provider for something that takes a while.
 * @param key another than the step's own where several runs' steps make one and the same thing
 */
export async function ask(app: App, job: Job, what: Ask, key = keyOf(job)): Promise<Progress> {
  const operation = await app.provider.begin(what, key);
  if (operation.state === 'failed') return failed(operation.says);
  return { kind: 'under way', operation: operation.id };
}
