import { PERSON_KEYS } from '../core/rating';
import { customerCode, id, moneySchema } from './common';
import { endpoint } from './endpoint';
import { listOf, number, oneOf, shape, text, whole, type Of } from './shape';

export const personCostsSchema = shape({
  month: text,
  /** Up to when it is counted. */
  until: whole,
  total: moneySchema,
  parts: listOf(
    shape({
      environmentId: text,
      environment: text,
      pool: text,
      by: oneOf(PERSON_KEYS),
      charge: moneySchema,
      /** Of how much it is a part, and by which weights: theirs, and everybody's; seconds, where it is by time. */
      of: moneySchema,
      own: number,
      all: number,
    }),
  ),
});
export type PersonCosts = Of<typeof personCostsSchema>;

export const personCostEndpoints = {
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}/people/{person}/costs',
    area: 'Money',
    summary:
      'What a person cost this month, up to now: licence seats, own desktops, and their part of what is shared',
    params: shape({ customer: customerCode, person: id }),
    answer: personCostsSchema,
  }),
};
