import { contains, overlaps, parseBlock, sizeOf, writeBlock, type Block } from '../../core/addressing';

/** Where something lies in a row: both as parts of it. */
export interface Piece<Entry> {
  readonly entry: Entry;
  readonly from: number;
  readonly part: number;
}

export interface AddressRow<Entry> {
  readonly cidr: string;
  /** How many rows it stands for: those after it in which nothing lies are folded into it. */
  readonly rows: number;
  readonly pieces: readonly Piece<Entry>[];
}

const ROW_BITS = 4;

/**
 * A range as rows that are read like a page: sixteen aligned blocks, one a row, with what lies in each. Aligned blocks
 * are within one row or fill some, so that nothing is cut in two. Rows in which nothing lies are folded.
 * @param entries what cannot be read as a block is left out
 */
export function addressRows<Entry extends { readonly cidr: string }>(
  range: string,
  entries: readonly Entry[],
): AddressRow<Entry>[] {
  const whole = parseBlock(range);
  if (!whole.ok) return [];
  const prefix = Math.min(32, whole.value.prefix + ROW_BITS);
  const rows = rowsOf(whole.value, prefix).map((row) => ({ row, pieces: [] as Piece<Entry>[] }));
  const size = sizeOf({ base: 0, prefix });
  for (const entry of entries) {
    const block = parseBlock(entry.cidr);
    if (!block.ok || !overlaps(whole.value, block.value)) continue;
    const first = Math.max(0, Math.floor((block.value.base - whole.value.base) / size));
    for (let n = first; n < rows.length; n++) {
      const at = rows[n];
      if (!at || !overlaps(at.row, block.value)) break;
      const isPart = contains(at.row, block.value);
      at.pieces.push({
        entry,
        from: isPart ? (block.value.base - at.row.base) / size : 0,
        part: isPart ? sizeOf(block.value) / size : 1,
      });
    }
  }
  return rows.reduce<AddressRow<Entry>[]>((folded, { row, pieces }) => {
    const last = folded.at(-1);
    if (last?.pieces.length === 0 && pieces.length === 0)
      return [...folded.slice(0, -1), { ...last, rows: last.rows + 1 }];
    return [...folded, { cidr: writeBlock(row), rows: 1, pieces }];
  }, []);
}

const rowsOf = (range: Block, prefix: number): Block[] =>
  Array.from({ length: 2 ** (prefix - range.prefix) }, (_, n) => ({
    base: range.base + n * sizeOf({ base: 0, prefix }),
    prefix,
  }));

/** Where a block lies in a range, both as parts of the range; undefined when it is not within it. */
export function placeIn(range: string, cidr: string): { from: number; part: number } | undefined {
  const [whole, block] = [parseBlock(range), parseBlock(cidr)];
  if (!whole.ok || !block.ok || !contains(whole.value, block.value)) return undefined;
  return {
    from: (block.value.base - whole.value.base) / sizeOf(whole.value),
    part: sizeOf(block.value) / sizeOf(whole.value),
  };
}
