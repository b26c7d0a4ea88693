import Ajv2020 from 'ajv/dist/2020';
import Joi from 'joi';
import parseJoi from 'joi-to-json';
import { stringify } from 'yaml';
import {
  newCustomerSchema,
  wholeCustomerSchema,
  type FileFault,
  type FileOutcome,
  type NewCustomer,
  type WholeCustomer,
} from '../../contract';
import { MOST_FAULTS, readDocument, type Path } from '../../core/documents';
import { enter, withoutRequest, type Scope } from '../access';
import type { App } from '../app';
import { Problem } from '../problem';
import { inThread, type ThreadTask } from '../threads';
import { aboutCustomer, changeCustomer, changedFields, refuseDetails } from './about';
import { createCustomer, refuseNew } from './write';

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

/** Customers as a YAML file: read back, it is the same. */
export const customersYaml = (customers: readonly WholeCustomer[]): string =>
  `# yaml-language-server: $schema=/api/v1/customers.schema.json\n${stringify({ customers }, { lineWidth: 110 })}`;

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

type Planned =
  | { readonly do: 'new'; readonly customer: NewCustomer }
  | { readonly do: 'changed'; readonly customer: WholeCustomer; readonly changed: readonly string[] }
  | { readonly do: 'same' }
  | { readonly do: 'refused'; readonly faults: readonly { field: string; says: string }[] };

/** What is to be done with one customer of a file, so that it is as the file says. */
async function planFor(app: App, scope: Scope, wanted: WholeCustomer): Promise<Planned> {
  try {
    refuseDetails(wanted);
    const inside = await enter(app.db, scope, wanted.code).catch((error: unknown) => {
      if (error instanceof Problem && error.status === 404) return undefined;
      throw error;
    });
    if (!inside) {
      const { error, value } = newCustomerSchema.validate(wanted, { errors: { label: false } });
      if (error)
        return {
          do: 'refused',
          faults: [{ field: error.details[0]?.path.join('.') ?? '', says: error.message }],
        };
      await refuseNew(app.db, value);
      return { do: 'new', customer: value };
    }
    const before = await aboutCustomer(app.db, inside, app.clock.now());
    const fixed = (['state', 'plan', 'site', 'currency', 'card'] as const).filter(
      (field) => before[field] !== wanted[field],
    );
    if (fixed.length > 0)
      return {
        do: 'refused',
        faults: fixed.map((field) => ({
          field,
          says: `is ${before[field]}; it is changed on the customer’s page`,
        })),
      };
    const changed = changedFields(before, changeable(wanted));
    return changed.length === 0 ? { do: 'same' } : { do: 'changed', customer: wanted, changed };
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    const fields = Object.entries(error.more.fields ?? { code: error.detail });
    return { do: 'refused', faults: fields.map(([field, says]) => ({ field, says })) };
  }
}

const changeable = ({
  code: _code,
  state: _state,
  plan: _plan,
  site: _site,
  currency: _currency,
  card: _card,
  ...rest
}: WholeCustomer) => rest;

/**
 * Takes on the customers of a file, or changes them. `keep` false: it is only looked at. Nothing is kept of a file with
 * faults. Each customer is a transaction of its own: sent again after it was cut off, it goes on where it was.
 */
export async function importCustomers(
  app: App,
  asked: Scope,
  text: string,
  keep: boolean,
): Promise<FileOutcome> {
  const scope = withoutRequest(asked);
  const { customers, faults: first } = await inThread(customersFileTask, text);
  const wrong: { path: Path; says: string }[] = [];
  const plans: { code: string; plan: Planned }[] = [];
  for (const [n, wanted] of first.length > 0 ? [] : customers.entries()) {
    const plan = await planFor(app, scope, wanted);
    plans.push({ code: wanted.code, plan });
    if (plan.do === 'refused')
      for (const { field, says } of plan.faults)
        wrong.push({ path: ['customers', n, ...field.split('.')], says });
  }
  const placed = wrong.slice(0, MOST_FAULTS);
  const faults = [
    ...first,
    ...(placed.length > 0 ? await inThread(faultPlacesTask, { text, wrong: placed }) : []),
  ];
  const kept = keep && faults.length === 0;
  for (const { plan, code } of kept ? plans : []) {
    if (plan.do === 'new') await createCustomer(app, scope, plan.customer);
    if (plan.do === 'changed')
      await changeCustomer(app, await enter(app.db, scope, code), {
        ...changeable(plan.customer),
        reason: 'from a file',
      });
  }
  return {
    kept,
    faults: faults.slice(0, MOST_FAULTS),
    customers: plans.map(({ code, plan }) => ({
      code,
      outcome: plan.do,
      changed: plan.do === 'changed' ? [...plan.changed] : [],
      says: plan.do === 'refused' ? plan.faults.map(({ field, says }) => `${field} ${says}`).join('; ') : '',
    })),
  };
}
