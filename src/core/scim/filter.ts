import { parse, type Compare, type Filter } from 'scim2-parse-filter';
import { identity } from '../text';
import { namesOf } from './names';
import { ScimRefusal } from './resource';

/** Whether a resource is one that was asked for. */
export type ScimFilter = (resource: object) => boolean;

/** Longer ones are nobody's question. */
const MOST_CHARACTERS = 2_000;
/** Compared to the letter (RFC 7643, section 3.1: `caseExact` is true). */
const EXACT = new Set(['id', 'externalid']);

/**
 * A filter of SCIM (RFC 7644, section 3.4.2.2). Names of attributes are the same whatever their case, and so are values but
 * those of `id` and `externalId`.
 * @throws ScimRefusal 400 `invalidFilter`
 * @example
 * filterOf('userName eq "BJensen"')({ userName: 'bjensen' }) // true
 */
export function filterOf(expression: string): ScimFilter {
  if (expression.length > MOST_CHARACTERS) throw refused('it is too long');
  let parsed: Filter;
  try {
    parsed = parse(expression);
  } catch (error) {
    throw refused(error instanceof Error ? error.message : 'it cannot be read');
  }
  return (resource) => matches(parsed, resource);
}

const refused = (why: string): ScimRefusal =>
  new ScimRefusal(400, `The filter is not understood: ${why}.`, 'invalidFilter');

function matches(one: Filter, resource: unknown): boolean {
  switch (one.op) {
    case 'and':
      return one.filters.every((part) => matches(part, resource));
    case 'or':
      return one.filters.some((part) => matches(part, resource));
    case 'not':
      return !matches(one.filter, resource);
    case '[]':
      // One and the same value has to fulfil all of it.
      return valuesAt(resource, one.attrPath).some((value) => matches(one.valFilter, value));
    case 'pr':
      return valuesAt(resource, one.attrPath).some(isThere);
    case 'ne':
      return !matches({ ...one, op: 'eq' }, resource);
    default:
      return valuesAt(resource, one.attrPath).some((value) => compares(one, plainOf(value)));
  }
}

/** What stands at a path: each of several values by itself. */
function valuesAt(resource: unknown, path: string): unknown[] {
  let values: unknown[] = [resource];
  for (const name of namesOf(path).map((one) => one.toLowerCase()))
    values = values.flatMap((value) => {
      if (typeof value !== 'object' || value === null) return [];
      const found = Object.entries(value).find(([key]) => key.toLowerCase() === name)?.[1] as unknown;
      return found === undefined ? [] : Array.isArray(found) ? (found as unknown[]) : [found];
    });
  return values;
}

/** A value that is made of several is compared by its `value` (RFC 7643, section 2.4). */
const plainOf = (value: unknown): unknown =>
  typeof value === 'object' && value !== null && 'value' in value ? value.value : value;

const isThere = (value: unknown): boolean =>
  value !== null && value !== '' && !(typeof value === 'object' && Object.keys(value).length === 0);

function compares({ op, attrPath, compValue }: Compare, value: unknown): boolean {
  if (typeof compValue !== 'string' || typeof value !== 'string') return comparesPlain(op, value, compValue);
  const dates = [Date.parse(value), Date.parse(compValue)] as const;
  if (ISO.test(value) && ISO.test(compValue)) return comparesPlain(op, ...dates);
  const fold = (text: string): string => (EXACT.has(attrPath.toLowerCase()) ? text : identity(text));
  const [is, sought] = [fold(value), fold(compValue)];
  if (op === 'co') return is.includes(sought);
  if (op === 'sw') return is.startsWith(sought);
  if (op === 'ew') return is.endsWith(sought);
  return comparesPlain(op, is, sought);
}

const ISO = /^\d{4}-\d\d-\d\dT/;

function comparesPlain(op: Compare['op'], is: unknown, sought: unknown): boolean {
  if (op === 'eq') return is === sought;
  if (typeof is === 'string' && typeof sought === 'string') return ordered(op, is < sought, is > sought);
  if (typeof is === 'number' && typeof sought === 'number') return ordered(op, is < sought, is > sought);
  return false;
}

function ordered(op: Compare['op'], isLess: boolean, isMore: boolean): boolean {
  if (op === 'gt') return isMore;
  if (op === 'ge') return !isLess;
  if (op === 'lt') return isLess;
  return op === 'le' && !isMore;
}
