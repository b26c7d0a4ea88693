/** How large a value from outside may be. */
export interface Bounds {
  /** Levels of objects and lists within each other. */
  readonly depth: number;
  /** Keys and list entries together. */
  readonly entries: number;
}

/** Names by which a key could reach the prototype that every object shares. */
const UNSAFE = /(?:^|[^\p{L}\p{N}_])(?:__proto__|prototype|constructor)(?:$|[^\p{L}\p{N}_])/iu;

/**
 * Whether a key could reach a prototype, by itself or as a part of a path. Libraries split keys at dots and brackets.
 * @example
 * isUnsafeKey('__proto__.customer') // true
 * isUnsafeKey('prototypes') // false
 */
export const isUnsafeKey = (key: string): boolean => UNSAFE.test(key);

/**
 * What is wrong with a parsed value from outside, before anything else looks at it: too deep, too many entries, or a key
 * that could reach a prototype. Looks at each entry once, without recursion.
 * @returns the end of a sentence whose subject is the value; undefined when nothing is wrong
 * @example
 * faultOfValue(JSON.parse('{"a":{"__proto__":1}}'), { depth: 9, entries: 9 }) // 'has a key that is not allowed'
 */
export function faultOfValue(value: unknown, bounds: Bounds): string | undefined {
  let level = [value];
  let entries = 0;
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > bounds.depth) return `is nested deeper than ${bounds.depth}`;
    const next: unknown[] = [];
    for (const one of level) {
      if (typeof one !== 'object' || one === null) continue;
      const inner = Object.values(one) as unknown[];
      entries += inner.length;
      if (entries > bounds.entries) return `has more than ${bounds.entries} keys and entries`;
      if (!Array.isArray(one) && Object.keys(one).some(isUnsafeKey)) return 'has a key that is not allowed';
      for (const each of inner) next.push(each);
    }
    level = next;
  }
  return undefined;
}
