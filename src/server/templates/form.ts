import Joi from 'joi';
import { INPUT_TYPES, type TemplateDocument } from '../../core/templates';
import { storedForm } from '../../core/stored';
import { TERM_KEYS } from '../../core/terms';

/*
 * How a template's revision is kept. Only its structure is stated here: a revision stays readable when what a term may say
 * is limited otherwise later.
 */

const text = Joi.string().allow('').required();
const whole = Joi.number().integer();

const input = Joi.object({
  key: text,
  title: text,
  help: text,
  type: Joi.string()
    .valid(...INPUT_TYPES)
    .required(),
  short: Joi.boolean().required(),
  least: whole,
  most: whole,
  choices: Joi.array().items(Joi.string().allow('')),
  usual: Joi.alternatives(Joi.boolean(), Joi.number(), Joi.string().allow('')).required(),
});

const pool = Joi.object({
  role: text,
  when: Joi.string(),
  ...Object.fromEntries(TERM_KEYS.map((key) => [key, Joi.any().required()])),
});

export const templateForm = storedForm<TemplateDocument>({
  name: 'template',
  schema: Joi.object<TemplateDocument>({
    name: text,
    says: text,
    called: text,
    naming: text,
    atATime: whole.required(),
    failureLimit: whole.required(),
    tags: Joi.object().pattern(Joi.string(), Joi.string().allow('')).required(),
    features: Joi.array().items(Joi.string().allow('')).required(),
    inputs: Joi.array().items(input).required(),
    pools: Joi.array().items(pool).required(),
  }),
  upgrades: [],
});
