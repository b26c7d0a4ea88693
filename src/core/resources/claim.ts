import type { Attributes } from '../intent';
import type { MachineSize } from '../machines';

/* What is scarce, and what resources take of it. Allocating, holding, beginning, preflight and the proof know no more of it. */

/** Where a value has to be the only one of its sort. Kinds may have spaces of their own beside these. */
export const SPACES = {
  name: 'name',
  address: 'address',
  subnet: 'subnet',
  network: 'network',
  ready: 'ready',
} as const;

/** What a resource takes of a node or a quota. */
export interface Room {
  /** Null: the site shows no nodes. */
  readonly node: string | null;
  readonly vcpu: number;
  readonly memoryGiB: number;
  readonly diskGiB: number;
}

/** Something scarce that a resource takes, so that no other has it. */
export type Claim =
  | {
      readonly takes: 'value';
      /** Like `name` or `subnet`. */
      readonly space: string;
      /** In what it has to be the only one, like a directory or a site; empty: everywhere. */
      readonly within: string;
      readonly value: string;
    }
  | (Room & {
      readonly takes: 'room';
      /** The family of its size; empty: of none. */
      readonly family: string;
      /** It was made of what stood already, and took its room there. */
      readonly stands?: true;
    })
  | {
      readonly takes: 'quota';
      /** What the site gives so much of in all, by the provider's name for it. */
      readonly of: string;
      readonly amount: number;
    };

export type ValueClaim = Extract<Claim, { readonly takes: 'value' }>;
export type RoomClaim = Extract<Claim, { readonly takes: 'room' }>;
export type QuotaClaim = Extract<Claim, { readonly takes: 'quota' }>;

/** Where something is claimed. */
export interface ClaimedAt {
  readonly realm: string;
  readonly site: string;
  readonly sizes: readonly MachineSize[];
}

interface Claiming {
  readonly name: string;
  readonly attributes: Attributes;
}

/** What a resource takes of what is scarce, by its kind. */
export const claimsOf = (
  kind: { claims?(one: Claiming, at: ClaimedAt): readonly Claim[] },
  one: Claiming,
  at: ClaimedAt,
): readonly Claim[] => kind.claims?.(one, at) ?? [];

/** A value that nobody else may have; nothing where there is none. */
export const onlyOne = (space: string, within: string, value: unknown): ValueClaim[] =>
  typeof value === 'string' && value !== '' ? [{ takes: 'value', space, within, value }] : [];

/** The room of a machine. */
export function roomOf(
  { node, size, diskGiB }: { readonly node: string | null; readonly size: string; readonly diskGiB: number },
  sizes: readonly MachineSize[],
): RoomClaim {
  const found = sizes.find((one) => one.key === size);
  return {
    takes: 'room',
    node,
    family: found?.family ?? '',
    vcpu: found?.vcpu ?? 0,
    memoryGiB: found?.memoryGiB ?? 0,
    diskGiB,
  };
}

export const valuesIn = (claims: readonly Claim[]): ValueClaim[] =>
  claims.filter((one) => one.takes === 'value');

export const roomIn = (claims: readonly Claim[]): RoomClaim | undefined =>
  claims.find((one) => one.takes === 'room');

/** The quota of vCPU, and that of a family of sizes within it. */
export const vcpuOf = (family = ''): string => (family === '' ? 'vCPU' : `vCPU of ${family}`);

/** What is taken of each quota: room is taken of the vCPU and of its family's, where the site has such quotas. */
export const quotasIn = (claims: readonly Claim[]): QuotaClaim[] =>
  claims.flatMap((one): QuotaClaim[] => {
    if (one.takes === 'quota') return [one];
    if (one.takes !== 'room') return [];
    const families = one.family === '' ? [''] : ['', one.family];
    return families.map((family) => ({ takes: 'quota', of: vcpuOf(family), amount: one.vcpu }));
  });
