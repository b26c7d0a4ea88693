import type { CustomerSummary, Watch } from '../../contract';
import { count } from '../../client/format';

/** Something that someone should look at, in words, and where. */
export interface Look {
  readonly href: string;
  readonly says: string;
  /** How soon: the more, the sooner. */
  readonly weight: number;
  /** Whose it is; undefined: no one customer's. */
  readonly customer?: CustomerSummary | undefined;
}

/** All that needs a look, what presses most first. */
export function looksOf({ customers, runs, attention }: Watch): Look[] {
  const byCode = new Map(customers.map((one) => [one.code, one]));
  const looks = [
    ...attention.map((one): Look => ({ href: '/ground', says: one.says, weight: 1_000 })),
    ...runs
      .filter((run) => run.state === 'stopped')
      .map((run): Look => ({
        href: `/customers/${run.customer}/runs/${run.id}`,
        says: `${run.title}: stopped, ${run.cause === 'by hand' ? 'by hand' : count(run.failed, 'step failed', 'steps failed')}`,
        weight: run.cause === 'by hand' ? 20 : 100,
        customer: byCode.get(run.customer),
      })),
    ...customers.flatMap((customer) =>
      customer.attention.map((one): Look => ({
        href: one.kind === 'approval' ? `/customers/${customer.code}/runs` : `/customers/${customer.code}`,
        says: one.says,
        weight: one.kind === 'drift' ? 30 + hardship(customer) : one.kind === 'approval' ? 25 : 10,
        customer,
      })),
    ),
  ];
  return looks.sort((a, b) => b.weight - a.weight);
}

/** Of its hosts, the part that cannot be used though it should, from 0 to 60. */
function hardship({ arcs, hosts }: CustomerSummary): number {
  const bad = arcs.filter((arc) => arc.status === 'unwell' || arc.status === 'missing');
  return hosts === 0 ? 0 : (60 * bad.reduce((sum, arc) => sum + arc.hosts, 0)) / hosts;
}

/** One customer with all that it needs, or something that is no one customer's. */
export interface Need {
  readonly key: string;
  readonly customer: CustomerSummary | undefined;
  readonly looks: readonly Look[];
}

/** What needs a look, by customer; who needs it most comes first. */
export function needsOf(watch: Watch): Need[] {
  const needs = new Map<string, { customer: CustomerSummary | undefined; looks: Look[] }>();
  for (const look of looksOf(watch)) {
    const key = look.customer?.code ?? look.says;
    const known = needs.get(key);
    if (known) known.looks.push(look);
    else needs.set(key, { customer: look.customer, looks: [look] });
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
