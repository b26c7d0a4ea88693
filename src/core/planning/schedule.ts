import { refuse, ok, type Result } from '../result';

/** What scheduling needs to know of a step. */
export interface Task {
  readonly key: string;
  readonly needs: readonly string[];
  readonly seconds: number;
}

export interface Schedule {
  /** Seconds from the beginning until the last task ends, with no more than `limit` at a time. */
  readonly finish: number;
  readonly startOf: ReadonlyMap<string, number>;
  /** Seconds from each task's start to the end of the longest chain behind it: the longest comes first. */
  readonly tailOf: ReadonlyMap<string, number>;
  /** The longest chain of needs, in order: with no limit, its length is the finish time (critical path method). */
  readonly critical: readonly string[];
  readonly criticalSeconds: number;
}

interface Place<T extends Task> {
  readonly task: T;
  readonly next: Place<T>[];
  needsLeft: number;
  /** Seconds from this task's start to the end of the longest chain that begins with it. */
  tail: number;
}

/**
 * When each task begins and when all are done. Tasks that are free to begin are taken in order of the longest chain
 * behind them (list scheduling), `limit` at a time.
 * Refuses a need that is not among the tasks, needs that go in a circle, a task without a length, and less than one at a time.
 * @param limit tasks at a time, from 1
 */
export function schedule<T extends Task>(tasks: readonly T[], limit: number): Result<Schedule> {
  if (!Number.isInteger(limit) || limit < 1) return refuse('at least one step at a time');
  const endless = tasks.find((task) => !(task.seconds >= 0 && Number.isFinite(task.seconds)));
  if (endless) return refuse(`${endless.key} has no length`);
  const linked = link(tasks);
  if (!linked.ok) return linked;
  const order = inOrder(linked.value);
  if (order.length < tasks.length) return refuse('steps need each other in a circle');
  for (const place of [...order].reverse())
    place.tail = place.task.seconds + Math.max(0, ...place.next.map((next) => next.tail));
  const critical = criticalPath(order);
  const { finish, startOf } = simulate(order, limit);
  return ok({
    finish,
    startOf,
    tailOf: new Map(order.map((place) => [place.task.key, place.tail])),
    critical: critical.map((place) => place.task.key),
    criticalSeconds: critical[0]?.tail ?? 0,
  });
}

function link<T extends Task>(tasks: readonly T[]): Result<Place<T>[]> {
  const places = new Map(
    tasks.map((task): [string, Place<T>] => [
      task.key,
      { task, next: [], needsLeft: task.needs.length, tail: 0 },
    ]),
  );
  for (const place of places.values())
    for (const need of place.task.needs) {
      const earlier = places.get(need);
      if (!earlier) return refuse(`${place.task.key} needs ${need}, which is not there`);
      earlier.next.push(place);
    }
  return ok([...places.values()]);
}

function inOrder<T extends Task>(places: readonly Place<T>[]): Place<T>[] {
  const left = new Map(places.map((place) => [place, place.needsLeft]));
  const order = places.filter((place) => place.needsLeft === 0);
  for (const place of order)
    for (const next of place.next) {
      const needs = (left.get(next) ?? 0) - 1;
      left.set(next, needs);
      if (needs === 0) order.push(next);
    }
  return order;
}

function criticalPath<T extends Task>(order: readonly Place<T>[]): Place<T>[] {
  const longest = (places: readonly Place<T>[]): Place<T> | undefined =>
    places.reduce<Place<T> | undefined>(
      (best, place) => (best && best.tail >= place.tail ? best : place),
      undefined,
    );
  const path: Place<T>[] = [];
  for (let at = longest(order.filter((place) => place.needsLeft === 0)); at; at = longest(at.next))
    path.push(at);
  return path;
}

function simulate<T extends Task>(
  order: readonly Place<T>[],
  limit: number,
): Pick<Schedule, 'finish' | 'startOf'> {
  const startOf = new Map<string, number>();
  const needsLeft = new Map(order.map((place) => [place, place.needsLeft]));
  const free = order.filter((place) => place.needsLeft === 0).sort(shortestTailFirst);
  const working: { place: Place<T>; end: number }[] = [];
  let now = 0;
  while (free.length > 0 || working.length > 0) {
    while (free.length > 0 && working.length < limit) {
      const place = free.pop();
      if (!place) break;
      startOf.set(place.task.key, now);
      working.push({ place, end: now + place.task.seconds });
    }
    now = Math.min(...working.map((one) => one.end));
    for (let i = working.length - 1; i >= 0; i--) {
      const one = working[i];
      if (!one || one.end > now) continue;
      working.splice(i, 1);
      for (const next of one.place.next) {
        const needs = (needsLeft.get(next) ?? 0) - 1;
        needsLeft.set(next, needs);
        if (needs === 0) insert(free, next);
      }
    }
  }
  return { finish: now, startOf };
}

const shortestTailFirst = <T extends Task>(a: Place<T>, b: Place<T>): number => a.tail - b.tail;

/** Keeps `free` sorted by tail, the longest last; among equals the earlier comes out first. */
function insert<T extends Task>(free: Place<T>[], place: Place<T>): void {
  let low = 0;
  let high = free.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((free[middle]?.tail ?? 0) < place.tail) low = middle + 1;
    else high = middle;
  }
  free.splice(low, 0, place);
}
