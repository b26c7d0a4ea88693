import Joi from 'joi';
import { storedForm } from '../../core/stored';

interface KeptDraft {
  readonly fields: Record<string, string>;
}

/** How a customer that is half filled in is kept. In format 1 the document was the fields themselves. */
export const draftForm = storedForm<KeptDraft>({
  name: 'draft of a customer',
  schema: Joi.object<KeptDraft>({
    fields: Joi.object<Record<string, string>>().pattern(Joi.string(), Joi.string().allow('')).required(),
  }),
  upgrades: [(fields) => ({ fields })],
});
