import { templateDocumentSchema } from '../../contract';
import { storedForm } from '../../core/stored';
import type { TemplateDocument } from '../../core/templates';

/** How a template's revision is kept. */
export const templateForm = storedForm<TemplateDocument>({
  name: 'template',
  schema: templateDocumentSchema,
  upgrades: [],
});
