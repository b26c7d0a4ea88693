import { RESERVED_TAGS, TAG_NAME } from '../core/intent';
import Joi from 'joi';
import { parseRule } from '../core/naming';
import {
  customerCode,
  customerParams,
  listQuery,
  markSchema,
  moneySchema,
  ownName,
  pageOf,
  reason,
  fileFaultSchema,
} from './common';
import { endpoint, question } from './endpoint';
import {
  filled,
  flag,
  listOf,
  maybe,
  maybeText,
  oneOf,
  shape,
  text,
  texts,
  whole,
  type Of,
  type Sent,
} from './shape';

export const CUSTOMER_STATES = ['active', 'trial', 'paused', 'leaving', 'retired'] as const;
export type CustomerState = (typeof CUSTOMER_STATES)[number];

export const customerSchema = shape({
  code: text,
  name: text,
  state: oneOf(CUSTOMER_STATES),
  plan: text,
  site: text,
  siteName: text,
  zone: text,
  currency: text,
  realm: text,
  /** In a list as they were last counted, a moment ago. */
  people: whole,
  hosts: whole,
  blocks: listOf(shape({ site: text, cidr: text })),
  mark: markSchema,
});
export type Customer = Of<typeof customerSchema>;

const mail = Joi.string().trim().email({ tlds: false }).max(254);

/** Someone at the customer whom one talks to. */
export const contactSchema = shape({
  name: ownName,
  mail: mail.required(),
  phone: filled(Joi.string().trim().allow('').max(40), ''),
  what: filled(Joi.string().trim().allow('').max(60).description('What they are asked about'), ''),
});
export type Contact = Of<typeof contactSchema>;

const freeDay = shape({
  date: Joi.string()
    .pattern(/^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$/)
    .required()
    .messages({ 'string.pattern.base': 'write it like 2026-12-24' }),
  name: ownName,
});

/** Which days nobody works: public holidays of a country and region, and days of their own. */
export const calendarSchema = shape({
  country: filled(
    Joi.string()
      // Also a JSON Schema of it has to let the empty one pass.
      .pattern(/^([A-Z]{2})?$/)
      .allow('')
      .messages({ 'string.pattern.base': 'two capital letters, as in IE (ISO 3166)' })
      .description('Two letters of ISO 3166; empty: no public holidays'),
    '',
  ),
  region: filled(
    Joi.string()
      .allow('')
      .max(8)
      .description('As in ISO 3166-2, without the country; empty: those of the whole country'),
    '',
  ),
  days: filled(
    (listOf(freeDay) as Joi.ArraySchema<readonly Of<typeof freeDay>[]>)
      .max(200)
      .description('Days of their own') as Joi.AnySchema<readonly Of<typeof freeDay>[]>,
    [],
  ),
});
export type WorkCalendar = Of<typeof calendarSchema>;

/** A rule that can be read, or none. */
function readable(rule: string, helpers: Joi.CustomHelpers): string | Joi.ErrorReport {
  const read = rule === '' ? undefined : parseRule(rule);
  return read?.ok === false ? helpers.message({ custom: '{#why}' }, { why: read.problem }) : rule;
}

/** What is known of a customer beyond what it is charged by. */
const details = {
  contacts: filled(
    (listOf(contactSchema) as Joi.ArraySchema<readonly Contact[]>).max(20) as Joi.AnySchema<
      readonly Contact[]
    >,
    [],
  ),
  calendar: filled(calendarSchema.optional() as typeof calendarSchema, { country: '', region: '', days: [] }),
  tags: filled(
    Joi.object()
      .pattern(TAG_NAME, Joi.string().trim().max(80))
      .max(20)
      .messages({
        'object.unknown': `small letters, digits and hyphens, a letter first; none of ${RESERVED_TAGS.join(', ')}`,
      })
      .description('Every resource of theirs carries them too') as Joi.AnySchema<
      Readonly<Record<string, string>>
    >,
    {},
  ),
  naming: filled(
    Joi.string()
      .trim()
      .allow('')
      .max(80)
      .custom(readable)
      .description(
        'The rule that makes computer names, like {customer}-{role}{counter:2}; empty: the template’s',
      ),
    '',
  ),
  nameServers: filled(
    (
      listOf(
        Joi.string()
          .ip({ version: ['ipv4'], cidr: 'forbidden' })
          .required(),
      ) as Joi.ArraySchema<readonly string[]>
    )
      .max(4)
      .description('Their name servers, the first asked first') as Joi.AnySchema<readonly string[]>,
    [],
  ),
  blockPrefix: filled(
    Joi.number()
      .integer()
      .min(16)
      .max(26)
      .description('How large their address block at a site is: 20 is 4096 addresses'),
    20,
  ),
  gatewayName: filled(
    Joi.string()
      .trim()
      .lowercase()
      .allow('')
      .max(253)
      .hostname()
      .messages({ 'string.hostname': 'write a DNS name, like desks.svg.example' })
      .description('The name that their people sign in at; empty: none of their own'),
    '',
  ),
  administrator: filled(
    mail.allow('').description('Their own local administrator, where the plan has one; empty: none'),
    '',
  ),
};
export const customerDetailsSchema = shape(details);
export type CustomerDetails = Of<typeof customerDetailsSchema>;

/** Of whom nothing more is said. */
export const NO_DETAILS: CustomerDetails = {
  contacts: [],
  calendar: { country: '', region: '', days: [] },
  tags: {},
  naming: '',
  nameServers: [],
  blockPrefix: 20,
  gatewayName: '',
  administrator: '',
};

const zone = Joi.string().max(64).required().description('Of the IANA time zone database');

export const newCustomerSchema = shape({
  code: customerCode,
  name: Joi.string().trim().max(120).required(),
  state: filled(oneOf(['active', 'trial']), 'active'),
  plan: Joi.string().max(16).required(),
  site: Joi.string().max(16).required().description('Their home site'),
  zone,
  currency: Joi.string().length(3).uppercase().required(),
  card: Joi.string().max(16).required().description('Its rate card, in its currency'),
  ...details,
});
export type NewCustomer = Of<typeof newCustomerSchema>;
/** As it is sent: what has a default may be left out. */
export type SentCustomer = Sent<typeof newCustomerSchema>;

/** What of a customer may be said otherwise at any time. */
export const changedCustomerSchema = shape({
  name: Joi.string().trim().max(120).required(),
  zone,
  ...details,
  reason,
});
export type ChangedCustomer = Of<typeof changedCustomerSchema>;

/** All that is said of a customer: as it is written to a file, and read from one. */
const filledIn = {
  code: text,
  name: text,
  state: oneOf(CUSTOMER_STATES),
  plan: text,
  site: text,
  zone: text,
  currency: text,
  card: text,
  ...details,
};
export const wholeCustomerSchema = shape(filledIn);
export type WholeCustomer = Of<typeof wholeCustomerSchema>;

/** What would come of a customer as far as it is filled in. */
export const previewSchema = shape({
  mark: markSchema,
  /** Each name of the rule, for a pool of that name in an environment of that name. */
  names: listOf(shape({ role: text, first: text, last: text, left: whole })),
  /** What is wrong with the names; empty: nothing. */
  nameFaults: listOf(text),
  /** Whose rule could make the same names. */
  meets: listOf(text),
  /** The block that the first environment at the home site would bring; null: none is free. */
  block: maybeText,
  room: whole,
  /** Of this year and the next, from today on. */
  holidays: listOf(shape({ date: text, name: text })),
  /** What the plan costs a month from day one; null: it is not sold in this currency. */
  monthly: maybe(moneySchema),
  /** What is missing or cannot be used yet: the field, and what is wrong. */
  missing: listOf(shape({ field: text, says: text })),
});
export type Preview = Of<typeof previewSchema>;

/** A customer half filled in, kept for later: what is in its fields. */
export const draftSchema = shape({ id: text, title: text, by: text, at: whole, fields: texts });
export type Draft = Of<typeof draftSchema>;

export const FILE_OUTCOMES = ['new', 'changed', 'same', 'refused'] as const;
/** What comes, or came, of each customer of a file. */
export const fileOutcomeSchema = shape({
  kept: flag,
  customers: listOf(
    shape({
      code: text,
      outcome: oneOf(FILE_OUTCOMES),
      /** What is otherwise than it was, by name. */
      changed: listOf(text),
      says: text,
    }),
  ),
  faults: listOf(fileFaultSchema),
});
export type FileOutcome = Of<typeof fileOutcomeSchema>;

const area = 'Customers';
const draftParams = shape({
  draft: Joi.string()
    .pattern(/^[0-9A-HJKMNP-TV-Z]{26}$/)
    .required(),
});
const draftFields = shape({
  fields: Joi.object()
    .pattern(Joi.string().max(40), Joi.string().allow('').max(10_000))
    .max(60)
    .required() as Joi.AnySchema<Readonly<Record<string, string>>>,
});

export const customerEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/customers',
    area,
    summary: 'The customers in your reach, by code',
    query: listQuery,
    answer: pageOf(customerSchema),
  }),
  create: endpoint({
    method: 'POST',
    path: '/customers',
    area,
    summary: 'Take on a customer',
    right: 'build',
    body: newCustomerSchema,
    status: 201,
    answer: shape({ id: text }),
  }),
  preview: question({
    path: '/customers/proposal',
    area,
    summary: 'What would come of a customer, as far as it is filled in; what is missing is told',
    body: shape({
      code: Joi.string().allow('').max(40).required(),
      name: Joi.string().allow('').max(200).required(),
      plan: Joi.string().allow('').max(16).required(),
      site: Joi.string().allow('').max(16).required(),
      zone: Joi.string().allow('').max(64).required(),
      currency: Joi.string().allow('').max(8).required(),
      card: Joi.string().allow('').max(16).required(),
      naming: Joi.string().allow('').max(80).required(),
      country: Joi.string().allow('').max(4).required(),
      region: Joi.string().allow('').max(8).required(),
      blockPrefix: Joi.number().integer().min(16).max(26).required(),
      /** The customer that it is already, when it is changed. */
      known: Joi.string().allow('').max(16).required(),
    }),
    answer: previewSchema,
  }),
  read: endpoint({
    method: 'GET',
    path: '/customers/{customer}',
    area,
    summary: 'One customer',
    params: customerParams,
    answer: customerSchema,
  }),
  about: endpoint({
    method: 'GET',
    path: '/customers/{customer}/about',
    area,
    summary: 'Everything that is said of the customer, as it can be filled in',
    params: customerParams,
    answer: wholeCustomerSchema,
  }),
  change: endpoint({
    method: 'PUT',
    path: '/customers/{customer}/about',
    area,
    summary: 'Say otherwise what may be said otherwise of a customer at any time',
    params: customerParams,
    right: 'build',
    body: changedCustomerSchema,
    answer: shape({ changed: listOf(text) }),
  }),
  file: endpoint({
    method: 'GET',
    path: '/customers/{customer}/about.yaml',
    area,
    summary: 'The customer as a YAML file, which can be read back to the same',
    params: customerParams,
    responseType: 'application/yaml',
  }),
  schema: endpoint({
    method: 'GET',
    path: '/customers.schema.json',
    area,
    summary: 'The JSON Schema (2020-12) of a file of customers',
    responseType: 'application/schema+json',
  }),
  importFile: endpoint({
    method: 'POST',
    path: '/customers/file',
    area,
    summary: 'Take on customers from a YAML file, or change them: all of it in one transaction, or nothing',
    right: 'build',
    query: shape({ keep: filled(oneOf(['check', 'all']), 'check') }).optional(),
    requestType: 'application/yaml',
    mostBytes: 1_000_000,
    body: Joi.string().allow('').required(),
    answer: fileOutcomeSchema,
  }),
  drafts: endpoint({
    method: 'GET',
    path: '/customer-drafts',
    area,
    summary: 'Customers half filled in, by anyone',
    right: 'build',
    answer: shape({ drafts: listOf(draftSchema) }),
  }),
  keepDraft: endpoint({
    method: 'PUT',
    path: '/customer-drafts/{draft}',
    area,
    summary: 'Keep a customer that is half filled in',
    params: draftParams,
    right: 'build',
    body: draftFields,
    status: 204,
  }),
  dropDraft: endpoint({
    method: 'DELETE',
    path: '/customer-drafts/{draft}',
    area,
    summary: 'Drop what was half filled in',
    params: draftParams,
    right: 'build',
    status: 204,
  }),
};
