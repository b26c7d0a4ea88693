import Joi from 'joi';
import { MOST_RECIPE_BYTES, savedName } from '../core/recipes';
import { customerCode, customerParams } from './common';
import { endpoint } from './endpoint';
import { flag, listOf, shape, text, whole, type Of } from './shape';

export const savedStepsSchema = shape({
  name: text,
  /** As YAML. */
  text,
  /** Whether they are the customer's own; else the MSP's, for everyone. */
  own: flag,
  by: text,
  at: whole,
  /** Codes of the images in reach whose next version uses them. */
  usedBy: listOf(text),
});
export type SavedStepsView = Of<typeof savedStepsSchema>;

const params = shape({
  customer: customerCode,
  name: savedName.required() as Joi.AnySchema<string>,
});

export const keptStepsSchema = shape({
  text: Joi.string().min(1).max(MOST_RECIPE_BYTES).required().messages({ 'string.empty': 'write a step' }),
});

const area = 'Images';

export const savedStepsEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/customers/{customer}/saved-steps',
    area,
    summary: 'Steps that recipes may use by name: the MSP’s, and the customer’s own, which come before them',
    params: customerParams,
    own: true,
    answer: shape({ saved: listOf(savedStepsSchema) }),
  }),
  keep: endpoint({
    method: 'PUT',
    path: '/customers/{customer}/saved-steps/{name}',
    area,
    summary: 'Save steps under a name; what uses them has these from its next version on',
    params,
    own: true,
    right: 'build',
    body: keptStepsSchema,
    status: 204,
  }),
  drop: endpoint({
    method: 'DELETE',
    path: '/customers/{customer}/saved-steps/{name}',
    area,
    summary: 'Save steps no longer; refused while a recipe uses them',
    params,
    own: true,
    right: 'build',
    status: 204,
  }),
};
