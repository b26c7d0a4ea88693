import {
  isAlias,
  isCollection,
  isMap,
  isPair,
  isScalar,
  LineCounter,
  parseDocument,
  type Document,
  type Node,
} from 'yaml';
import { faultOfValue, isUnsafeKey } from '../untrusted';

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
/** So long a document may be that nobody says otherwise of. */
const MOST_CHARACTERS = 100_000;
/** So deep it may be, and so many keys and entries it may have. */
const BOUNDS = { depth: 24, entries: 100_000 } as const;
/**
 * Reads YAML 1.2. Its time grows with the length alone.
 * @param most how many characters it may have
 * @example
 * readDocument('a: [1').faults[0]?.line // 1
 */
export function readDocument(text: string, most = MOST_CHARACTERS): ReadDocument {
  if (text.length > most) return unread(`it is longer than ${most} characters`);
  try {
    return readBounded(text);
  } catch (error) {
    // The reader calls itself for each level.
    if (error instanceof RangeError) return unread('it is nested too deep');
    throw error;
  }
}

function readBounded(text: string): ReadDocument {
  const lines = new LineCounter();
  // Its own search for keys that are written twice compares each with each.
  const document = parseDocument(text, { lineCounter: lines, prettyErrors: false, uniqueKeys: false });
  const faultAt = (path: Path, says: string): Fault => ({
    ...placeOf(document, lines, path),
    path: path.join('.'),
    says,
  });
  const isEmpty = (path: Path): boolean => document.getIn(path) === null;
  const read = { faultAt, isEmpty };
  const at = (offset: number, says: string): Fault => {
    const { line, col } = lines.linePos(offset);
    return { line, column: col, path: '', says };
  };
  if (document.errors.length > 0)
    return {
      ...read,
      value: undefined,
      faults: document.errors.slice(0, MOST_FAULTS).map((error) => at(error.pos[0], saysOf(error))),
    };
  const { faults: written, aliases } = look(document, at);
  if (written.length > 0) return { ...read, value: undefined, faults: written };
  if (aliases > MOST_ALIASES)
    return { ...read, value: undefined, faults: [faultAt([], 'it repeats itself too often')] };
  try {
    const value = document.toJS({ maxAliasCount: MOST_ALIASES }) as unknown;
    const fault = faultOfValue(value, BOUNDS);
    return fault === undefined
      ? { ...read, value, faults: [] }
      : { ...read, value: undefined, faults: [faultAt([], `it ${fault}`)] };
  } catch {
    return { ...read, value: undefined, faults: [faultAt([], 'it repeats itself too often')] };
  }
}

/** Its own error for what is nested too deep is about our stack. */
const saysOf = ({ message }: Error): string =>
  /call stack/.test(message) ? 'it is nested too deep' : message;

/** What was not even looked at. */
function unread(says: string): ReadDocument {
  const faultAt = (path: Path, why: string): Fault => ({
    line: 1,
    column: 1,
    path: path.join('.'),
    says: why,
  });
  return { value: undefined, faults: [faultAt([], says)], faultAt, isEmpty: () => false };
}

/** Keys that are written twice or that may not be, each at its place, and how often something is repeated by its name. */
function look(
  document: Document,
  at: (offset: number, says: string) => Fault,
): { readonly faults: readonly Fault[]; readonly aliases: number } {
  const faults: Fault[] = [];
  let aliases = 0;
  const nodes: unknown[] = [document.contents];
  while (nodes.length > 0 && faults.length < MOST_FAULTS) {
    const node = nodes.pop();
    if (isAlias(node)) aliases += 1;
    if (isPair(node)) nodes.push(node.key, node.value);
    if (!isCollection(node)) continue;
    const keys = new Set<string>();
    for (const item of node.items) {
      nodes.push(item);
      if (!isPair(item) || !isScalar(item.key)) continue;
      const { key } = item;
      const name = String(key.value);
      const offset = key.range?.[0] ?? 0;
      if (keys.has(name)) faults.push(at(offset, `${name} is there twice`));
      else if (isUnsafeKey(name)) faults.push(at(offset, `${name} is not allowed as a key`));
      keys.add(name);
    }
  }
  return { faults: faults.slice(0, MOST_FAULTS), aliases };
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
