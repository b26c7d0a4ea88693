import { mayMeet, parseRule } from '../naming';
import type { TemplateDocument } from './spec';

export { compareTemplates, type TemplateChange } from './compare';
export {
  editedText,
  MOST_SHORT_INPUTS,
  MOST_TEMPLATE_BYTES,
  OWN_INPUTS,
  readTemplate,
  templateSchema,
  writeTemplate,
} from './document';
export { deviationsOf, GIVEN_TERMS, isAlike, type Deviation, type GivenTerm } from './drift';
export { fill, readReference, usualInputs, type Filling } from './fill';
export {
  FEATURES,
  INPUT_TYPES,
  type Feature,
  type InputType,
  type PoolDocument,
  type Reference,
  type TemplateDocument,
  type TemplateInput,
  type TemplateSpec,
} from './spec';
export { STARTERS, starterOn, usualPool, type Starter } from './starters';
export { schemaOf } from './schemas';

/**
 * Two customers of ours whose hosts could come to have one name by a template's rule, in environments that are named alike.
 * @param codes of the customers
 */
export function customersThatMeet(
  {
    naming,
    pools,
  }: { readonly naming: string; readonly pools: readonly Pick<TemplateDocument['pools'][number], 'role'>[] },
  codes: readonly string[],
): readonly [string, string] | undefined {
  const rule = parseRule(naming);
  if (!rule.ok) return undefined;
  for (const [index, one] of codes.entries())
    for (const other of codes.slice(index + 1))
      for (const { role } of pools) {
        const inside = (customer: string) => ({
          rule: rule.value,
          context: { customer, environment: 'A', site: 'A', role },
        });
        if (mayMeet(inside(one), inside(other))) return [one, other];
      }
  return undefined;
}
