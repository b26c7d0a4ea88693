import { provision } from '../src/core/changes';
import type { Facts } from '../src/core/facts';
import { propose } from '../src/core/planning';
import { NO_AMOUNTS, NO_LIMITS } from '../src/core/plans';
import { RESOURCE_KINDS } from '../src/core/resources';
import { readTemplate, type TemplateDocument } from '../src/core/templates';
import { SHARED_OFFICE } from '../src/demo/templates';

const HOSTS = 500;
const TARGET_MS = 200;

/** The proposal for 500 hosts on 60 nodes, computed in the core: the median of 15. */
export function proposalBench(): void {
  const input = { environment: 'large', template: 'large', site: 'KQ', people: (HOSTS - 1) * 3 };
  const times = Array.from({ length: 15 }, () => {
    const began = performance.now();
    const { wanted } = propose(RESOURCE_KINDS, provision, input, facts());
    const hosts = wanted.filter((one) => one.kind === 'host').length;
    if (hosts !== HOSTS) throw new Error(`${hosts} hosts were proposed, not ${HOSTS}`);
    return performance.now() - began;
  }).sort((a, b) => a - b);
  const median = times[7] ?? Number.NaN;
  console.log(
    `proposal for ${HOSTS} hosts: ${median.toFixed(1)} ms (target under ${TARGET_MS}) ${median < TARGET_MS ? 'met' : 'MISSED'}`,
  );
}

function read(text: string): TemplateDocument {
  const document = readTemplate(text);
  if (!document.ok) throw new Error(document.problem[0]?.says);
  return document.value;
}

const OFFICE = read(SHARED_OFFICE);

export const facts = (): Facts => ({
  now: Date.UTC(2026, 10, 18),
  rates: [{ meter: 'host', size: 's2x8', unit: 'hour', price: '0.066', from: 0, to: null }],
  template: {
    code: 'large',
    revision: 1,
    document: {
      ...OFFICE,
      naming: '{customer}-{counter:4}',
      pools: OFFICE.pools.map((pool) => ({ ...pool, concurrency: 1 })),
    },
  },
  customer: {
    code: 'BIG',
    currency: 'EUR',
    zone: 'UTC',
    state: 'active',
    realm: 'big.example',
    naming: '',
    plan: {
      name: 'Any',
      most: NO_LIMITS,
      sizes: [],
      sites: [],
      fees: [],
      retentionDays: 30,
      localAdministrator: false,
      included: [],
      readyHosts: 0,
      allowances: [],
    },
    takes: NO_AMOUNTS,
    people: 5_000,
    block: { base: 0x0a000000, prefix: 16 },
    taken: {},
    environments: [],
    nameServers: [],
  },
  site: {
    code: 'KQ',
    name: 'Kelp Quay',
    kind: 'own nodes',
    reservedAddresses: 5,
    sizes: [{ key: 's2x8', vcpu: 2, memoryGiB: 8 }],
    images: OFFICE.pools.map((pool) => ({ name: pool.image, diskGiB: 64 })),
    nodes: Array.from({ length: 60 }, (_, i) => ({
      id: `n${i}`,
      zone: i % 2 === 0 ? 'a' : 'b',
      vcpu: 128,
      memoryGiB: 384,
      diskGiB: 7_680,
    })),
    present: [],
    quota: undefined,
    signIn: { worked: true, says: '' },
    directory: { worked: true, says: '' },
  },
  known: [],
  present: [],
});
