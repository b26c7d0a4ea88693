import Joi from 'joi';
import { policyWish, type PolicyWish, type Takes } from '../../core/planning';
import { storedForm } from '../../core/stored';

/** What was asked for: its input is read by its change when it is begun. */
export interface HeldAsked {
  readonly input: unknown;
  readonly policy?: PolicyWish;
}

export const askedForm = storedForm<HeldAsked>({
  name: 'held proposal',
  schema: Joi.object<HeldAsked>({ input: Joi.object().unknown().required(), policy: policyWish }),
  upgrades: [],
});

const texts = Joi.array().items(Joi.string());

/** What is kept for a proposal as long as it is held. */
export const takesForm = storedForm<Takes>({
  name: 'what a held proposal takes',
  schema: Joi.object<Takes>({
    environment: Joi.string().allow(null).required(),
    names: texts.required(),
    addresses: texts.required(),
    subnets: Joi.array()
      .items(
        Joi.object({ base: Joi.number().integer().required(), prefix: Joi.number().integer().required() }),
      )
      .required(),
    block: Joi.string().allow(null).required(),
    ready: texts.required(),
    placed: Joi.array()
      .items(
        Joi.object({
          id: Joi.string().required(),
          customer: Joi.string().required(),
          pool: Joi.string().required(),
          node: Joi.string().allow('').required(),
        }).pattern(/^(vcpu|memoryGiB|diskGiB)$/, Joi.number().required()),
      )
      .required(),
    amounts: Joi.object().pattern(Joi.string(), Joi.number()).required(),
  }),
  upgrades: [],
});
