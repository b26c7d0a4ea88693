import Joi from 'joi';
import { stringify } from 'yaml';
import { MOST_FAULTS, readDocument, type Fault } from '../documents';
import { ok, refuse, type Result } from '../result';
import { isBadlyNamed } from './secrets';

/** What a step of a recipe does; each with what it is expected to take, in seconds. Common practice, no source. */
export const STEP_VERBS = {
  install: { seconds: 180, minutes: 30, says: 'install a program' },
  copy: { seconds: 30, minutes: 10, says: 'copy files' },
  set: { seconds: 5, minutes: 5, says: 'set a value' },
  run: { seconds: 60, minutes: 30, says: 'run a script' },
  wait: { seconds: 60, minutes: 30, says: 'wait until' },
  check: { seconds: 10, minutes: 5, says: 'check' },
  // What it stands for takes its own time.
  use: { seconds: 0, minutes: 5, says: 'use saved steps' },
} as const;
export type StepVerb = keyof typeof STEP_VERBS;
export const STEP_VERB_KEYS = Object.keys(STEP_VERBS) as readonly StepVerb[];

/** One step of a recipe, as it is carried out on the machine that an image is made on. */
export interface RecipeStep {
  readonly verb: StepVerb;
  /** The program, the files, the name of the value, the script, what is waited for or checked, or the name of saved steps. */
  readonly what: string;
  /** Where files are copied to, or what a value is set to; empty for other steps. */
  readonly to: string;
  /** What must hold once it is done; empty: nothing beyond its having worked. */
  readonly holds: string;
  /** It fails when it takes longer. */
  readonly minutes: number;
  /** It is tried so often, from 1. */
  readonly tries: number;
}

/** What a recipe may hold at most. */
export const MOST_STEPS = 60;
export const MOST_RECIPE_BYTES = 20_000;

/** What saved steps are called. */
export const savedName = Joi.string()
  .pattern(/^[a-z][a-z0-9-]{0,31}$/)
  .messages({ 'string.pattern.base': 'small letters, digits and hyphens, a letter first, 32 at most' });

const line = Joi.string().trim().min(1).max(200);

type WrittenStep = Partial<Record<StepVerb, string>> & {
  readonly to?: string | number | boolean;
  readonly holds?: string;
  readonly minutes?: number;
  readonly tries?: number;
};

const needsTo = (verb: StepVerb): boolean => verb === 'copy' || verb === 'set';

const stepSchema = Joi.object<WrittenStep>({
  install: line.description('A program with its version, as the store of programs names it'),
  copy: line.description('Files, from the store of files'),
  set: line.description('The name of a value'),
  run: Joi.string().min(1).max(4_000).description('A script'),
  wait: line.description('What is waited for'),
  check: line.description('What must be so'),
  use: savedName.description('The name of saved steps, which stand here'),
  to: Joi.alternatives(Joi.string().max(500), Joi.number(), Joi.boolean()).description(
    'Where files are copied to, or what a value is set to',
  ),
  holds: line.description('What must hold once it is done'),
  minutes: Joi.number().integer().min(1).max(240).description('It fails when it takes longer'),
  tries: Joi.number().integer().min(1).max(5).description('So often it is tried'),
})
  .xor(...STEP_VERB_KEYS)
  .custom((step: WrittenStep, helpers) => {
    if (Object.values(step).some((said) => typeof said === 'string' && isBadlyNamed(said)))
      return helpers.message({ custom: 'a secret is named in small letters, digits and hyphens' });
    const verb = STEP_VERB_KEYS.find((one) => step[one] !== undefined);
    if (verb === 'use' && Object.keys(step).length > 1)
      return helpers.message({ custom: 'saved steps say themselves what holds, how long, and how often' });
    if (verb && needsTo(verb) !== (step.to !== undefined))
      return helpers.message({
        custom: needsTo(verb) ? `${verb} says where with "to"` : `${verb} has no "to"`,
      });
    return step;
  })
  .messages({
    'object.missing': `does one thing: ${STEP_VERB_KEYS.join(', ')}`,
    'object.xor': 'does one thing only: make two steps of it',
  });

export const recipeSchema = Joi.object<{ readonly steps: readonly WrittenStep[] }>({
  steps: Joi.array()
    .items(stepSchema)
    .min(1)
    .max(MOST_STEPS)
    .required()
    .messages({ 'array.min': 'a recipe has at least one step' }),
})
  .required()
  .messages({ 'object.base': 'begins with "steps:", and a list of them' });

/**
 * Reads a recipe written as YAML; refuses it with each fault at its line.
 * @param text up to 20,000 bytes
 * @example
 * readRecipe('steps:\n  - install: Tallybrook 4.2\n').ok // true
 */
export function readRecipe(text: string): Result<readonly RecipeStep[], readonly Fault[]> {
  const { value, faults, faultAt, isEmpty } = readDocument(text);
  if (faults.length > 0) return refuse(faults);
  if (new TextEncoder().encode(text).length > MOST_RECIPE_BYTES)
    return refuse([faultAt([], `is longer than ${MOST_RECIPE_BYTES} bytes`)]);
  const checked = recipeSchema.validate(value, { abortEarly: false, errors: { label: false } });
  if (checked.error)
    return refuse(
      checked.error.details
        .slice(0, MOST_FAULTS)
        .map(({ path, message, type }) =>
          faultAt(
            path,
            type === 'object.unknown'
              ? 'is not known here'
              : isEmpty(path) && path.length > 0
                ? 'is empty'
                : message,
          ),
        ),
    );
  return ok(checked.value.steps.map(stepOf));
}

function stepOf(written: WrittenStep): RecipeStep {
  const verb = STEP_VERB_KEYS.find((one) => written[one] !== undefined) ?? 'check';
  return {
    verb,
    what: written[verb] ?? '',
    to: written.to === undefined ? '' : String(written.to),
    holds: written.holds ?? '',
    minutes: written.minutes ?? STEP_VERBS[verb].minutes,
    tries: written.tries ?? 1,
  };
}

/** A recipe as YAML: read again, it is the same. What is as usual is left out. */
export const writeRecipe = (steps: readonly RecipeStep[]): string =>
  stringify(
    {
      steps: steps.map(({ verb, what, to, holds, minutes, tries }) => ({
        [verb]: what,
        ...(needsTo(verb) ? { to } : {}),
        ...(holds === '' ? {} : { holds }),
        ...(minutes === STEP_VERBS[verb].minutes ? {} : { minutes }),
        ...(tries === 1 ? {} : { tries }),
      })),
    },
    { lineWidth: 110 },
  );

/** A step in one line: `install Tallybrook 4.2`. */
export const stepLine = ({ verb, what, to }: RecipeStep): string => {
  const [first = '', ...more] = what.trim().split('\n');
  const rest = more.length > 0 ? ' …' : '';
  return `${verb} ${first}${rest}${to === '' ? '' : verb === 'copy' ? ` to ${to}` : ` = ${to}`}`;
};

/** What tells a step from another that does something else: limits and tries do not. */
export const markOf = ({ verb, what, to, holds }: RecipeStep): string =>
  JSON.stringify([verb, what, to, holds]);

/**
 * From which step a build goes on with a mended recipe, counted from 0, on a machine that has steps on it already;
 * undefined: those were others, and only another machine will do.
 * @param done the marks of the steps that are on the machine, in order
 */
export function goesOnFrom(done: readonly string[], recipe: readonly RecipeStep[]): number | undefined {
  const isSame = done.every((mark, index) => {
    const step = recipe[index];
    return step !== undefined && markOf(step) === mark;
  });
  return isSame ? done.length : undefined;
}
