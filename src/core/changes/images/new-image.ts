import Joi from 'joi';
import { intentOf, type ImageLine } from '../../images';
import { blocks, defineChange, passes, type Check } from '../../planning';
import { ok, refuse } from '../../result';
import { recipeField, recipeRefusal } from './common';

type NewImage = Omit<ImageLine, 'versions' | 'refresh'>;

/** Begins an image that is made here: what it begins from, and by which recipe. */
export const newImage = defineChange<NewImage>({
  kind: 'new-image',
  subject: 'new environment',
  verb: 'Begin an image',
  input: Joi.object<NewImage>({
    code: Joi.string()
      .pattern(/^[a-z][a-z0-9-]{0,15}$/)
      .required()
      .messages({ 'string.pattern.base': 'small letters, digits and hyphens, a letter first, 16 at most' })
      .description('As pools name it'),
    name: Joi.string().trim().min(1).max(80).required(),
    says: Joi.string().trim().allow('').max(200).required().description('What it is for'),
    site: Joi.string().max(16).required().description('Where it is built'),
    from: Joi.string().max(80).required().description("What it begins from: an image of the provider's"),
    recipe: recipeField,
    keep: Joi.number().integer().min(1).max(12).required().description('So many older versions are kept'),
    size: Joi.string().max(16).required().description('The size that it is built on'),
    diskGiB: Joi.number().integer().min(1).max(2_048).required(),
    licences: Joi.array()
      .items(Joi.string().trim().min(1).max(80))
      .max(20)
      .required()
      .description('Programs on it that need a licence for each person'),
  }),
  right: 'build',
  confirm: 'press',
  undo: 'none',
  needs: ['imagesTaken'],
  whole: true,
  title: ({ name }) => `Begin the image ${name}`,
  edit: (_intent, input, { site }) => {
    const wrong = recipeRefusal(input.recipe);
    if (wrong) return refuse(wrong);
    const from = site.images.find((one) => one.name === input.from);
    if (!from) return refuse({ from: `is not at ${site.name}` });
    if (from.diskGiB > input.diskGiB) return refuse({ diskGiB: `${from.name} needs ${from.diskGiB} GiB` });
    if (!site.sizes.some((one) => one.key === input.size))
      return refuse({ size: `is not had at ${site.name}` });
    return ok(intentOf({ ...input, versions: [] }));
  },
  policy: () => ({ atATime: 1, failureLimit: 1 }),
  checks: (_edited, { code }, { customer, imagesTaken = [] }): Check[] => [
    customer.environments.includes(code) || imagesTaken.includes(code)
      ? blocks('name', 'Image', `${code} is taken`, 'Choose another name.')
      : passes('name', 'Image', `${code} is free`),
  ],
  people: () => 0,
});
