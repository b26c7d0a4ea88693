import Joi from 'joi';
import { stringify } from 'csv-stringify/sync';
import { createCustomer, getCustomer, listCustomers, type NewCustomer } from '../../customers';
import { importPeople, listPeople } from '../../people';
import { created, customerRoute, ok, paged, operatorRoute, type Route } from '../route';
import {
  customerParams,
  flag,
  listOf,
  listQuery,
  markShape,
  oneOf,
  pageShape,
  shape,
  text,
  whole,
} from '../shapes';

const customerShape = shape({
  code: text,
  name: text,
  state: oneOf('active', 'trial', 'paused', 'leaving', 'retired'),
  plan: text,
  site: text,
  siteName: text,
  zone: text,
  currency: text,
  realm: text,
  people: whole,
  hosts: whole,
  blocks: listOf(shape({ site: text, cidr: text })),
  mark: markShape,
});

const personShape = shape({ id: text, account: text, given: text, family: text, mail: text });

export const customerRoutes: readonly Route[] = [
  operatorRoute({
    method: 'GET',
    path: '/customers',
    area: 'Customers',
    summary: 'The customers in your reach, by code',
    query: listQuery,
    answer: pageShape(customerShape),
    handle: async ({ app, query }, scope) =>
      ok(
        await paged(
          query.limit,
          (limit) => listCustomers(app.db, scope, { ...query, limit }),
          (one) => one.code,
        ),
      ),
  }),
  operatorRoute({
    method: 'POST',
    path: '/customers',
    area: 'Customers',
    summary: 'Take on a customer',
    body: Joi.object<NewCustomer>({
      code: Joi.string()
        .pattern(/^[A-Z0-9]{2,16}$/)
        .required()
        .messages({ 'string.pattern.base': '2 to 16 capital letters and digits' }),
      name: Joi.string().trim().max(120).required(),
      state: Joi.string().valid('active', 'trial').default('active'),
      plan: Joi.string().max(16).required(),
      site: Joi.string().max(16).required(),
      zone: Joi.string().max(64).required().description('Of the IANA time zone database'),
      currency: Joi.string().length(3).uppercase().required(),
      card: Joi.string().max(16).required().description('Its rate card, in its currency'),
    }),
    roles: ['engineer', 'lead'],
    status: 201,
    answer: shape({ id: text }),
    work: ({ app, body }, scope) => createCustomer(app, scope, body),
    reply: (made, { body }) => created(made, `/api/v1/customers/${body.code}`),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}',
    area: 'Customers',
    summary: 'One customer',
    params: customerParams,
    answer: customerShape,
    handle: async ({ app }, scope) => ok(await getCustomer(app.db, scope)),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/people',
    area: 'People',
    summary: "The customer's people, by account",
    params: customerParams,
    query: listQuery,
    answer: pageShape(personShape),
    handle: async ({ app, query }, scope) =>
      ok(
        await paged(
          query.limit,
          (limit) => listPeople(app.db, scope, { ...query, limit }),
          (one) => one.account,
        ),
      ),
  }),
  customerRoute({
    method: 'POST',
    path: '/customers/{customer}/people/import',
    area: 'People',
    summary: 'Import people from a CSV file with the columns account, given, family, mail (RFC 4180)',
    params: customerParams,
    query: Joi.object<{ keep: 'all' | 'good' }>({
      keep: Joi.string()
        .valid('all', 'good')
        .default('all')
        .description('`all`: keep nothing when a row is bad; `good`: keep the good rows'),
    }),
    requestType: 'text/csv',
    body: Joi.string().allow('').required(),
    roles: ['engineer', 'lead'],
    answer: shape({
      kept: flag,
      good: whole,
      added: whole,
      changed: whole,
      bad: listOf(shape({ line: whole, reason: text })),
    }),
    work: ({ app, query, body }, scope) => importPeople(app, scope, body, query.keep === 'good'),
    reply: (made) => ok(made),
  }),
  customerRoute({
    method: 'GET',
    path: '/customers/{customer}/people.csv',
    area: 'People',
    summary: "The customer's people as CSV, as the import reads them",
    params: customerParams,
    responseType: 'text/csv',
    handle: async ({ app }, scope) => {
      const people = await listPeople(app.db, scope, { limit: 1_000_000 });
      return csvResponse(
        `${scope.customer.code}-people.csv`,
        stringify(people, {
          header: true,
          columns: ['account', 'given', 'family', 'mail'],
          record_delimiter: '\r\n',
        }),
      );
    },
  }),
];

/** A file to save, as RFC 4180 writes it. */
export const csvResponse = (name: string, body: string): Response =>
  new Response(body, {
    headers: {
      'content-type': 'text/csv; charset=utf-8; header=present',
      'content-disposition': `attachment; filename="${name}"`,
      'cache-control': 'no-store',
    },
  });
