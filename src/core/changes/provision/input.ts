import Joi from 'joi';
import type { FilledInput } from '../../intent';
import { schemaOf } from '../../templates';
import { TERM_KEYS, TERMS, type PoolSpec } from '../../terms';

/** What of one pool is otherwise than the template has it: a deviation from the first. */
export interface PoolChoice extends Partial<Omit<PoolSpec, 'role' | 'size' | 'kind'>> {
  readonly role: string;
  /** The key of a size chosen by hand; left out: what the template's rule comes to. */
  readonly size?: string;
}

export interface ProvisionInput {
  /** The environment's name: its hosts carry it in upper case. */
  readonly environment: string;
  readonly template: string;
  readonly site: string;
  /** At most. */
  readonly people: number;
  /** For how many it is ready from the start; left out: for all. */
  readonly ready?: number;
  /** What fills the template's inputs; what is left out is as usual. */
  readonly inputs?: readonly FilledInput[];
  /** What is otherwise than the template has it, by pool. */
  readonly pools?: readonly PoolChoice[];
}

export const filledInputs = Joi.array()
  .max(30)
  .unique('key')
  .items(
    Joi.object<FilledInput>({
      key: Joi.string().max(24).required(),
      value: Joi.alternatives(
        Joi.boolean().strict(),
        Joi.number().strict(),
        Joi.string().allow('').max(120),
      ).required(),
    }),
  )
  .messages({ 'array.unique': 'one input is there twice' })
  .description('What fills the template’s inputs; what is left out is as usual');

const chosenTerms = TERM_KEYS.filter((key) => key !== 'size' && key !== 'kind');

export const provisionInput = Joi.object<ProvisionInput>({
  environment: Joi.string().trim().allow('').max(40).required().description("The new environment's name"),
  template: Joi.string().max(32).required(),
  site: Joi.string().max(16).required(),
  people: Joi.number().integer().min(0).max(5000).required().description('At most'),
  ready: Joi.number()
    .integer()
    .min(0)
    .max(5000)
    .description('For how many it is ready from the start; left out: for all'),
  inputs: filledInputs,
  pools: Joi.array()
    .max(50)
    .unique('role')
    .items(
      Joi.object<PoolChoice>({
        role: Joi.string().max(24).required(),
        ...Object.fromEntries(chosenTerms.map((key) => [key, schemaOf(key).description(TERMS[key].title)])),
        size: Joi.string()
          .max(16)
          .description('A size chosen by hand; left out: what the template’s rule comes to'),
      }),
    )
    .messages({ 'array.unique': 'one pool is there twice' })
    .description('What is otherwise than the template has it, by pool'),
});
