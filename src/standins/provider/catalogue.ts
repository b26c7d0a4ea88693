/** What a simulated provider has to offer: sites, nodes, sizes, images, quotas and prices. */
export interface Catalogue {
  /** How it names its resources: `hex` like `3f9a0c12be77`, or `path` like `region/host/3f9a0c12be77`. */
  readonly refs: 'hex' | 'path';
  readonly sites: readonly CatalogueSite[];
  readonly sizes: readonly CatalogueSize[];
  readonly prices: Readonly<Record<string, string>>;
}

export interface CatalogueSize {
  readonly key: string;
  readonly vcpu: number;
  readonly memoryGiB: number;
  readonly hourly: string;
  /** Memory of its graphics processor. */
  readonly graphicsGiB?: number;
  /** Which quota it counts against besides the whole. */
  readonly family?: string;
}

export interface CatalogueSite {
  readonly code: string;
  readonly name: string;
  readonly kind: 'own nodes' | 'hosted region';
  readonly reservedAddresses: number;
  readonly vcpuQuota: number | null;
  /** Quotas of families of sizes, within the whole. */
  readonly familyQuotas?: Readonly<Record<string, number>>;
  readonly images: readonly { readonly name: string; readonly diskGiB: number }[];
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

const SIZES: readonly CatalogueSize[] = [
  { key: 's2x4', vcpu: 2, memoryGiB: 4, hourly: '0.0310' },
  { key: 's2x8', vcpu: 2, memoryGiB: 8, hourly: '0.0440' },
  { key: 's4x16', vcpu: 4, memoryGiB: 16, hourly: '0.0880' },
  { key: 's8x32', vcpu: 8, memoryGiB: 32, hourly: '0.1760' },
  { key: 's16x64', vcpu: 16, memoryGiB: 64, hourly: '0.3520' },
];

/** With a graphics processor: had at the hosted region, where they have a quota of their own. */
const GRAPHICS: readonly CatalogueSize[] = [
  { key: 's4x16g4', vcpu: 4, memoryGiB: 16, hourly: '0.1900', graphicsGiB: 4, family: 'graphics' },
  { key: 's8x32g8', vcpu: 8, memoryGiB: 32, hourly: '0.3800', graphicsGiB: 8, family: 'graphics' },
  { key: 's16x64g16', vcpu: 16, memoryGiB: 64, hourly: '0.7600', graphicsGiB: 16, family: 'graphics' },
];

const PRICES = { diskGiBMonth: '0.0450', shareGiBMonth: '0.0600', imageGiBMonth: '0.0250', currency: 'EUR' };

const MULTI = { name: 'Ostrel 12 multi-user', diskGiB: 64 };
const SINGLE = { name: 'Ostrel 12', diskGiB: 48 };
const SERVER = { name: 'Ostrel Server 9', diskGiB: 40 };

const nodes = (
  site: string,
  zones: readonly string[],
  perZone: number,
  memoryGiB: number,
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
        memoryGiB,
        diskGiB: 7_680,
        dedicatedTo: dedicated[id] ?? null,
      };
    }),
  );

/** The MSP's own servers, at two sites. */
const coast: Catalogue = {
  refs: 'hex',
  sizes: SIZES,
  prices: PRICES,
  sites: [
    {
      code: 'KQ',
      name: 'Kelp Quay',
      kind: 'own nodes',
      reservedAddresses: 5,
      vcpuQuota: null,
      images: [MULTI, SINGLE, SERVER],
      nodes: nodes('kq', ['a', 'b'], 4, 384, { 'kq-a4': 'CAO', 'kq-b4': 'CAO' }),
    },
    {
      code: 'TF',
      name: 'Tor Field',
      kind: 'own nodes',
      reservedAddresses: 5,
      vcpuQuota: null,
      images: [MULTI, SERVER],
      nodes: nodes('tf', ['a', 'b'], 2, 40),
    },
  ],
};

/** Capacity bought by the hour: it names things in its own way, and keeps other addresses for itself. */
const northern: Catalogue = {
  refs: 'path',
  sizes: [...SIZES, ...GRAPHICS],
  prices: PRICES,
  sites: [
    {
      code: 'NL',
      name: 'Norrlight',
      kind: 'hosted region',
      reservedAddresses: 8,
      vcpuQuota: 160,
      familyQuotas: { graphics: 48 },
      images: [MULTI, SINGLE],
      nodes: [],
    },
  ],
};

/** Room for tens of thousands of hosts: the same sites, grown. */
const grown = (catalogue: Catalogue, sites: readonly Partial<CatalogueSite>[]): Catalogue => ({
  ...catalogue,
  sites: catalogue.sites.map((site, n) => ({ ...site, ...sites[n] })),
});
const large = (site: string, perZone: number): CatalogueNode[] =>
  nodes(site, ['a', 'b', 'c'], perZone, 1_536).map((node) => ({ ...node, cores: 96, diskGiB: 30_720 }));

export const CATALOGUES = {
  coast,
  northern,
  'coast-grown': grown(coast, [
    { nodes: large('kq', 30) },
    { images: [MULTI, SINGLE, SERVER], nodes: large('tf', 26) },
  ]),
  'northern-grown': grown(northern, [
    { vcpuQuota: 40_000, familyQuotas: { graphics: 4_000 }, images: [MULTI, SINGLE, SERVER] },
  ]),
} as const;
export type CatalogueName = keyof typeof CATALOGUES;

/** @throws RangeError for a name that is none */
export function catalogueNamed(name: string): CatalogueName {
  if (name in CATALOGUES) return name as CatalogueName;
  throw new RangeError(`${name} is no catalogue: there are ${Object.keys(CATALOGUES).join(', ')}`);
}
