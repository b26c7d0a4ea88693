/** Whether a deliberate error in the core is being tried, one of thousands. */
export const isMutant = process.env.LAAGER_MUTANTS !== undefined;

/** How many cases a property is held against: fewer where thousands of deliberate errors are tried one after the other. */
export const runs = (cases: number): number => (isMutant ? Math.ceil(cases / 20) : cases);
