import type { ScimPatchOperation } from 'scim-patch';

/** Whoever is in a group, by their id; what else is said of them is kept. */
interface Member {
  readonly value: string;
}

const isMember = (one: unknown): one is Member =>
  typeof one === 'object' && one !== null && 'value' in one && typeof one.value === 'string';

/**
 * A group's members after an operation that adds or removes some, in the time that it takes to read them: the general way
 * compares each with each.
 * @returns undefined for an operation that is about anything else
 */
export function membersAfter(
  before: readonly unknown[],
  operation: ScimPatchOperation,
): unknown[] | undefined {
  const op = operation.op.toLowerCase();
  const { path } = operation;
  const value: unknown = operation.value;
  const one = /^members\[value eq "([^"\\]+)"\]$/.exec(path ?? '')?.[1];
  if (op === 'remove' && one !== undefined) return without(before, new Set([one]));
  if (path !== 'members') return undefined;
  const given: unknown[] = Array.isArray(value) ? value : [value];
  if (!given.every(isMember)) return undefined;
  if (op === 'add') return [...byValue([...before, ...given]).values()];
  if (op === 'replace') return [...byValue(given).values()];
  return value === undefined ? undefined : without(before, new Set(given.map((member) => member.value)));
}

const without = (members: readonly unknown[], gone: ReadonlySet<string>): unknown[] =>
  members.filter((member) => !isMember(member) || !gone.has(member.value));

/** Each once; who is named again stays as they were. */
function byValue(members: readonly unknown[]): Map<unknown, unknown> {
  const found = new Map<unknown, unknown>();
  for (const member of members) {
    const key = isMember(member) ? member.value : member;
    if (!found.has(key)) found.set(key, member);
  }
  return found;
}
