import { readDocument, type Fault, type Path } from '../../core/documents';
import type { TemplateInput } from '../../core/templates';
import { TERMS, type TermKey } from '../../core/terms';

type Raw = Readonly<Record<string, unknown>>;

/** A text as form and picture show it, whole or not: what is written, and what is usual where nothing is. */
export interface Shown {
  readonly at: (path: Path) => unknown;
  readonly inputs: readonly Raw[];
  readonly pools: readonly Raw[];
  /** What is wrong at a path. */
  readonly faultAt: (path: Path) => string | undefined;
}

const listAt = (value: unknown): readonly Raw[] =>
  Array.isArray(value) ? value.map((one: unknown) => (isRaw(one) ? one : {})) : [];

const isRaw = (value: unknown): value is Raw => typeof value === 'object' && value !== null;

/** Undefined: it is no YAML that a form could show. */
export function shownOf(text: string, faults: readonly Fault[]): Shown | undefined {
  const { value } = readDocument(text);
  if (!isRaw(value) || Array.isArray(value)) return undefined;
  const at = (path: Path): unknown =>
    path.reduce<unknown>(
      (here, key) => (isRaw(here) ? (here as Readonly<Record<string | number, unknown>>)[key] : undefined),
      value,
    );
  return {
    at,
    inputs: listAt(value.inputs),
    pools: listAt(value.pools),
    faultAt: (path) => faults.find((fault) => fault.path === path.join('.'))?.says,
  };
}

export const textOf = (value: unknown): string =>
  typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean' ? String(value) : '';

/** What is usual of a pool's term: where everyone has a host of their own there is one seat on it. */
export function usualOf(pool: Raw, term: TermKey): unknown {
  if (pool.kind === 'personal' && (term === 'mostSeats' || term === 'concurrency')) return 1;
  return TERMS[term].usual;
}

export function termOf(pool: Raw, term: TermKey): unknown {
  const value = pool[term] ?? usualOf(pool, term);
  return term === 'items' ? listAt(value).map((item) => ({ kind: 'app', ...item })) : value;
}

/** As it is written: of an item nothing that is so anyway. */
export const writtenTerm = (term: TermKey, value: unknown): unknown =>
  term === 'items'
    ? listAt(value).map(({ name, kind, ...more }) =>
        kind === 'app' ? { name, ...more } : { name, kind, ...more },
      )
    : value;

export const INPUT_SAYS: Readonly<Record<TemplateInput['type'], string>> = {
  count: 'a number',
  choice: 'one of several',
  yes: 'yes or no',
  group: 'one of their groups',
  text: 'free words',
};
