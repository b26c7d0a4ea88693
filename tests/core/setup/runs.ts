/** How many cases a property is held against: fewer where thousands of deliberate errors are tried one after the other. */
export const runs = (cases: number): number =>
  process.env.LAAGER_MUTANTS === undefined ? cases : Math.ceil(cases / 20);
