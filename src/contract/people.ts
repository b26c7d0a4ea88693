import Joi from 'joi';
import { PEOPLE_COLUMNS } from '../core/people';
import { customerParams, listQuery, pageOf } from './common';
import { endpoint } from './endpoint';
import { filled, flag, listOf, oneOf, shape, text, whole, type Of } from './shape';

export const personSchema = shape({
  id: text,
  account: text,
  given: text,
  family: text,
  mail: text,
  /** Where they stand in the directory, from the top; empty where it does not say. */
  unit: text,
});
export type Person = Of<typeof personSchema>;

export const importOutcomeSchema = shape({
  kept: flag,
  good: whole,
  added: whole,
  changed: whole,
  badRows: whole,
  /** The first of them. */
  bad: listOf(shape({ line: whole, reason: text })),
});
export type ImportOutcome = Of<typeof importOutcomeSchema>;

const area = 'People';

export const peopleEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/customers/{customer}/people',
    area,
    summary: "The customer's people, by account",
    params: customerParams,
    query: listQuery,
    answer: pageOf(personSchema),
  }),
  import: endpoint({
    method: 'POST',
    path: '/customers/{customer}/people/import',
    area,
    summary: `Import people from a CSV file with the columns ${PEOPLE_COLUMNS.join(', ')} (RFC 4180), or from an LDIF file (RFC 2849)`,
    right: 'build',
    params: customerParams,
    query: shape({
      keep: filled(
        oneOf(['all', 'good']).description(
          '`all`: keep nothing when a row is bad; `good`: keep the good rows',
        ),
        'all',
      ),
    }).optional(),
    requestType: 'text/csv',
    mostBytes: 4_000_000,
    body: Joi.string().allow('').required(),
    answer: importOutcomeSchema,
  }),
  csv: endpoint({
    method: 'GET',
    path: '/customers/{customer}/people.csv',
    area,
    right: 'build',
    summary: "The customer's people as CSV, as the import reads them",
    params: customerParams,
    responseType: 'text/csv',
  }),
};
