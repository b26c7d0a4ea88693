import { schedule, type Task } from './schedule';

/** One thing that is worked on, in seconds from the beginning. */
export interface Bar {
  readonly name: string;
  readonly from: number;
  readonly to: number;
  /** Whether it is on the longest chain: what makes it longer makes the whole longer. */
  readonly isCritical: boolean;
}

/** All of one kind, in the order in which they begin. */
export interface Lane {
  readonly kind: string;
  readonly bars: readonly Bar[];
}

interface Timed extends Task {
  readonly kind: string;
  readonly subject: string;
  readonly resource?: string | null | undefined;
}

/**
 * When each thing of a proposal is worked on, kind by kind in the order in which they begin. The longest chain is that of
 * needs and of waiting for a free hand together: back from what ends last, each time to what ended as it began.
 * @param limit steps at a time, from 1
 */
export function timelineOf(
  steps: readonly Timed[],
  limit: number,
): { readonly lanes: Lane[]; readonly finish: number } {
  const scheduled = schedule(steps, limit);
  if (!scheduled.ok) return { lanes: [], finish: 0 };
  const { startOf, finish } = scheduled.value;
  const endOf = (step: Timed): number => (startOf.get(step.key) ?? 0) + step.seconds;
  const critical = new Set(chainTo(steps, startOf, endOf).map(({ key }) => key));
  const bars = new Map<string, { kind: string; bar: Bar }>();
  for (const step of steps) {
    const id = `${step.kind} ${step.resource ?? step.subject}`;
    const [from, to] = [startOf.get(step.key) ?? 0, endOf(step)];
    const before = bars.get(id)?.bar;
    bars.set(id, {
      kind: step.kind,
      bar: {
        name: before?.name ?? step.subject,
        from: Math.min(before?.from ?? from, from),
        to: Math.max(before?.to ?? to, to),
        isCritical: before?.isCritical === true || critical.has(step.key),
      },
    });
  }
  const all = [...bars.values()].sort((a, b) => a.bar.from - b.bar.from || a.bar.to - b.bar.to);
  const kinds = [...new Set(all.map(({ kind }) => kind))];
  return {
    finish,
    lanes: kinds.map((kind) => ({
      kind,
      bars: all.filter((one) => one.kind === kind).map(({ bar }) => bar),
    })),
  };
}

/** Back from the step that ends last: each time to one that ended just as it began. */
function chainTo(
  steps: readonly Timed[],
  startOf: ReadonlyMap<string, number>,
  endOf: (step: Timed) => number,
): Timed[] {
  const chain: Timed[] = [];
  let at = steps.reduce<Timed | undefined>(
    (last, step) => (last && endOf(last) >= endOf(step) ? last : step),
    undefined,
  );
  const byKey = new Map(steps.map((step) => [step.key, step]));
  const byEnd = new Map<number, Timed[]>();
  for (const step of steps) byEnd.set(endOf(step), [...(byEnd.get(endOf(step)) ?? []), step]);
  while (at) {
    chain.push(at);
    const begun = startOf.get(at.key) ?? 0;
    if (begun === 0) break;
    const needed = at.needs.flatMap((key) => byKey.get(key) ?? []).find((step) => endOf(step) === begun);
    const next: Timed | undefined = needed ?? byEnd.get(begun)?.find((step) => !chain.includes(step));
    at = next;
  }
  return chain;
}
