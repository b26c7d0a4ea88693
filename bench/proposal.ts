import { proposeProvision } from '../src/core/proposal';
import type { ProvisionGround } from '../src/core/ground';
import { SHARED_OFFICE } from '../src/demo/scenario';

const HOSTS = 500;
const TARGET_MS = 200;

/** The proposal for 500 hosts on 60 nodes, computed in the core: the median of 15. */
export function proposalBench(): void {
  const spec = { ...SHARED_OFFICE, naming: '{customer}-{counter:4}', concurrency: 1 };
  const times = Array.from({ length: 15 }, () => {
    const began = performance.now();
    const { hosts } = proposeProvision(
      { environment: 'large', people: (HOSTS - 1) * 3, profile: 'standard' },
      spec,
      ground(),
    );
    if (hosts.length !== HOSTS) throw new Error(`${hosts.length} hosts were proposed, not ${HOSTS}`);
    return performance.now() - began;
  }).sort((a, b) => a - b);
  const median = times[7] ?? Number.NaN;
  console.log(
    `proposal for ${HOSTS} hosts: ${median.toFixed(1)} ms (target under ${TARGET_MS}) ${median < TARGET_MS ? 'met' : 'MISSED'}`,
  );
}

const ground = (): ProvisionGround => ({
  now: Date.UTC(2026, 10, 18),
  rates: [{ meter: 'host', size: 's2x8', unit: 'hour', price: '0.066', from: 0, to: null }],
  customer: {
    code: 'BIG',
    currency: 'EUR',
    zone: 'UTC',
    state: 'active',
    plan: { name: 'Any', mostHosts: 1_000, mostPeople: 10_000, sizes: [] },
    hosts: 0,
    people: 5_000,
    block: { base: 0x0a000000, prefix: 16 },
    subnets: [],
    namesTaken: [],
    environments: [],
  },
  site: {
    code: 'KQ',
    name: 'Kelp Quay',
    kind: 'own nodes',
    reservedAddresses: 5,
    sizes: [{ key: 's2x8', vcpu: 2, memoryGiB: 8 }],
    images: [SHARED_OFFICE.image],
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
});
