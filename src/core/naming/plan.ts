import { nameFaults } from './legal';
import { capacityOf, nameAt, type NamingContext, type NamingRule } from './rule';

export interface NamePlan {
  /** The names found, in counting order; fewer than asked for when the rule ran out. */
  readonly names: readonly string[];
  /** How many are missing because the counter ran out; 0 when all are there. */
  readonly missing: number;
  /** What is wrong with the names themselves; empty when they are legal. */
  readonly faults: readonly string[];
}

/**
 * The next `count` free names of a rule.
 * @param taken names in use in the customer's directory; compared without regard to case
 */
export function planNames(
  rule: NamingRule,
  context: NamingContext,
  count: number,
  taken: Iterable<string>,
): NamePlan {
  const used = new Set([...taken].map((name) => name.toUpperCase()));
  const names: string[] = [];
  const capacity = capacityOf(rule);
  for (let value = 1; value <= capacity && names.length < count; value++) {
    const name = nameAt(rule, context, value);
    if (!used.has(name)) names.push(name);
  }
  const example = nameAt(rule, context, 1);
  return {
    names,
    missing: count - names.length,
    faults: nameFaults(example).map((fault) => `${example} ${fault}`),
  };
}

/** How many names a rule has left in a context. @param taken as for `planNames` */
export function namesLeft(rule: NamingRule, context: NamingContext, taken: Iterable<string>): number {
  const own = shapeOf(rule, context);
  const used = [...taken].filter((name) => {
    const letters = [...name.toUpperCase()];
    const digits = letters.filter((_letter, index) => own[index] === DIGIT).join('');
    // Counting begins with 1: a name that ends in 00 takes none of them.
    return (
      letters.length === own.length &&
      Number(digits) > 0 &&
      own.every((place, index) => placesMeet(place, letters[index]))
    );
  });
  return Math.max(0, capacityOf(rule) - new Set(used.map((name) => name.toUpperCase())).size);
}

/**
 * Whether two rules, each in its context, could ever make the same name. Compared letter by letter, where a counter's
 * place stands for any digit.
 */
export function mayMeet(
  a: { rule: NamingRule; context: NamingContext },
  b: { rule: NamingRule; context: NamingContext },
): boolean {
  const one = shapeOf(a.rule, a.context);
  const other = shapeOf(b.rule, b.context);
  return one.length === other.length && one.every((place, index) => placesMeet(place, other[index]));
}

const DIGIT = 'any digit';

function shapeOf(rule: NamingRule, context: NamingContext): string[] {
  return rule.parts.flatMap((part) => {
    if (part.kind === 'counter') return Array.from({ length: part.width }, () => DIGIT);
    return [...(part.kind === 'text' ? part.text : context[part.field]).toUpperCase()];
  });
}

function placesMeet(a: string, b: string | undefined): boolean {
  if (b === undefined) return false;
  if (a === DIGIT) return b === DIGIT || /^\d$/.test(b);
  return b === DIGIT ? /^\d$/.test(a) : a === b;
}
