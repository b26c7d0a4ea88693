import type { App } from '../app';
import { certificateToServe } from '../certificates';
import { tagsOfCustomer } from '../customers';
import { wasOpen } from '../facts';
import { seatPeople } from '../grants';
import { openRefs } from '../metering';
import { firstPeople } from '../people';
import { saidOf, standingInRecord } from '../present';
import type { Provider } from '../providers';
import type { FrameNow } from '../resources';
import { retainedRefs } from '../retained';
import { readSecrets } from '../recipe-secrets';
import { endEnvironment, namesOfEnvironment, tagsOfEnvironment } from '../environments';
import { ownResource, resourceByKey, stillHeld, type HeldStep, type StepPlace } from './held-step';

/** What a step is given: ports that first make sure that the step is still held, and what it may ask of the rest. */
export async function nowOf(app: App, step: HeldStep, place: StepPlace): Promise<FrameNow> {
  const { scope } = step;
  const environmentId = place.environment?.id;
  const held = (): Promise<void> => stillHeld(app.db, step, app.clock.wall());
  const guarded =
    <Parameters extends readonly unknown[], Result>(call: (...given: Parameters) => Promise<Result>) =>
    async (...given: Parameters): Promise<Result> => {
      await held();
      return call(...given);
    };
  const { port, code } = await app.providers.at(place.site);
  const provider: Provider = {
    ...port,
    make: guarded(port.make),
    act: guarded(port.act),
    remove: guarded(port.remove),
    change: guarded(port.change),
    tag: guarded(port.tag),
    message: guarded(port.message),
    endSessions: guarded(port.endSessions),
  };
  return {
    scope,
    step: {
      id: step.id,
      run: step.runId,
      action: step.action,
      purpose: step.purpose,
      part: step.part,
      operation: step.operation,
      round: step.round,
      memo: step.memo,
    },
    site: place.site,
    environment: place.environment,
    policy: place.policy,
    opens: place.opens,
    clock: app.clock,
    provider,
    directory: {
      ...app.directory,
      join: guarded(app.directory.join),
      leave: guarded(app.directory.leave),
    },
    mail: { send: guarded(app.mail.send) },
    find: (key) => resourceByKey(app.db, scope, environmentId, key),
    own: (key) => ownResource(app.db, place.site, key),
    recordOf: (ref) => saidOf(app.db, scope, code, ref),
    inRecord: (resource) => standingInRecord(app.db, scope, { resource }),
    standingOf: async ({ site, ref }) =>
      ref === null ? undefined : (await app.providers.at(site)).port.resource(ref),
    licensed: (publication) => seatPeople(app, scope, publication),
    people: (limit) => firstPeople(app.db, scope, limit),
    certificate: (fingerprint) => certificateToServe(app, scope, fingerprint),
    secrets: () => readSecrets(app, scope),
    tags: async () => ({
      ...(await tagsOfCustomer(app.db, scope)),
      ...(await tagsOfEnvironment(app.db, scope, environmentId ?? '')),
    }),
    kinds: app.catalogue.kinds.map((kind) => kind.key),
    standing: async () =>
      (await openRefs(app.db, scope, environmentId ?? '')).size +
      (await standingInRecord(app.db, scope, { environment: environmentId ?? '' })),
    retained: () => retainedRefs(app.db, scope, environmentId ?? ''),
    wasOpen: () => wasOpen(app.db, scope, environmentId ?? ''),
    names: () => namesOfEnvironment(app, scope, environmentId ?? ''),
    end: () => endEnvironment(app, scope, environmentId ?? ''),
  };
}
