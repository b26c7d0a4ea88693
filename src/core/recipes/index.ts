export { comparePrograms, compareRecipes, type Changed } from './compare';
export { hideSecrets, secretsIn, withSecrets } from './secrets';
export {
  goesOnFrom,
  markOf,
  MOST_RECIPE_BYTES,
  MOST_STEPS,
  readRecipe,
  recipeSchema,
  STEP_VERB_KEYS,
  STEP_VERBS,
  stepLine,
  writeRecipe,
  type RecipeStep,
  type StepVerb,
} from './recipe';
