import Ajv2020 from 'ajv/dist/2020';
import Joi from 'joi';
import parseJoi from 'joi-to-json';
import { wholeCustomerSchema, type FileFault, type WholeCustomer } from '../../contract';
import { MOST_FAULTS, readDocument, type Path } from '../../core/documents';
import { Problem } from '../problem';
import type { ThreadTask } from '../threads';

/* What a thread does for this room. It is loaded for each file that is read, so it needs little. */

const MOST_CUSTOMERS = 2_000;

const fileSchema = Joi.object({
  customers: Joi.array().items(wholeCustomerSchema).min(1).max(MOST_CUSTOMERS).required(),
}).required();

/** The JSON Schema (2020-12) of a file of customers, from the schema that everything else is checked by. */
export function customersJsonSchema(): Record<string, unknown> {
  const { $schema: _own, ...schema } = parseJoi(fileSchema, 'open-api-3.1') as Record<string, unknown>;
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Customers',
    ...schema,
  };
}

let compiled: ReturnType<Ajv2020['compile']> | undefined;
const validate = (value: unknown): ReturnType<Ajv2020['compile']> => {
  compiled ??= new Ajv2020({ allErrors: true, strict: false, validateFormats: false }).compile(
    customersJsonSchema(),
  );
  compiled(value);
  return compiled;
};

interface Read {
  readonly customers: readonly WholeCustomer[];
  readonly faults: readonly FileFault[];
}

const MOST_CHARACTERS = 1_000_000;

const tooMuch = (): Problem => new Problem(422, 'file', 'The file takes too long to read: send it in parts.');

/** Reads a file of customers, which takes as long as it is. */
export const customersFileTask: ThreadTask<string, Read> = {
  name: 'read a file of customers',
  run: readCustomersFile,
  tooMuch,
};

/** Where in a file what is wrong with it is written. */
export const faultPlacesTask: ThreadTask<
  { readonly text: string; readonly wrong: readonly { readonly path: Path; readonly says: string }[] },
  readonly FileFault[]
> = {
  name: 'find faults in a file',
  run: ({ text, wrong }) => {
    const { faultAt } = readDocument(text, MOST_CHARACTERS);
    return wrong.map(({ path, says }) => faultAt(path, says));
  },
  tooMuch,
};

/** By its JSON Schema, and then by all that a schema cannot say. */
export function readCustomersFile(text: string): Read {
  const { value, faults: unreadable, faultAt, isEmpty } = readDocument(text, MOST_CHARACTERS);
  const none = { customers: [] };
  if (unreadable.length > 0) return { ...none, faults: unreadable };
  if (!Array.isArray((value as { customers?: unknown } | null)?.customers))
    return { ...none, faults: [faultAt([], 'begins with "customers:", and a list of them')] };
  const { errors } = validate(value);
  if (errors && errors.length > 0)
    return {
      ...none,
      faults: errors.slice(0, MOST_FAULTS).map(({ instancePath, keyword, params, message }) => {
        const path = pathOf(instancePath);
        if (keyword === 'additionalProperties') {
          const name = String((params as { additionalProperty: string }).additionalProperty);
          return faultAt([...path, name], 'is not known here');
        }
        if (keyword === 'required')
          return faultAt(
            path,
            `${String((params as { missingProperty: string }).missingProperty)} is missing`,
          );
        if (keyword === 'enum')
          return faultAt(
            path,
            `is one of ${(params as { allowedValues: unknown[] }).allowedValues.join(', ')}`,
          );
        if (keyword === 'type' && isEmpty(path)) return faultAt(path, 'is empty');
        return faultAt(path, message ?? 'cannot be used');
      }),
    };
  const checked = fileSchema.validate(value, { abortEarly: false, errors: { label: false } });
  if (checked.error)
    return {
      ...none,
      faults: checked.error.details.slice(0, MOST_FAULTS).map((one) => faultAt(one.path, one.message)),
    };
  const { customers } = checked.value as { customers: WholeCustomer[] };
  const first = new Map(customers.map(({ code }, n) => [code, n] as const).reverse());
  const faults = customers.flatMap(({ code }, n) =>
    first.get(code) === n ? [] : [faultAt(['customers', n, 'code'], `${code} is there twice`)],
  );
  return { customers, faults };
}

/** `/customers/3/plan`, as JSON Pointer (RFC 6901) has it. */
const pathOf = (pointer: string): Path =>
  pointer
    .split('/')
    .slice(1)
    .map((part) => part.replace(/~1/g, '/').replace(/~0/g, '~'))
    .map((part) => (/^\d+$/.test(part) ? Number(part) : part));
