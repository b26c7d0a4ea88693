import { ok, refuse, type Result } from '../result';
import { contains, overlaps, sizeOf, writeBlock, type Block } from './block';

/** The longest prefix whose block holds `addresses` addresses: 32 for 1, 24 for 200. */
export function prefixFor(addresses: number): number {
  return 32 - Math.ceil(Math.log2(Math.max(1, addresses)));
}

/**
 * What is free of a range: the fewest aligned blocks that cover exactly the addresses no taken block holds, in order of
 * address. Taken blocks outside the range do not matter.
 */
export function freeBlocks(range: Block, taken: readonly Block[]): Block[] {
  const inside = taken.filter((block) => overlaps(range, block));
  if (inside.length === 0) return [range];
  if (inside.some((block) => contains(block, range))) return [];
  const prefix = range.prefix + 1;
  const lower = { base: range.base, prefix };
  const upper = { base: range.base + sizeOf(lower), prefix };
  return [...freeBlocks(lower, inside), ...freeBlocks(upper, inside)];
}

/**
 * Best fit: the first aligned block of the wanted prefix inside the smallest free block that holds it, the lowest
 * address first, so that large free blocks stay whole. Undefined when none is large enough.
 */
export function bestFit(
  ranges: readonly Block[],
  taken: readonly Block[],
  prefix: number,
): Block | undefined {
  const fitting = ranges
    .flatMap((range) => freeBlocks(range, taken))
    .filter((block) => block.prefix <= prefix)
    .sort((a, b) => b.prefix - a.prefix || a.base - b.base);
  const [smallest] = fitting;
  return smallest && { base: smallest.base, prefix };
}

/**
 * A block made larger where it lies: the aligned block of twice its size that holds it (RFC 4632 section 3.1).
 * Refuses where the other half is not in the range, or any of it is taken.
 * @param taken blocks of others
 */
export function growBlock(block: Block, range: Block, taken: readonly Block[]): Result<Block> {
  const prefix = block.prefix - 1;
  const base = Math.floor(block.base / sizeOf({ base: 0, prefix })) * sizeOf({ base: 0, prefix });
  const grown = { base, prefix };
  if (prefix < 0 || !contains(range, grown))
    return refuse(`${writeBlock(block)} cannot grow: ${writeBlock(range)} ends there`);
  const other = taken.find((one) => overlaps(one, grown));
  if (other) return refuse(`${writeBlock(other)} is in the way of ${writeBlock(grown)}`);
  return ok(grown);
}

/** What of a range is taken and what is left. */
export interface SpaceLeft {
  /** Addresses. */
  readonly total: number;
  readonly taken: number;
  /** The largest free block; undefined when nothing is free. */
  readonly largest: Block | undefined;
  /** 0 to 1, see `fragmentation`. */
  readonly fragmentation: number;
}

/** @param taken blocks that do not overlap each other; those outside the range do not matter */
export function spaceLeft(range: Block, taken: readonly Block[]): SpaceLeft {
  const free = freeBlocks(range, taken);
  const total = sizeOf(range);
  return {
    total,
    taken: total - free.reduce((sum, block) => sum + sizeOf(block), 0),
    largest: free.reduce<Block | undefined>(
      (largest, block) => (largest && sizeOf(largest) >= sizeOf(block) ? largest : block),
      undefined,
    ),
    fragmentation: fragmentation(free),
  };
}

/** How scattered free space is: 0 when it is one block, towards 1 when the largest block is a small part of it. */
export function fragmentation(free: readonly Block[]): number {
  if (free.length === 0) return 0;
  const sizes = free.map(sizeOf);
  return 1 - Math.max(...sizes) / sizes.reduce((a, b) => a + b, 0);
}
