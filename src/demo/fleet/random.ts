/** Dice that fall the same way each time. */
export interface Random {
  /** From 0 up to 1. */
  next(): number;
  /** Around 0, two in three within 1 either way. */
  normal(): number;
  pick<One>(all: readonly One[]): One;
  weighted<One extends { readonly weight: number }>(all: readonly One[]): One;
}

/** A linear congruential generator (Knuth, MMIX): what it is used for needs no more. */
export function random(seed: number): Random {
  let state = BigInt(seed);
  const next = (): number => {
    state = BigInt.asUintN(64, state * 6_364_136_223_846_793_005n + 1_442_695_040_888_963_407n);
    return Number(state >> 11n) / 2 ** 53;
  };
  const chosen = <One>(one: One | undefined): One => {
    if (one === undefined) throw new Error('there is nothing to choose from');
    return one;
  };
  return {
    next,
    // Box and Muller.
    normal: () => Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next()),
    pick: (all) => chosen(all[Math.floor(next() * all.length)]),
    weighted: (all) => {
      let at = next() * all.reduce((sum, one) => sum + one.weight, 0);
      return chosen(all.find((one) => (at -= one.weight) < 0) ?? all.at(-1));
    },
  };
}
