import { moneySchema } from './common';
import { endpoint } from './endpoint';
import { listOf, maybe, maybeText, shape, text, whole, type Of } from './shape';

/** Something at a provider that matches nothing we want, and still costs. */
export const orphanSchema = shape({
  provider: text,
  ref: text,
  kind: text,
  name: text,
  site: text,
  /** Null: its tags say no customer that we know. */
  customer: maybeText,
  environment: maybeText,
  environmentId: maybeText,
  madeAt: whole,
  /** What the provider asks for it in an average month; null: it has not told a price. */
  monthly: maybe(moneySchema),
});
export type Orphan = Of<typeof orphanSchema>;

export const orphanEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/orphans',
    area: 'Ground',
    summary: 'What stands at the providers, within your reach, that nothing wants; the first thousand',
    answer: shape({ orphans: listOf(orphanSchema) }),
  }),
};
