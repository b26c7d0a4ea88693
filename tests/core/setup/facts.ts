import { parseBlock, type Block } from '../../../src/core/addressing';
import type { Facts, KnownResource, PresentFacts, SiteFacts } from '../../../src/core/facts';
import { edited } from '../../../src/core/overrides';
import { propose, type Proposal } from '../../../src/core/planning';
import { NO_AMOUNTS, NO_LIMITS, takenBy, type Most, type PlanFacts } from '../../../src/core/plans';
import { RESOURCE_KINDS } from '../../../src/core/resources';
import { CHANGES } from '../../../src/core/changes';
import { usualPool, type TemplateDocument } from '../../../src/core/templates';

export const block = (text: string): Block => {
  const read = parseBlock(text);
  if (!read.ok) throw new Error(read.problem);
  return read.value;
};

export const poolSpec = usualPool('desks', 'Ostrel 12 multi-user', { concurrency: 1 });

export const spec: TemplateDocument = {
  name: 'Shared office',
  says: '',
  called: 'office',
  naming: '{customer}-{environment}{counter:2}',
  tags: {},
  features: [],
  inputs: [],
  pools: [poolSpec],
  atATime: 5,
  failureLimit: 2,
};

export const node = (id: string, zone: string): SiteFacts['nodes'][number] => ({
  id,
  zone,
  vcpu: 128,
  memoryGiB: 384,
  diskGiB: 8_000,
});

export const input = { environment: 'office', template: 'shared-office', site: 'KQ', people: 12 };

/** A plan with these limits, and no others. */
export const planOf = (most: Partial<Most>, more: Partial<PlanFacts> = {}): PlanFacts => ({
  name: 'Harbour',
  most: { ...NO_LIMITS, ...most },
  sizes: [],
  sites: [],
  fees: [],
  retentionDays: 30,
  localAdministrator: false,
  included: [],
  readyHosts: 0,
  allowances: [],
  ...more,
});

export const facts: Facts = {
  now: Date.UTC(2026, 10, 24),
  rates: [
    { meter: 'host', size: 's2x8', unit: 'hour', price: '0.066', from: 0, to: null },
    { meter: 'disk', size: null, unit: 'month', price: '0.07', from: 0, to: null },
    { meter: 'share', size: null, unit: 'month', price: '0.11', from: 0, to: null },
    { meter: 'licence', size: null, unit: 'month', price: '4', from: 0, to: null },
  ],
  template: { code: 'shared-office', revision: 1, document: spec },
  customer: {
    code: 'SVG',
    currency: 'EUR',
    zone: 'Europe/Dublin',
    state: 'active',
    realm: 'svg.example',
    naming: '',
    plan: planOf({ hosts: 20, people: 100 }),
    takes: NO_AMOUNTS,
    people: 96,
    block: block('10.16.0.0/20'),
    taken: { name: ['SVG-OFFICE02'] },
    environments: ['clinic'],
    nameServers: [],
  },
  site: {
    code: 'KQ',
    name: 'Kelp Quay',
    kind: 'own nodes',
    reservedAddresses: 5,
    sizes: [{ key: 's2x8', vcpu: 2, memoryGiB: 8 }],
    images: [{ name: 'Ostrel 12 multi-user', diskGiB: 64 }],
    nodes: [node('a1', 'a'), node('b1', 'b')],
    present: [],
    quota: undefined,
    signIn: { worked: true, says: 'signed in' },
    directory: { worked: true, says: 'answers' },
  },
  known: [],
  present: [],
};

export function changeNamed(kind: string): (typeof CHANGES)[number] {
  const found = CHANGES.find((one) => one.kind === kind);
  if (!found) throw new Error(`${kind} is no change`);
  return found;
}

/** What a change of one of the lists would do. */
export const proposed = (kind: string, raw: unknown, from: Facts, policy: object = {}): Proposal =>
  propose(RESOURCE_KINDS, changeNamed(kind), raw, from, policy);

export interface HostSeen {
  readonly name: string;
  readonly address: string;
  readonly node: string | null;
  readonly size: string;
}

export const hostsOf = (proposal: Proposal): HostSeen[] =>
  proposal.wanted
    .filter((one) => one.kind === 'host')
    .map(({ name, attributes }) => ({
      name,
      address: String(attributes.address),
      node: typeof attributes.node === 'string' ? attributes.node : null,
      size: String(attributes.size),
    }));

/** The facts as they are once a proposal has been carried out: all that is wanted stands, and is as wanted. */
export function carriedOut(
  proposal: Proposal,
  from: Facts,
  people: Readonly<Record<string, number>> = {},
): Facts {
  const { intent } = proposal;
  if (!intent) throw new Error('nothing stands after that');
  // A change of hosts says nothing of the rest: that stays.
  const named = new Set(proposal.wanted.map(({ key }) => key));
  const rest = changeNamed(proposal.kind).takes === 'facts of hosts' ? from.known : [];
  const known = [...rest.filter(({ key }) => !named.has(key)), ...proposal.wanted].map(
    (one): KnownResource => {
      const before = from.known.find((other) => other.key === one.key);
      return {
        ...one,
        id: `id of ${one.key}`,
        version: (before?.version ?? 0) + 1,
        wanted: true,
        unsettled: false,
        people: people[one.key] ?? before?.people ?? 0,
      };
    },
  );
  return {
    ...from,
    customer: {
      ...from.customer,
      takes: takenBy(intent, from.site.sizes),
      taken: {
        ...from.customer.taken,
        name: [
          ...(from.customer.taken.name ?? []),
          ...known.filter((one) => one.kind === 'host').map((one) => one.name),
        ],
      },
      environments: [...from.customer.environments, intent.name],
    },
    overrides: edited(from.overrides ?? [], proposal.overrides, { why: '', by: 'ida', since: from.now }),
    known,
    present: known.map((one): PresentFacts => ({
      ref: `ref of ${one.key}`,
      kind: one.kind,
      name: one.name,
      key: one.key,
      condition: 'well',
      attributes: one.attributes,
    })),
    environment: {
      id: 'office',
      version: (from.environment?.version ?? 0) + 1,
      wanted: 'serving',
      intent,
      shares: false,
    },
  };
}
