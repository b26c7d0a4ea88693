import Joi from 'joi';
import { id, ownName } from './common';
import { endpoint } from './endpoint';
import { ROLES } from './roles';
import { filled, flag, listOf, maybe, maybeWhole, oneOf, shape, text, whole, type Of } from './shape';

const customers = maybe(listOf(Joi.string().max(16)));

export const operatorSchema = shape({
  id: text,
  name: text,
  mail: text,
  role: oneOf(ROLES),
  /** Codes of the customers reached; null: every customer. */
  customers,
  /** Wall times; null: never, or none. */
  endsAt: maybeWhole,
  lastSeenAt: maybeWhole,
  /** Whether they have a second factor. */
  factor: flag,
  /** Whether they were invited and have not come yet. */
  invited: flag,
  signIns: whole,
  tokens: whole,
});
export type Operator = Of<typeof operatorSchema>;

/** OWASP ASVS 4.0, 2.1.1 and 2.1.2: from 12 characters, and room for more than 128. */
export const newPassword = Joi.string()
  .min(12)
  .max(200)
  .required()
  .messages({ 'string.empty': 'choose one', 'string.min': 'at least 12 characters' });

export const newOperatorSchema = shape({
  name: ownName,
  mail: Joi.string().trim().email({ tlds: false }).max(254).required(),
  role: oneOf(ROLES),
  customers: filled(customers.description('Codes of the customers reached; left out: every customer'), null),
});
export type NewOperator = Of<typeof newOperatorSchema>;

export const changedOperatorSchema = shape({
  role: oneOf(ROLES),
  customers,
  endsAt: filled(maybe(whole), null),
});
export type ChangedOperator = Of<typeof changedOperatorSchema>;

/** What a group of the identity service gives; the first that somebody is in gives their role. */
export const groupRuleSchema = shape({
  group: Joi.string().trim().min(1).max(120).required().messages({ 'string.empty': 'name the group' }),
  role: oneOf(ROLES),
  customers,
});
export type GroupRuleView = Of<typeof groupRuleSchema>;

const operatorParams = shape({ operator: id });

const area = 'Operators';

export const operatorEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/operators',
    area,
    summary: 'Who works here, and whom each reaches',
    right: 'decide',
    answer: shape({ operators: listOf(operatorSchema), factorRequired: flag }),
  }),
  create: endpoint({
    method: 'POST',
    path: '/operators',
    area,
    inPerson: true,
    summary: 'Invite an operator: a link to choose a password is mailed to them',
    right: 'decide',
    body: newOperatorSchema,
    status: 201,
    answer: shape({ id: text }),
  }),
  change: endpoint({
    method: 'PUT',
    path: '/operators/{operator}',
    area,
    inPerson: true,
    summary: 'Say otherwise what someone is here, whom they reach, and until when',
    params: operatorParams,
    right: 'decide',
    body: changedOperatorSchema,
    answer: operatorSchema,
  }),
  endWaysIn: endpoint({
    method: 'POST',
    path: '/operators/{operator}/ended',
    area,
    inPerson: true,
    summary: 'End all sign-ins and tokens of someone',
    params: operatorParams,
    right: 'decide',
    answer: shape({ ended: whole }),
  }),
  dropFactor: endpoint({
    method: 'DELETE',
    path: '/operators/{operator}/second-factor',
    area,
    inPerson: true,
    summary: 'Take someone’s second factor away that they have lost; their sign-ins end',
    params: operatorParams,
    right: 'decide',
    status: 204,
  }),
  groups: endpoint({
    method: 'GET',
    path: '/operators-groups',
    area,
    summary: 'What each group of the identity service gives whoever is in it',
    right: 'decide',
    answer: shape({ rules: listOf(groupRuleSchema) }),
  }),
  keepGroups: endpoint({
    method: 'PUT',
    path: '/operators-groups',
    area,
    inPerson: true,
    everyone: true,
    summary: 'Say anew what the groups give; it holds from each one’s next sign-in on',
    right: 'decide',
    body: shape({
      rules: (listOf(groupRuleSchema) as Joi.ArraySchema<readonly GroupRuleView[]>).max(100) as Joi.AnySchema<
        readonly GroupRuleView[]
      >,
    }),
    answer: shape({ rules: listOf(groupRuleSchema) }),
  }),
  settings: endpoint({
    method: 'PUT',
    path: '/operators-settings',
    area,
    inPerson: true,
    everyone: true,
    summary: 'Whether everyone has to have a second factor',
    right: 'decide',
    body: shape({ factorRequired: Joi.boolean().required() }),
    status: 204,
  }),
};
