import { customerParams } from './common';
import { endpoint } from './endpoint';
import { flag, listOf, shape, text, whole, type Of } from './shape';

export const retainedSchema = shape({
  id: text,
  kind: text,
  name: text,
  /** What is on it, as one says it: `profiles on a share of 300 GiB`. */
  holds: text,
  environmentId: text,
  environment: text,
  /** When it is deleted. */
  until: whole,
  /** Whether its provider still has it. */
  there: flag,
});
export type Retained = Of<typeof retainedSchema>;

export const retainedEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/customers/{customer}/retained',
    area: 'Environments',
    summary: 'What is kept for its data after its pool or environment was retired, and until when',
    params: customerParams,
    answer: shape({ entries: listOf(retainedSchema) }),
  }),
};
