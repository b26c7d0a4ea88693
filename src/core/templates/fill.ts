import type { FilledInput, InputValue, OfferedItem, Tags } from '../intent';
import { ok, refuse, type Result } from '../result';
import type { PoolDocument, TemplateDocument, TemplateInput, TemplateSpec } from './spec';
import { unplainness } from '../text';
import { termFault, TERM_KEYS, TERMS, type PoolSpec, type TermKey } from '../terms';

/** What an environment is made for: how many people at most, and what fills the template's inputs. */
export interface Filling {
  readonly people: number;
  /** For how many it is ready from the start; left out: for all of them. */
  readonly ready?: number | undefined;
  /** Left out: each is as usual. */
  readonly inputs?: readonly FilledInput[] | undefined;
}

/** `=people * 0.5` → people, 0.5. Undefined: it is a value. */
export function readReference(value: unknown): { readonly key: string; readonly times: number } | undefined {
  if (typeof value !== 'string' || !value.startsWith('=')) return undefined;
  const [key = '', times = '1'] = value.slice(1).split('*');
  return { key: key.trim(), times: Number(times) };
}

/** For whom a pool's items are, where it is said. */
export const forsOf = ({ items }: Pick<PoolDocument, 'items'>): readonly string[] =>
  typeof items === 'string' ? [] : items.flatMap((item) => item.for ?? []);

/** Every input that something refers to. */
export function inputsUsed({ pools, tags }: Pick<TemplateDocument, 'pools' | 'tags'>): ReadonlySet<string> {
  return new Set([
    ...pools.flatMap((pool) =>
      [...TERM_KEYS, 'when' as const].flatMap((term) => readReference(pool[term])?.key ?? []),
    ),
    ...pools.flatMap((pool) => forsOf(pool).flatMap((said) => readReference(said)?.key ?? [])),
    ...Object.values(tags).flatMap((value) => readReference(value)?.key ?? []),
  ]);
}

/** What is filled in where nobody says otherwise. */
export const usualInputs = ({ inputs }: Pick<TemplateDocument, 'inputs'>): Filling => ({
  people: 20,
  inputs: inputs.map(({ key, usual }) => ({ key, value: usual })),
});

/**
 * What a template says once it is filled: each reference replaced, figures rounded up, pools that are not wanted left out.
 * Refuses, beside the input's key, what the input does not allow.
 */
export function fill(
  document: TemplateDocument,
  { people, ready = people, inputs = [] }: Filling,
): Result<TemplateSpec, Readonly<Record<string, string>>> {
  const problems: Record<string, string> = {};
  for (const { key } of inputs)
    if (!document.inputs.some((input) => input.key === key)) problems[key] = 'is not asked by this template';
  const values = new Map<string, InputValue>([
    ['people', people],
    ['ready', Math.min(ready, people)],
  ]);
  for (const input of document.inputs) {
    const value = inputs.find(({ key }) => key === input.key)?.value ?? input.usual;
    const fault = valueFault(input, value);
    if (fault !== undefined) problems[input.key] = fault;
    values.set(input.key, value);
  }
  if (Object.keys(problems).length > 0) return refuse(problems);
  const pools = document.pools
    .filter(({ when }) => when === undefined || values.get(readReference(when)?.key ?? '') === true)
    .map((pool) => filledPool(pool, values, problems))
    // Where nobody comes to a pool, it is not made; nobody at all is told elsewhere.
    .filter((pool) => pool.people !== 0 || people === 0);
  if (pools.length === 0) return refuse({ inputs: 'leave no pool' });
  if (Object.keys(problems).length > 0) return refuse(problems);
  const { naming, features, atATime, failureLimit } = document;
  return ok({ naming, tags: filledTags(document, values), features, atATime, failureLimit, pools });
}

/** Tags with what fills them; one that is filled with nothing is left out. */
function filledTags({ tags }: TemplateDocument, values: ReadonlyMap<string, InputValue>): Tags {
  return Object.fromEntries(
    Object.entries(tags).flatMap(([name, said]) => {
      const key = readReference(said)?.key;
      const value = key === undefined ? said : String(values.get(key) ?? '').trim();
      return value === '' ? [] : [[name, value]];
    }),
  );
}

function valueFault(input: TemplateInput, value: InputValue): string | undefined {
  switch (input.type) {
    case 'count':
      return Number.isInteger(value) && Number(value) >= input.least && Number(value) <= input.most
        ? undefined
        : `is a whole number from ${input.least} to ${input.most}`;
    case 'choice':
      return input.choices.some((one) => one === value) ? undefined : `is one of ${input.choices.join(', ')}`;
    case 'yes':
      return typeof value === 'boolean' ? undefined : 'is yes or no';
    case 'group':
      return value === '' || (typeof value === 'string' && GROUP_ID.test(value))
        ? undefined
        : 'is a group of theirs';
    case 'text':
      if (typeof value !== 'string' || value.length > input.most)
        return `is text of at most ${input.most} characters`;
      return unplainness(value);
  }
}

const GROUP_ID = /^[0-9A-HJKMNP-TV-Z]{26}$/;

/** Hundredths that only the arithmetic of fractions makes do not ask for a whole one more. */
const roundedUp = (figure: number): number => Math.ceil(Number(figure.toFixed(6)));

function filledPool(
  pool: PoolDocument,
  values: ReadonlyMap<string, InputValue>,
  problems: Record<string, string>,
): PoolSpec {
  const terms = TERM_KEYS.map((term): [TermKey, unknown] => {
    if (term === 'items') return [term, filledItems(pool, values)];
    const said = readReference(pool[term]);
    if (!said) return [term, pool[term]];
    const value = values.get(said.key);
    const filled = typeof value === 'number' ? roundedUp(value * said.times) : value;
    const fault = termFault(term, filled);
    if (fault !== undefined)
      problems[said.key] = `${TERMS[term].title.toLowerCase()} of ${pool.role}, ${String(filled)}, ${fault}`;
    return [term, filled];
  });
  return { role: pool.role, ...Object.fromEntries(terms) } as PoolSpec;
}

/** Items with the groups that they are for; one whose group nobody named is for everyone. */
const filledItems = (
  { items }: PoolDocument,
  values: ReadonlyMap<string, InputValue>,
): readonly OfferedItem[] =>
  typeof items === 'string'
    ? []
    : items.map(({ for: whom, ...item }) => {
        const said = readReference(whom);
        const group = said ? String(values.get(said.key) ?? '') : (whom ?? '');
        return group === '' ? item : { ...item, for: group };
      });
