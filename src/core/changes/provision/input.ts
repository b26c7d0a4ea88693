import Joi from 'joi';
import { WORK_PROFILES, type ProfileKey } from '../../sizing';

export interface PoolChoice {
  readonly role: string;
  readonly profile?: ProfileKey;
  /** A size chosen by hand; left out: the cheapest that keeps N+1. */
  readonly size?: string;
}

export interface ProvisionInput {
  /** The environment's name: its hosts carry it in upper case. */
  readonly environment: string;
  readonly template: string;
  readonly site: string;
  readonly people: number;
  /** What is otherwise than the template has it, by pool. */
  readonly pools?: readonly PoolChoice[];
}

export const provisionInput = Joi.object<ProvisionInput>({
  environment: Joi.string().trim().allow('').max(40).required().description("The new environment's name"),
  template: Joi.string().max(32).required(),
  site: Joi.string().max(16).required(),
  people: Joi.number().integer().min(0).max(5000).required(),
  pools: Joi.array()
    .max(20)
    .unique('role')
    .items(
      Joi.object<PoolChoice>({
        role: Joi.string().max(24).required(),
        profile: Joi.string().valid(...Object.keys(WORK_PROFILES)),
        size: Joi.string()
          .max(16)
          .description('A size chosen by hand; left out: the cheapest that keeps N+1'),
      }),
    )
    .messages({ 'array.unique': 'one pool is there twice' })
    .description('What is otherwise than the template has it, by pool'),
});
