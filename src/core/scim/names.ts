import { ENTERPRISE_USER, GROUP, PLACE, USER } from './resource';

/** Attributes of RFC 7643 that are read here, as they are written. Their names are the same whatever their case (2.1). */
const NAMES = [
  'schemas id externalId userName name givenName familyName formatted emails active displayName members value type primary',
  'display $ref unit department meta',
].flatMap((some) => some.split(' '));
const WRITTEN = new Map([...NAMES, ENTERPRISE_USER, PLACE].map((name) => [name.toLowerCase(), name]));

const writtenAs = (name: string): string => WRITTEN.get(name.toLowerCase()) ?? name;

/** The path of an attribute as names: `urn:…:User:name.givenName` is `name` and `givenName`; an extension is one name. */
export function namesOf(path: string): string[] {
  const lowered = path.toLowerCase();
  for (const schema of [USER, GROUP])
    if (lowered.startsWith(`${schema.toLowerCase()}:`)) return namesOf(path.slice(schema.length + 1));
  for (const schema of [ENTERPRISE_USER, PLACE]) {
    if (lowered === schema.toLowerCase()) return [schema];
    if (lowered.startsWith(`${schema.toLowerCase()}:`))
      return [schema, ...namesOf(path.slice(schema.length + 1))];
  }
  return path.split('.').map(writtenAs);
}

/** A resource or a part of one, with the names of its attributes as they are written. The depth is bounded before. */
export function written(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(written);
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([name, inner]) => [pathAsWritten(name), written(inner)]),
  );
}

/** A path with the names of its attributes as they are written; what stands in a filter's quotes stays. */
export const pathAsWritten = (path: string): string => {
  const [known] = namesOf(path);
  if (known === ENTERPRISE_USER || known === PLACE) {
    const [schema, ...rest] = namesOf(path);
    return rest.length === 0 ? String(schema) : `${schema}:${rest.join('.')}`;
  }
  return path
    .split(/("(?:[^"\\]|\\.)*")/)
    .map((part, n) => (n % 2 === 1 ? part : part.replace(/(?<![\w:])[A-Za-z$][\w-]*(?![\w:])/g, writtenAs)))
    .join('');
};
