import { MOST_FAULTS, type Fault } from '../documents';
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
  if (namesUsed(read.value).length > 0)
    return refuse([{ ...at, says: 'saved steps use no others' }].slice(0, MOST_FAULTS));
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
  const missing = names.filter((name) => saved[name] === undefined);
  if (missing.length > 0) return refuse(`uses saved steps that are not kept: ${missing.join(', ')}`);
  const steps = read.value.flatMap((step) => (step.verb === 'use' ? savedIn(saved, step.what) : [step]));
  if (steps.length > MOST_STEPS)
    return refuse(`is ${steps.length} steps with those that it uses: at most ${MOST_STEPS}`);
  return ok(writeRecipe(steps));
}

function savedIn(saved: SavedSteps, name: string): readonly RecipeStep[] {
  const read = readSaved(saved[name] ?? '');
  return read.ok ? read.value : [];
}
