/** What was reached, each with what it was reached through first; null: it was there from the beginning. */
export type Reached = ReadonlyMap<string, string | null>;

/**
 * All that can be reached from some, step by step and the nearest first; a circle is gone round once.
 * @param next where one leads
 * @example
 * reached(['a'], (one) => ({ a: ['b'], b: ['a'] })[one] ?? []) // Map { 'a' => null, 'b' => 'a' }
 */
export function reached(from: Iterable<string>, next: (one: string) => Iterable<string>): Reached {
  const found = new Map<string, string | null>();
  for (const one of from) found.set(one, null);
  // A map goes on with what is added to it on the way.
  for (const one of found.keys()) for (const far of next(one)) if (!found.has(far)) found.set(far, one);
  return found;
}

/** The way by which something was reached, from where it began to itself; empty: it was not reached. */
export function wayTo(found: Reached, one: string): string[] {
  const way: string[] = [];
  for (
    let at: string | null | undefined = found.has(one) ? one : undefined;
    at !== undefined && at !== null;
    at = found.get(at)
  )
    way.unshift(at);
  return way;
}
