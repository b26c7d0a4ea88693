import { addressRows } from '../src/views/ground/address-rows';

const BLOCKS = 2_000;
const MOST_MS = 100;

/** Laying out the map of a /12 of which two thousand blocks are given, as the page does before it draws. */
export function addressBench(): void {
  const given = Array.from({ length: BLOCKS }, (_, n) => ({
    cidr: `10.${16 + Math.floor(n / 128)}.${(n % 128) * 2}.0/23`,
  }));
  const layOut = (): number => {
    const began = performance.now();
    const pieces = addressRows('10.16.0.0/12', given).reduce((sum, row) => sum + row.pieces.length, 0);
    if (pieces !== BLOCKS) throw new Error(`${pieces} of ${BLOCKS} blocks have a place`);
    return performance.now() - began;
  };
  layOut();
  const [, ms = Number.NaN] = [layOut(), layOut(), layOut()].sort((a, b) => a - b);
  console.log(
    `the address map of a /12 with ${BLOCKS} blocks, laid out: ${ms.toFixed(1)} ms (target under ${MOST_MS}) ${ms < MOST_MS ? 'met' : 'MISSED'}`,
  );
}
