import { describe, expect, it } from 'vitest';
import { addressRows, placeIn } from '../../src/views/ground/address-rows';

const entry = (cidr: string) => ({ cidr });

describe('a range drawn as rows', () => {
  it('has each block where it lies, and folds what is free', () => {
    const rows = addressRows('10.16.0.0/12', [entry('10.16.16.0/20'), entry('10.18.0.0/17')]);
    expect(rows.map(({ cidr, rows: many }) => [cidr, many])).toEqual([
      ['10.16.0.0/16', 1],
      ['10.17.0.0/16', 1],
      ['10.18.0.0/16', 1],
      ['10.19.0.0/16', 13],
    ]);
    expect(rows[0]?.pieces).toEqual([{ entry: entry('10.16.16.0/20'), from: 1 / 16, part: 1 / 16 }]);
    expect(rows[2]?.pieces).toEqual([{ entry: entry('10.18.0.0/17'), from: 0, part: 1 / 2 }]);
  });

  it('fills each row that a larger block holds', () => {
    const rows = addressRows('10.0.0.0/8', [entry('10.32.0.0/11')]);
    expect(rows.map(({ cidr, pieces }) => [cidr, pieces.length])).toEqual([
      ['10.0.0.0/12', 0],
      ['10.32.0.0/12', 1],
      ['10.48.0.0/12', 1],
      ['10.64.0.0/12', 0],
    ]);
    const all = addressRows('10.0.0.0/8', [entry('10.0.0.0/8')]);
    expect(all).toHaveLength(16);
    expect(all.every(({ pieces: [piece] }) => piece?.part === 1)).toBe(true);
  });

  it('is a single row of a single address, and nothing of what cannot be read', () => {
    expect(addressRows('10.0.0.1/32', [entry('10.0.0.1/32')])).toHaveLength(1);
    expect(addressRows('10.0.0.0/30', [entry('nothing')]).map((row) => row.rows)).toEqual([4]);
    expect(addressRows('nothing', [entry('10.0.0.0/8')])).toEqual([]);
  });

  it('draws two thousand blocks of a range in rows, none lost', () => {
    const blocks = Array.from({ length: 2_000 }, (_, n) =>
      entry(`10.${16 + Math.floor(n / 256)}.${n % 256}.0/24`),
    );
    const pieces = addressRows('10.16.0.0/12', blocks).flatMap((row) => row.pieces);
    expect(new Set(pieces.map((piece) => piece.entry.cidr)).size).toBe(2_000);
  });

  it('tells where a block lies in its range', () => {
    expect(placeIn('10.16.0.0/12', '10.24.0.0/13')).toEqual({ from: 0.5, part: 0.5 });
    expect(placeIn('10.16.0.0/12', '10.64.0.0/16')).toBeUndefined();
  });
});
