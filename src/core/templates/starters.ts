import type { PoolDocument, TemplateDocument } from './spec';
import { TERM_KEYS, TERMS, type PoolSpec, type TermKey } from '../terms';

/** A template to begin with: all of it but the image, which is the provider's. */
export interface Starter {
  readonly code: string;
  readonly name: string;
  readonly says: string;
  readonly pool: Partial<PoolSpec>;
}

/** What an MSP without templates may begin with; the figures are common practice, no source. */
export const STARTERS: readonly Starter[] = [
  {
    code: 'shared-office',
    name: 'Shared office',
    says: 'One shared pool of desktops for office work, with profiles on a share',
    pool: {},
  },
  {
    code: 'heavy-work',
    name: 'Heavy work',
    says: 'One shared pool of strong hosts with few people on each',
    pool: { profile: 'heavy', mostSeats: 6, diskGiB: 256, shareGiBPerPerson: 20 },
  },
  {
    code: 'own-desks',
    name: 'Own desks',
    says: 'A host for each person, of nobody else',
    pool: {
      kind: 'personal',
      concurrency: 1,
      mostSeats: 1,
      ownDiskGiB: 64,
      shareGiBPerPerson: 2,
      may: ['start', 'restart', 'sleep'],
    },
  },
];

/** A pool of which only this much is otherwise than usual. */
export function usualPool(
  role: string,
  image: string,
  otherwise: { readonly [Key in TermKey]?: PoolDocument[Key] } = {},
): PoolDocument {
  const usual = Object.fromEntries(TERM_KEYS.map((term) => [term, TERMS[term].usual]));
  return { ...usual, people: '=people', ...otherwise, role, image } as PoolDocument;
}

/** A starter's template on an image. */
export const starterOn = ({ name, says, pool }: Starter, image: string): TemplateDocument => ({
  name,
  says,
  called: 'office',
  naming: '{customer}-{environment}{counter:2}',
  tags: {},
  features: [],
  inputs: [],
  pools: [usualPool('desks', image, pool)],
  atATime: 5,
  failureLimit: 2,
});
