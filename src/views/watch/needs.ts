import type { CustomerSummary, Look, Watch } from '../../contract';

/** Those that nobody has put off, and those that somebody has. */
export function apart(looks: readonly Look[]): {
  readonly open: readonly Look[];
  readonly off: readonly Look[];
} {
  const isOff = (look: Look): boolean => look.mark?.state === 'put off';
  return { open: looks.filter((one) => !isOff(one)), off: looks.filter(isOff) };
}

/** One customer with all that it needs, or something that is no one customer's. */
export interface Need {
  readonly key: string;
  readonly customer: CustomerSummary | undefined;
  readonly looks: readonly Look[];
}

/** What needs a look, by customer; who is hit most comes first. What was put off needs none. */
export function needsOf({ looks, customers }: Pick<Watch, 'looks' | 'customers'>): Need[] {
  const byCode = new Map(customers.map((one) => [one.code, one]));
  const needs = new Map<string, { customer: CustomerSummary | undefined; looks: Look[] }>();
  for (const look of apart(looks).open) {
    const key = look.customer ?? look.key;
    const known = needs.get(key);
    if (known) known.looks.push(look);
    else
      needs.set(key, {
        customer: look.customer === null ? undefined : byCode.get(look.customer),
        looks: [look],
      });
  }
  return [...needs].map(([key, need]) => ({ key, ...need }));
}

/**
 * What was shown stays where it was as long as it is there, and what is new comes after it: nothing moves away under the
 * pointer. @param before the keys as they were shown
 */
export function steady<One>(
  before: readonly string[],
  now: readonly One[],
  keyOf: (one: One) => string,
): One[] {
  const place = new Map(before.map((key, at) => [key, at]));
  const at = (one: One): number => place.get(keyOf(one)) ?? before.length;
  return [...now].sort((a, b) => at(a) - at(b));
}
