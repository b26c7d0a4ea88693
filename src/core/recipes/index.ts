export { comparePrograms, compareRecipes, parted, type Changed } from './compare';
export { expandRecipe, MOST_SAVED, namesUsed, readSaved, type SavedSteps } from './saved';
export { hideSecrets, secretsIn, withSecrets } from './secrets';
export {
  goesOnFrom,
  markOf,
  MOST_RECIPE_BYTES,
  MOST_STEPS,
  readRecipe,
  recipeSchema,
  savedName,
  STEP_VERB_KEYS,
  STEP_VERBS,
  stepLine,
  writeRecipe,
  type RecipeStep,
  type StepVerb,
} from './recipe';
