import type { Fault } from '../documents';
import { ok, refuse, type Result } from '../result';
import { MOST_STEPS, readRecipe, writeRecipe, type RecipeStep } from './recipe';

/** Steps that several recipes share, each as YAML, by name. */
export type SavedSteps = Readonly<Record<string, string>>;

/** So many steps are saved together at most. */
export const MOST_SAVED = 20;

/** The names of saved steps that are used, each once, in order. */
export const namesUsed = (steps: readonly RecipeStep[]): string[] => [
  ...new Set(steps.flatMap(({ verb, what }) => (verb === 'use' ? [what] : []))),
];

/**
 * Reads steps that are to be saved: a recipe that uses no others.
 * @returns refused with each fault at its line
 */
export function readSaved(text: string): Result<readonly RecipeStep[], readonly Fault[]> {
  const read = readRecipe(text);
  if (!read.ok) return read;
  const at = { line: 1, column: 1, path: '' };
  if (namesUsed(read.value).length > 0) return refuse([{ ...at, says: 'saved steps use no others' }]);
  if (read.value.length > MOST_SAVED) return refuse([{ ...at, says: `are more than ${MOST_SAVED}` }]);
  return read;
}

/**
 * A recipe with saved steps in their places. One that uses none is left as it is written.
 * @returns refused with what is in the way, in words
 * @example
 * expandRecipe('steps:\n  - use: base\n', { base: 'steps:\n  - check: it runs\n' }) // { ok: true, value: 'steps:\n  - check: it runs\n' }
 */
export function expandRecipe(text: string, saved: SavedSteps): Result<string, string> {
  const read = readRecipe(text);
  if (!read.ok) return refuse(read.problem.map(({ line, says }) => `line ${line}: ${says}`).join('; '));
  const names = namesUsed(read.value);
  if (names.length === 0) return ok(text);
  // A name may be one that every object answers to.
  const textOf = (name: string): string | undefined => (Object.hasOwn(saved, name) ? saved[name] : undefined);
  const missing = names.filter((name) => textOf(name) === undefined);
  if (missing.length > 0) return refuse(`uses saved steps that are not kept: ${missing.join(', ')}`);
  const kept = new Map(names.map((name) => [name, readSaved(textOf(name) ?? '')]));
  // What was saved under other rules may be none any more: nothing is left out in silence.
  const unfit = [...kept].find(([, found]) => !found.ok);
  if (unfit) return refuse(`uses saved steps that cannot be used any more: ${unfit[0]}`);
  const steps = read.value.flatMap((step) => {
    const found = step.verb === 'use' ? kept.get(step.what) : undefined;
    return found?.ok ? found.value : [step];
  });
  if (steps.length > MOST_STEPS)
    return refuse(`is ${steps.length} steps with those that it uses: at most ${MOST_STEPS}`);
  return ok(writeRecipe(steps));
}
