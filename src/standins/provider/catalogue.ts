/** What this simulated provider has to offer: sites, nodes, sizes, images, quotas and prices. */
export interface CatalogueSite {
  readonly code: string;
  readonly name: string;
  readonly kind: 'own nodes' | 'hosted region';
  readonly reservedAddresses: number;
  readonly vcpuQuota: number | null;
  readonly images: readonly string[];
  readonly nodes: readonly CatalogueNode[];
}

export interface CatalogueNode {
  readonly id: string;
  readonly zone: string;
  readonly cores: number;
  /** vCPU sold for each core. */
  readonly overcommit: number;
  readonly memoryGiB: number;
  readonly diskGiB: number;
  readonly dedicatedTo: string | null;
}

export const SIZES = [
  { key: 's2x4', vcpu: 2, memoryGiB: 4, hourly: '0.0310' },
  { key: 's2x8', vcpu: 2, memoryGiB: 8, hourly: '0.0440' },
  { key: 's4x16', vcpu: 4, memoryGiB: 16, hourly: '0.0880' },
  { key: 's8x32', vcpu: 8, memoryGiB: 32, hourly: '0.1760' },
  { key: 's16x64', vcpu: 16, memoryGiB: 64, hourly: '0.3520' },
] as const;

export const PRICES = { diskGiBMonth: '0.0450', shareGiBMonth: '0.0600', currency: 'EUR' } as const;

const nodes = (
  site: string,
  zones: readonly string[],
  perZone: number,
  dedicated: Readonly<Record<string, string>> = {},
): CatalogueNode[] =>
  zones.flatMap((zone) =>
    Array.from({ length: perZone }, (_, index) => {
      const id = `${site}-${zone}${index + 1}`;
      return {
        id,
        zone: `${site}-${zone}`,
        cores: 32,
        overcommit: 4,
        memoryGiB: 384,
        diskGiB: 7_680,
        dedicatedTo: dedicated[id] ?? null,
      };
    }),
  );

export const SITES: readonly CatalogueSite[] = [
  {
    code: 'KQ',
    name: 'Kelp Quay',
    kind: 'own nodes',
    reservedAddresses: 5,
    vcpuQuota: null,
    images: ['Ostrel 12 multi-user', 'Ostrel 12', 'Ostrel Server 9'],
    nodes: nodes('kq', ['a', 'b'], 4, { 'kq-a4': 'CAO', 'kq-b4': 'CAO' }),
  },
  {
    code: 'TF',
    name: 'Tor Field',
    kind: 'own nodes',
    reservedAddresses: 5,
    vcpuQuota: null,
    images: ['Ostrel 12 multi-user', 'Ostrel Server 9'],
    nodes: nodes('tf', ['a', 'b'], 2),
  },
  {
    code: 'NL',
    name: 'Norrlight',
    kind: 'hosted region',
    reservedAddresses: 8,
    vcpuQuota: 160,
    images: ['Ostrel 12 multi-user', 'Ostrel 12'],
    nodes: [],
  },
];
