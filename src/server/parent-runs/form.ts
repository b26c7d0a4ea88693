import { parentPolicySchema } from '../../contract';
import { storedForm } from '../../core/stored';

/** How a parent run goes about its parts, as it is stored. */
export const policyForm = storedForm({
  name: 'policy of a parent run',
  schema: parentPolicySchema,
  upgrades: [],
});
