import { isMap, LineCounter, parseDocument, type Document, type Node } from 'yaml';

/** What is wrong with a document, at its line and column, each from 1. */
export interface Fault {
  readonly line: number;
  readonly column: number;
  /** Where in the document, like `steps.2.run`; empty: the whole. */
  readonly path: string;
  readonly says: string;
}

export type Path = readonly (string | number)[];

export interface ReadDocument {
  /** Undefined where it is no YAML at all. */
  readonly value: unknown;
  readonly faults: readonly Fault[];
  /** A fault of what lies at a path; of what is missing, where it would have to be. */
  readonly faultAt: (path: Path, says: string) => Fault;
  /** Whether something is written there, and is nothing. */
  readonly isEmpty: (path: Path) => boolean;
}

/** So many faults are told; who has mended those sees the others. */
export const MOST_FAULTS = 100;
/** A document says what it says: one that grows a thousandfold when it is read is refused. */
const MOST_ALIASES = 100;

/**
 * Reads YAML 1.2.
 * @example
 * readDocument('a: [1').faults[0]?.line // 1
 */
export function readDocument(text: string): ReadDocument {
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, prettyErrors: false });
  const faultAt = (path: Path, says: string): Fault => ({
    ...placeOf(document, lines, path),
    path: path.join('.'),
    says,
  });
  const isEmpty = (path: Path): boolean => document.getIn(path) === null;
  const read = { faultAt, isEmpty };
  if (document.errors.length > 0)
    return {
      ...read,
      value: undefined,
      faults: document.errors.slice(0, MOST_FAULTS).map((error) => {
        const { line, col } = lines.linePos(error.pos[0]);
        return { line, column: col, path: '', says: error.message };
      }),
    };
  try {
    return { ...read, value: document.toJS({ maxAliasCount: MOST_ALIASES }) as unknown, faults: [] };
  } catch {
    return { ...read, value: undefined, faults: [faultAt([], 'it repeats itself too often')] };
  }
}

function placeOf(document: Document, lines: LineCounter, path: Path): { line: number; column: number } {
  for (let length = path.length; length >= 0; length--) {
    const at = path.slice(0, length);
    const parent = length === 0 ? document.contents : document.getIn(at.slice(0, -1), true);
    const key = at.at(-1);
    const pair = isMap(parent) ? parent.items.find((one) => String(one.key) === String(key)) : undefined;
    const node = (pair?.key ?? document.getIn(at, true)) as Node | null | undefined;
    const range = node && typeof node === 'object' && 'range' in node ? node.range : undefined;
    if (range) {
      const { line, col } = lines.linePos(range[0]);
      return { line, column: col };
    }
  }
  return { line: 1, column: 1 };
}
