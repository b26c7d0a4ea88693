import type { Step } from '../../contract';

export interface PlacedStep {
  readonly step: Step;
  readonly column: number;
  readonly row: number;
}

export interface Rows {
  readonly placed: readonly PlacedStep[];
  /** What each row is about, in order. */
  readonly subjects: readonly string[];
  readonly columns: number;
}

/** What a step needs, without what one of those needs by itself: the ties that are drawn. */
export function tiesOf(steps: readonly Step[]): ReadonlyMap<string, readonly string[]> {
  const byId = new Map(steps.map((step) => [step.id, step]));
  const before = new Map<string, Set<string>>();
  const allBefore = (step: Step): Set<string> => {
    const known = before.get(step.id);
    if (known) return known;
    const own = new Set<string>();
    before.set(step.id, own);
    for (const need of step.needs) {
      own.add(need);
      const needed = byId.get(need);
      if (needed) for (const further of allBefore(needed)) own.add(further);
    }
    return own;
  };
  return new Map(
    steps.map((step) => {
      const implied = new Set(
        step.needs.flatMap((need) => {
          const needed = byId.get(need);
          return needed ? [...allBefore(needed)] : [];
        }),
      );
      return [step.id, step.needs.filter((need) => !implied.has(need))];
    }),
  );
}

/** Puts steps into rows by subject and columns by the longest chain of needs before them. */
export function placesOf(steps: readonly Step[]): Rows {
  const depth = new Map<string, number>();
  const byId = new Map(steps.map((step) => [step.id, step]));
  const depthOf = (step: Step): number => {
    const known = depth.get(step.id);
    if (known !== undefined) return known;
    const needs = step.needs.flatMap((need) => byId.get(need) ?? []);
    const own = needs.length === 0 ? 0 : 1 + Math.max(...needs.map(depthOf));
    depth.set(step.id, own);
    return own;
  };
  const rowOf = (step: Step): string => `${step.kind} ${step.subject}`;
  const subjects = new Map(steps.map((step) => [rowOf(step), step.subject]));
  const rows = [...subjects.keys()];
  const used = new Set<string>();
  const placed = steps.map((step) => {
    const row = rows.indexOf(rowOf(step));
    let column = depthOf(step);
    while (used.has(`${row} ${column}`)) column++;
    used.add(`${row} ${column}`);
    return { step, row, column };
  });
  return {
    placed,
    subjects: [...subjects.values()],
    columns: 1 + Math.max(0, ...placed.map((one) => one.column)),
  };
}
