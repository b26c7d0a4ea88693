import type { Environment } from '../../contract';
import type { KnownResource } from '../../core/facts';
import type { Attributes } from '../../core/intent';
import type { CustomerScope } from '../../server/access';
import type { App } from '../../server/app';
import { firstPeople } from '../../server/people';
import type { MakeAsk, Provider, Tags } from '../../server/providers';
import type { NowOf } from '../../server/resources';

/** A resource as it stands at a provider once all steps of its run are done. */
export interface Standing {
  readonly kind: string;
  readonly site: string;
  readonly name: string;
  readonly state: string;
  readonly attrs: Attributes;
  readonly tags: Tags;
  readonly created_at: number;
}

export interface Place {
  readonly scope: CustomerScope;
  readonly environment: Pick<Environment, 'id' | 'name' | 'people'> & { readonly template: string };
  readonly site: string;
  readonly run: string;
  readonly realm: string;
}

/**
 * What the step that makes a resource asks of the provider: the very step is asked, with a provider that builds nothing.
 * @param refs of what stands already, by key
 */
export async function askFor(
  app: App,
  { scope, environment, site, run, realm }: Place,
  resource: KnownResource,
  refs: ReadonlyMap<string, string>,
): Promise<MakeAsk> {
  let asked: MakeAsk | undefined;
  const now: NowOf = {
    scope,
    site,
    step: { id: '', run, action: 'make', purpose: 'make', part: null, operation: null, round: 0, memo: '' },
    environment: { ...environment, realm },
    policy: { atATime: 1, failureLimit: 1 },
    clock: app.clock,
    directory: app.directory,
    mail: app.mail,
    provider: {
      resources: async () => [],
      make: async (ask: MakeAsk) => {
        asked = ask;
        return { id: '', resource: '', state: 'working', says: '' };
      },
    } as Partial<Provider> as Provider,
    resource: seen(resource, null),
    find: async (key) => seen({ ...resource, key }, refs.get(key) ?? null),
    // The fleet's MSP provides no shared services.
    own: async () => undefined,
    standingOf: async () => undefined,
    recordOf: async () => undefined,
    inRecord: async () => 0,
    certificate: async () => undefined,
    licensed: async () =>
      (await firstPeople(app.db, scope, Number(resource.attributes.licences ?? 0))).map((one) => one.account),
    people: (limit) => firstPeople(app.db, scope, limit),
    secrets: async () => new Map(),
    tags: async () => ({}),
  };
  await app.catalogue.work(resource.kind).actions.make?.(now);
  if (!asked) throw new Error(`${resource.key} asked for nothing`);
  return asked;
}

const seen = (resource: KnownResource, ref: string | null): NowOf['resource'] => ({
  id: resource.id,
  key: resource.key,
  kind: resource.kind,
  name: resource.name,
  attributes: resource.attributes,
  wanted: true,
  version: resource.version,
  round: 0,
  ref,
  site: String(resource.attributes.site),
  shared: resource.key === `network:${String(resource.attributes.site)}`,
});

/** How it stands once it was made, and its host has its agent, is joined and in its pool. */
export function standingOf(ask: MakeAsk, wanted: Attributes, pool: string | undefined, at: number): Standing {
  const isHost = ask.kind === 'host';
  return {
    kind: ask.kind,
    site: ask.site,
    name: ask.name,
    state: isHost ? String(wanted.power ?? 'on') : 'ready',
    attrs: isHost
      ? {
          ...ask.attributes,
          accepting: wanted.accepting ?? true,
          agent: 'ready',
          joined: wanted.realm ?? null,
          pool: pool ?? null,
          fileSystemGiB: ask.attributes.diskGiB ?? null,
        }
      : ask.attributes,
    tags: ask.tags,
    created_at: at,
  };
}
