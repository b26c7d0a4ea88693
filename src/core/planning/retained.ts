import { keptDesktopsOf, keptDisksOf, keptUntil } from '../desktops';
import type { Facts } from '../facts';
import type { ResourceKind } from '../resources';
import type { PlannedTask, RetainedUntil } from './tasks';

/**
 * What holds people's data is retained as long as the plan promises: from now, or from when its person left or its disk was
 * put aside. Nothing is, where the plan promises no day or nobody ever had anything to do with the environment.
 */
export function retainedUntilOf(
  kindOf: (key: string) => ResourceKind,
  { now, customer, environment, served }: Pick<Facts, 'now' | 'customer' | 'environment' | 'served'>,
): RetainedUntil {
  if (!environment || customer.plan.retentionDays === 0 || served !== true) return () => undefined;
  const { intent } = environment;
  const promised = new Map([
    ...keptDisksOf(intent).map(({ key, until }) => [key, until] as const),
    ...keptDesktopsOf(intent, customer.plan).map(({ disk, until }) => [disk, until] as const),
  ]);
  const usual = keptUntil(now, customer.plan);
  return ({ kind, key, attributes }) =>
    (kindOf(kind).holdsData?.(attributes) ?? []).length === 0 ? undefined : (promised.get(key) ?? usual);
}

/** Removes what is retained, where it is named. It has a key of its own: what it had may be another's by now. */
export function dropTasks(
  kindOf: (key: string) => ResourceKind,
  facts: Pick<Facts, 'retained'>,
  ids: readonly string[],
): PlannedTask[] {
  if (ids.length === 0) return [];
  const named = new Set(ids);
  return (facts.retained ?? [])
    .filter(({ id }) => named.has(id))
    .map((one): PlannedTask => ({
      key: `retained:${one.id}`,
      kind: kindOf(one.kind),
      name: one.name,
      task: { do: 'remove', people: 0 },
      needs: [],
      retained: one,
    }));
}
