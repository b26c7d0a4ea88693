import Joi from 'joi';
import { writeBlock, type Block } from '../../core/addressing';
import { policyWish, type PolicyWish, type Takes } from '../../core/planning';
import { SPACES } from '../../core/resources';
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

/** What is kept for a proposal as long as it is held. */
export const takesForm = storedForm<Takes>({
  name: 'what a held proposal takes',
  schema: Joi.object<Takes>({
    environment: Joi.string().allow(null).required(),
    values: Joi.array()
      .items(Joi.object({ space: Joi.string().required(), value: Joi.string().required() }))
      .required(),
    block: Joi.string().allow(null).required(),
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
    quotas: Joi.array()
      .items(Joi.object({ of: Joi.string().required(), amount: Joi.number().required() }))
      .required(),
    amounts: Joi.object().pattern(Joi.string(), Joi.number()).required(),
  }),
  upgrades: [inSpaces],
});

/** To format 2: names, addresses, subnets and ready hosts are values of a space each; quotas came in with it. */
function inSpaces({
  names,
  addresses,
  subnets,
  ready,
  ...takes
}: Readonly<Record<string, unknown>>): Record<string, unknown> {
  const list = (value: unknown): readonly unknown[] => (Array.isArray(value) ? value : []);
  const inSpace = (space: string, values: readonly unknown[]) => values.map((value) => ({ space, value }));
  return {
    ...takes,
    values: [
      ...inSpace(SPACES.name, list(names)),
      ...inSpace(SPACES.address, list(addresses)),
      ...inSpace(
        SPACES.subnet,
        (list(subnets) as readonly Block[]).map((one) => writeBlock(one)),
      ),
      ...inSpace(SPACES.ready, list(ready)),
    ],
    quotas: [],
  };
}
