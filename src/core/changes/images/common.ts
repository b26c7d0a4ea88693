import Joi from 'joi';
import type { Facts } from '../../facts';
import { lineOf, versionName, type ImageLine, type ImageVersion } from '../../images';
import { expandRecipe, MOST_RECIPE_BYTES, readRecipe, secretsIn } from '../../recipes';
import type { Intent } from '../../intent';
import { blocks, passes, type Check, type Refusal } from '../../planning';
import { ok, refuse, type Result } from '../../result';
import { isImage } from '../../resources';

/* What the changes of an image say alike. */

export const recipeField = Joi.string().max(MOST_RECIPE_BYTES).required().description('The recipe, as YAML');
export const versionField = Joi.number().integer().min(1).required().description('Its number');
/** What is done with one version takes its number. */
export interface OfVersion {
  readonly version: number;
}
export const ofVersion = Joi.object<OfVersion>({ version: versionField });
export const noteField = Joi.string()
  .trim()
  .min(1)
  .max(250)
  .required()
  .messages({ 'string.empty': 'say what is otherwise than before' })
  .description('What is otherwise than before');

/** The image of an intent. */
export function lineIn(intent: Intent | null): Result<ImageLine, Refusal> {
  const line = intent === null ? undefined : lineOf(intent);
  return line ? ok(line) : refuse({ environment: 'is no image' });
}

/** A version of an image that is still wanted. Refuses, beside the field, one that is not. */
export function versionIn(
  intent: Intent | null,
  number: number,
): Result<{ line: ImageLine; version: ImageVersion }, Refusal> {
  const line = lineIn(intent);
  if (!line.ok) return line;
  const version = line.value.versions.find((one) => one.number === number);
  if (!version) return refuse({ version: `${line.value.name} has no version ${number}` });
  if (version.state === 'dropped') return refuse({ version: `${number} was dropped` });
  return ok({ line: line.value, version });
}

/** Beside the field, with the line, why a recipe cannot be used. */
export function recipeRefusal(recipe: string): Refusal | undefined {
  const read = readRecipe(recipe);
  if (read.ok) return undefined;
  return { recipe: read.problem.map(({ line, says }) => `line ${line}: ${says}`).join('; ') };
}

/** A recipe with the saved steps that it uses in their places; refuses it beside its field. */
export function expanded(recipe: string, { image }: Facts): Result<string, Refusal> {
  const found = expandRecipe(recipe, image?.saved ?? {});
  return found.ok ? found : refuse({ recipe: found.problem });
}

/** Whether every secret is kept that a recipe names: found out before its third step. */
export function secretsCheck(recipe: string, facts: Facts): Check[] {
  const { image } = facts;
  const whole = expanded(recipe, facts);
  const read = readRecipe(whole.ok ? whole.value : recipe);
  const named = read.ok ? secretsIn(read.value) : [];
  const missing = named.filter((name) => !(image?.secrets ?? []).includes(name));
  if (missing.length > 0)
    return [
      blocks('secrets', 'Secrets', `${missing.join(', ')}: not kept here`, 'Keep it beside the recipe.'),
    ];
  return named.length > 0 ? [passes('secrets', 'Secrets', `${named.join(', ')}: kept`)] : [];
}

/** How many hosts stand on a version, of whomever. */
export const hostsOn = ({ image }: Facts, line: Pick<ImageLine, 'code'>, number: number): number =>
  (image?.uses ?? [])
    .filter((one) => one.version === versionName(line.code, number))
    .reduce((sum, one) => sum + one.hosts, 0);

/** Whether a version is there: captured, at the site where it was built. */
export const isCaptured = ({ present }: Facts, key: string): boolean =>
  present.some((one) => one.key === key && isImage(one) && one.condition === 'well');

export const titleOf = (facts: Facts, number: number): string =>
  `${facts.environment?.intent.name ?? ''} version ${number}`;
