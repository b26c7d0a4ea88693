import { overridesOf } from '../overrides';
import type { FactReader } from './reader';

/** What is set otherwise of its hosts. What is set of all of the customer's holds for a new environment, too. */
export const overrides: FactReader<'overrides'> = ({ connection, scope, subject }) =>
  overridesOf(connection, scope, subject.environment ?? '');
