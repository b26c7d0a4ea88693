import Joi from 'joi';
import { intentOf } from '../../images';
import { defineChange } from '../../planning';
import { ok, refuse } from '../../result';
import { nameOf } from '../common';
import { lineIn, recipeField, recipeRefusal } from './common';

interface WriteRecipe {
  readonly recipe: string;
}

/** Writes the recipe by which the next version is built. What was built stays what it is. */
export const writeRecipe = defineChange<WriteRecipe>({
  kind: 'write-recipe',
  subject: 'environment',
  verb: 'Keep the recipe',
  input: Joi.object<WriteRecipe>({ recipe: recipeField }),
  right: 'build',
  confirm: 'press',
  undo: 'by difference',
  title: (_input, facts) => `Write the recipe of ${nameOf(facts)}`,
  edit: (intent, { recipe }) => {
    const wrong = recipeRefusal(recipe);
    if (wrong) return refuse(wrong);
    const line = lineIn(intent);
    return line.ok ? ok(intentOf({ ...line.value, recipe })) : line;
  },
  policy: () => ({ atATime: 1, failureLimit: 1 }),
  people: () => 0,
});
