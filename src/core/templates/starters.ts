import type { PoolSpec, TemplateSpec } from './spec';

/** A template to begin with: all of it but the image, which is the provider's. */
export interface Starter {
  readonly code: string;
  readonly name: string;
  readonly says: string;
  readonly pool: Omit<PoolSpec, 'image'>;
}

const DESKS: Starter['pool'] = {
  role: 'desks',
  arrival: 'spread',
  profile: 'standard',
  partOfPeople: 1,
  concurrency: 0.85,
  mostSeats: 16,
  diskGiB: 128,
  shareGiBPerPerson: 10,
  ceilingFactor: 2,
  items: [{ name: 'Full desktop', kind: 'desktop' }],
};

/** What an MSP without templates may begin with; the figures are common practice, no source. */
export const STARTERS: readonly Starter[] = [
  {
    code: 'shared-office',
    name: 'Shared office',
    says: 'One shared pool of desktops for office work, with profiles on a share',
    pool: DESKS,
  },
  {
    code: 'heavy-work',
    name: 'Heavy work',
    says: 'One shared pool of strong hosts with few people on each',
    pool: { ...DESKS, profile: 'heavy', mostSeats: 6, diskGiB: 256, shareGiBPerPerson: 20 },
  },
  {
    code: 'own-desks',
    name: 'Own desks',
    says: 'A host for each person, of nobody else',
    pool: { ...DESKS, concurrency: 1, mostSeats: 1, shareGiBPerPerson: 2 },
  },
];

/** A starter's template on an image. */
export const starterOn = ({ pool }: Starter, image: string): TemplateSpec => ({
  naming: '{customer}-{environment}{counter:2}',
  pools: [{ ...pool, image }],
  atATime: 5,
  failureLimit: 2,
});
