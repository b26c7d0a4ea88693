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
