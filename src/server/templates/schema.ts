import parseJoi from 'joi-to-json';
import { templateSchema } from '../../core/templates';

/** The JSON Schema (2020-12) of a template, from the schema that everything else is checked by. */
export function templatesJsonSchema(): Record<string, unknown> {
  const { $schema: _own, ...schema } = parseJoi(templateSchema, 'open-api-3.1') as Record<string, unknown>;
  return { $schema: 'https://json-schema.org/draft/2020-12/schema', title: 'Template', ...schema };
}
