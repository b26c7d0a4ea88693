import { ownTags, type Attributes } from '../../core/intent';
import type { Condition } from '../../core/facts';
import type { Policy, Purpose } from '../../core/resources';
import type { CustomerScope } from '../access';
import type { Clock } from '../clock';
import type { Directory } from '../directory';
import type { Mail } from '../mail';
import { OutsideError } from '../outside';
import type { Operation, PresentResource, Provider, Tags } from '../providers';

/** How far a step has come; with the last of what it wrote, where it writes anything. */
export type Outcome = Result & { readonly output?: string };

type Result =
  | {
      readonly kind: 'done';
      readonly says: string;
      /** The provider's name for what was made. */
      readonly ref?: string;
      /** Whether nothing of it is there any more. */
      readonly gone?: true;
      /** Whether it is out of use, and kept for its data. */
      readonly retained?: true;
    }
  | {
      readonly kind: 'wait';
      readonly says: string;
      /** What the provider is at work on. */
      readonly operation?: string;
      /** Noted for when the step comes back. */
      readonly memo?: string;
    }
  /** At once, under another key where the provider said that what the last one began has ended. */
  | { readonly kind: 'again'; readonly says: string; readonly anew?: 'resource' | 'step' }
  | { readonly kind: 'failed'; readonly says: string; readonly anew?: 'resource' | 'step' };

export const done = (says: string): Outcome => ({ kind: 'done', says });
export const failed = (says: string): Outcome => ({ kind: 'failed', says });
export const wait = (says: string): Outcome => ({ kind: 'wait', says });

/** A step as this worker holds it. */
export interface StepNow {
  readonly id: string;
  readonly run: string;
  readonly action: string;
  readonly purpose: Purpose;
  /** Which of several alike it is, from 1. */
  readonly part: number | null;
  readonly operation: string | null;
  readonly round: number;
  readonly memo: string;
}

/** A resource as it is wanted now, which may be otherwise than when the run began. */
export interface ResourceNow {
  readonly id: string;
  readonly key: string;
  readonly kind: string;
  readonly name: string;
  readonly attributes: Attributes;
  readonly wanted: boolean;
  readonly version: number;
  readonly round: number;
  readonly ref: string | null;
  readonly site: string;
  /** Whether it is the customer's at a site, and no one environment's. */
  readonly shared: boolean;
}

export interface EnvironmentNow {
  readonly id: string;
  readonly name: string;
  readonly template: string;
  readonly people: number;
  readonly realm: string;
}

/**
 * What a step is given. Each call that changes something outside first makes sure that this worker still holds the step.
 */
export interface Now {
  readonly scope: CustomerScope;
  readonly step: StepNow;
  readonly site: string;
  readonly environment: EnvironmentNow | undefined;
  readonly policy: Policy;
  readonly clock: Clock;
  readonly provider: Provider;
  readonly directory: Directory;
  readonly mail: Mail;
  /** Another resource of the environment, or one that it shares. */
  find(key: string): Promise<ResourceNow | undefined>;
  /** What the MSP has at the site for everyone, by its key. */
  own(key: string): Promise<ResourceNow | undefined>;
  /** What the provider's record of changes says of what it calls so: that it is gone, that it is there, or nothing. */
  recordOf(ref: string): Promise<'gone' | 'there' | undefined>;
  /** How much of a resource is there by the provider's record. */
  inRecord(resource: string): Promise<number>;
  /** What stands of a resource, asked of the provider of its own site, which may be another. */
  standingOf(resource: ResourceNow): Promise<PresentResource | undefined>;
  /** Accounts of those who have a licence seat of a publication, by its id: seats are given and taken back first. */
  licensed(publication: string): Promise<string[]>;
  /** The customer's first people by account. */
  people(limit: number): Promise<{ account: string; mail: string }[]>;
  /** A certificate that is kept for them, with its key, by its fingerprint. */
  certificate(fingerprint: string): Promise<{ readonly chain: string; readonly key: string } | undefined>;
  /** Every secret that recipes may name, by name. */
  secrets(): Promise<ReadonlyMap<string, string>>;
  /** What customer and environment want everything of theirs to be tagged with. */
  tags(): Promise<Tags>;
}

export interface NowOf extends Now {
  readonly resource: ResourceNow;
}

export type StepWork = (now: NowOf) => Promise<Outcome>;

/** How one kind of resource is read back and worked on. */
export interface ResourceWork {
  /** What is there, in the words of what is wanted. */
  read(present: PresentResource): { readonly condition: Condition; readonly attributes: Attributes };
  readonly actions: Readonly<Record<string, StepWork>>;
}

/** Whose a resource is, for everyone who looks at the provider. */
export const tagsOf = ({ scope, environment, step, resource }: NowOf): Tags => ({
  customer: scope.customer.code,
  ...(environment && !resource.shared
    ? { environment: environment.id, template: environment.template, pool: resource.key.split(':')[1] ?? '' }
    : {}),
  resource: resource.id,
  run: step.run,
  step: step.id,
});

/** What is there of a resource now: as we noted it, or, when its making was cut off before we could, as its tags tell. */
export async function presentOf(now: NowOf): Promise<PresentResource | undefined> {
  const { resource, provider, scope } = now;
  const noted = resource.ref === null ? undefined : await provider.resource(resource.ref);
  if (noted && noted.state !== 'gone') return noted;
  const [found] = await provider.resources({ customer: scope.customer.code, resource: resource.id });
  // A provider may know nothing for a moment. That something is gone, it says itself, or its record does.
  if (!found && !noted && resource.ref !== null && (await now.recordOf(resource.ref)) !== 'gone')
    throw new OutsideError(
      'provider',
      `does not know ${resource.name}, and has not told that it is gone`,
      'passing',
    );
  return found;
}

/** @throws OutsideError, lasting, when nothing of it is there */
export async function presentNow(now: NowOf): Promise<PresentResource> {
  const present = await presentOf(now);
  if (!present) throw new OutsideError('provider', `says: ${now.resource.name} is not there`, 'lasting');
  return present;
}

/** The provider's name for something that this one stands on. @throws OutsideError, lasting, when it was not made */
export async function refOf(now: Now, key: string): Promise<string> {
  const other = await now.find(key);
  if (typeof other?.ref !== 'string')
    throw new OutsideError('provider', `says: its ${key.split(':')[0] ?? key} was not made`, 'lasting');
  return other.ref;
}

/**
 * Looks how an operation is doing, or what came of one that was just begun.
 * @param anew whose key is another one next time, once the provider itself says that it failed
 */
export async function follow(
  operation: Operation,
  anew: 'resource' | 'step',
  whenDone: (ref: string) => Promise<Outcome> | Outcome,
): Promise<Outcome> {
  switch (operation.state) {
    case 'working':
      return { kind: 'wait', says: '', operation: operation.id };
    case 'failed':
      return { kind: 'failed', says: operation.says, anew };
    case 'done':
      return whenDone(operation.resource);
  }
}

/**
 * Makes a resource, once: what carries its tag is it, and its key at the provider stays the same until the provider
 * itself says that making it failed or that it is gone.
 * @param attributes are asked for only when it has to be made
 */
export const make =
  (attributes: (now: NowOf) => Attributes | Promise<Attributes>): StepWork =>
  async (now) => {
    const { step, provider, resource } = now;
    if (step.operation !== null)
      return follow(await provider.operation(step.operation), 'resource', (ref) => made(now, ref));
    const there = await presentOf(now);
    const isBuilding = there?.state === 'building';
    if (isBuilding && there.busyWith !== null) return wait('is being made');
    // One that nobody is at work on was cut off at the provider: asked for under its key, it goes on.
    if (there && !isBuilding) return { kind: 'done', says: 'stands already', ref: there.ref };
    const ask = {
      kind: resource.kind,
      site: now.site,
      name: resource.name,
      attributes: await attributes(now),
      // Ours say whose it is: none of theirs stands in their place.
      tags: { ...ownTags(await now.tags()), ...tagsOf(now) },
    };
    const operation = await provider.make(ask, `${resource.id}-${resource.round}`);
    return follow(operation, 'resource', (ref) => made(now, ref));
  };

async function made({ provider }: NowOf, ref: string): Promise<Outcome> {
  const there = await provider.resource(ref);
  if (there && there.state !== 'gone') return { kind: 'done', says: '', ref };
  return { kind: 'again', says: 'was made before and is gone: made anew', anew: 'resource' };
}

/** What a step waits for that found nothing, where the record of changes still has something. */
export const NOT_TOLD = 'the record of changes has not told of the end yet';

/** Takes away all that is there of a resource, one after the other. */
export const remove: StepWork = async (now) => {
  const { step, provider } = now;
  const next = (): Outcome => ({ kind: 'again', says: '', anew: 'step' });
  if (step.operation !== null) return follow(await provider.operation(step.operation), 'step', next);
  const there = await presentOf(now);
  // Its name, address and room are given back on the record's word.
  if (!there && (await now.inRecord(now.resource.id)) > 0) return wait(NOT_TOLD);
  if (!there) return { kind: 'done', says: 'nothing is there', gone: true };
  return follow(await provider.remove(there.ref, there.version, keyOf(now)), 'step', next);
};

/**
 * Takes something out of use and leaves its data on it. Its tags say that it is no environment's any more: whoever asks the
 * provider for those is not told of it.
 */
export const retain: StepWork = async (now) => {
  const there = await presentOf(now);
  if (!there && (await now.inRecord(now.resource.id)) > 0) return wait(NOT_TOLD);
  if (!there) return { kind: 'done', says: 'nothing is there', gone: true };
  if (there.busyWith !== null) return wait('something is at work on it');
  if (there.attributes.kept !== true) await now.provider.change(there.ref, there.version, { kept: true });
  // Its version may be another one now.
  const { ref, version, tags } = await presentNow(now);
  if (tags.environment !== '') await now.provider.tag(ref, version, { environment: '' });
  return { kind: 'done', says: 'out of use, its data are kept', ref, retained: true };
};

/** A step's key at the provider: it is another one only once the provider said that what it began has ended. */
export const keyOf = ({ step }: Now): string => `${step.id}-${step.round}`;

/**
 * Has the provider do something to a resource, unless it is so already.
 * @param isSo looks at what is there; true: there is nothing to do
 */
export const act =
  (
    action: string | ((now: NowOf) => string),
    parameters: (now: NowOf) => Attributes | Promise<Attributes>,
    isSo: (present: PresentResource, now: NowOf) => string | undefined,
  ): StepWork =>
  async (now) => {
    const { step, provider } = now;
    // Once it has ended, what is there tells whether it is so: it may have been wanted otherwise meanwhile.
    const next = (): Outcome => ({ kind: 'again', says: '', anew: 'step' });
    if (step.operation !== null) return follow(await provider.operation(step.operation), 'step', next);
    const present = await presentNow(now);
    if (present.busyWith !== null) return wait('something is at work on it');
    const says = isSo(present, now);
    if (says !== undefined) return done(says);
    const what = typeof action === 'string' ? action : action(now);
    return follow(
      await provider.act(present.ref, present.version, what, await parameters(now), keyOf(now)),
      'step',
      next,
    );
  };

/**
 * Has the provider do something that is no state of the resource: its own word tells that it was done. Asked again for the
 * same step, it answers with what it did then.
 */
export const once =
  (action: string, says: string): StepWork =>
  async (now) => {
    const { step, provider } = now;
    const ended = (): Outcome => done(says);
    if (step.operation !== null) return follow(await provider.operation(step.operation), 'step', ended);
    const present = await presentNow(now);
    if (present.busyWith !== null) return wait('something is at work on it');
    return follow(await provider.act(present.ref, present.version, action, {}, keyOf(now)), 'step', ended);
  };

/** Changes attributes that take effect at once, unless they are so already. */
export const set =
  (attributes: (now: NowOf) => Attributes | Promise<Attributes>, says: (now: NowOf) => string): StepWork =>
  async (now) => {
    const present = await presentNow(now);
    const wanted = await attributes(now);
    const differ = Object.entries(wanted).some(
      ([name, value]) => JSON.stringify(present.attributes[name] ?? null) !== JSON.stringify(value),
    );
    if (differ) await now.provider.change(present.ref, present.version, wanted);
    return done(says(now));
  };

/** What most kinds are read back as. */
export const readPlainly = (
  present: PresentResource,
): { readonly condition: Condition; readonly attributes: Attributes } => ({
  condition: present.state === 'building' ? 'building' : present.state === 'unwell' ? 'unwell' : 'well',
  attributes: present.attributes,
});

/** Only those attributes, so that what means something else at the provider is not compared. */
export const only =
  (...names: readonly string[]) =>
  (present: PresentResource): ReturnType<typeof readPlainly> => {
    const { condition, attributes } = readPlainly(present);
    return {
      condition,
      attributes: Object.fromEntries(Object.entries(attributes).filter(([name]) => names.includes(name))),
    };
  };
