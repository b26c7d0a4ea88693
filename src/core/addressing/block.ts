import { ok, refuse, type Result } from '../result';

/** An aligned IPv4 block (RFC 4632): `base` is its first address as a number, `prefix` 0 to 32. */
export interface Block {
  readonly base: number;
  readonly prefix: number;
}

/**
 * Reads `10.20.0.0/16`. Refuses octets above 255 or with leading zeros, prefixes above 32, and a base that is not on
 * the block's boundary (RFC 4632 section 3.1).
 */
export function parseBlock(text: string): Result<Block> {
  const match = /^(\d{1,3})\.(\d{1,3})\.(\d{1,3})\.(\d{1,3})\/(\d{1,2})$/.exec(text.trim());
  if (!match) return refuse(`"${text}" is not a block: write it like 10.20.0.0/16`);
  const octets = match.slice(1, 5);
  if (octets.some((octet) => Number(octet) > 255 || (octet.length > 1 && octet.startsWith('0'))))
    return refuse(`"${text}" has a part that is not 0 to 255`);
  const prefix = Number(match[5]);
  if (prefix > 32) return refuse(`/${prefix} is longer than an address`);
  const base = octets.reduce((sum, octet) => sum * 256 + Number(octet), 0);
  const block = { base, prefix };
  if (base % sizeOf(block) !== 0)
    return refuse(`${text} is not aligned: its base is not a multiple of its size`);
  return ok(block);
}

export const writeAddress = (address: number): string =>
  [24, 16, 8, 0].map((shift) => Math.floor(address / 2 ** shift) % 256).join('.');

export const writeBlock = (block: Block): string => `${writeAddress(block.base)}/${block.prefix}`;

/** Addresses in the block, the reserved ones among them: 2^(32 - prefix). */
export const sizeOf = (block: Block): number => 2 ** (32 - block.prefix);

export const lastOf = (block: Block): number => block.base + sizeOf(block) - 1;

/** Whether every address of `inner` is in `outer`. */
export const contains = (outer: Block, inner: Block): boolean =>
  inner.base >= outer.base && lastOf(inner) <= lastOf(outer);

/** Whether two blocks share an address. */
export const overlaps = (a: Block, b: Block): boolean => a.base <= lastOf(b) && b.base <= lastOf(a);

/** RFC 1918 section 3. */
const PRIVATE: readonly Block[] = [
  { base: 0x0a000000, prefix: 8 },
  { base: 0xac100000, prefix: 12 },
  { base: 0xc0a80000, prefix: 16 },
];

export const isPrivate = (block: Block): boolean => PRIVATE.some((range) => contains(range, block));
