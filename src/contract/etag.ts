import { hash } from 'ohash';

/** The entity tag of stored values, without its quotes (RFC 9110, section 8.8.3): the same for the same values, in whatever order of keys. */
export const etagOf = (value: unknown): string => hash(JSON.parse(JSON.stringify(value ?? null)) as unknown);
