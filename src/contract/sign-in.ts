import Joi from 'joi';
import { id, ownName } from './common';
import { endpoint } from './endpoint';
import { newPassword } from './operators';
import { REACHES, RIGHTS, ROLES } from './roles';
import { filled, flag, listOf, maybe, maybeWhole, oneOf, shape, text, whole, type Of } from './shape';

export const credentialsSchema = shape({
  mail: Joi.string().trim().max(254).required().messages({ 'string.empty': 'enter your mail address' }),
  password: Joi.string().max(200).required().messages({ 'string.empty': 'enter your password' }),
  code: filled(
    Joi.string()
      .trim()
      .allow('')
      .max(40)
      .description('Of the second factor, or a recovery code; asked for where one is set up'),
    '',
  ),
});
export type Credentials = Of<typeof credentialsSchema>;

export const passwordChangeSchema = shape({
  password: Joi.string().max(200).required().messages({ 'string.empty': 'enter your current password' }),
  next: newPassword,
});
export type PasswordChange = Of<typeof passwordChangeSchema>;

export const newTokenSchema = shape({
  name: ownName.messages({ 'string.empty': 'say what it is for' }),
  days: filled(Joi.number().integer().min(1).max(365), 90),
  rights: filled(
    maybe(listOf(oneOf(RIGHTS))).description(
      'What it may do, of what you may; null: everything that you may. It may always see',
    ),
    null,
  ),
});
export type NewToken = Of<typeof newTokenSchema>;

export const tokenSchema = shape({
  id: text,
  name: text,
  operator: text,
  /** Null: everything that its operator may. */
  rights: maybe(listOf(oneOf(RIGHTS))),
  /** Wall time, as the others. */
  madeAt: whole,
  endsAt: whole,
  /** To the minute; null: never. */
  usedAt: maybeWhole,
});
export type Token = Of<typeof tokenSchema>;

const codeText = Joi.string()
  .trim()
  .min(6)
  .max(40)
  .required()
  .messages({ 'string.empty': 'enter a code', 'string.min': 'six digits' });
export const codeSchema = shape({ code: codeText });
export type FactorCode = Of<typeof codeSchema>;

/** A first code of the new second factor, and what shows that it is really them. */
export const setFactorSchema = shape({
  code: codeText,
  current: Joi.string()
    .trim()
    .max(200)
    .required()
    .description('A code of the second factor that is set; where none is set, the password')
    .messages({ 'string.empty': 'enter it' }),
});
export type FactorSet = Of<typeof setFactorSchema>;

export const factorSchema = shape({
  isSet: flag,
  /** Whether everyone has to have one. */
  required: flag,
  /** Whether a code of it is to be shown before anything else. */
  toShow: flag,
  /** Recovery codes that are left. */
  recovery: whole,
});
export type Factor = Of<typeof factorSchema>;

export const invitedSchema = shape({ password: newPassword });

export const newFactorSchema = shape({
  secret: text,
  /** As apps read it, and as a picture of it: `otpauth://totp/…`, SVG. */
  uri: text,
  picture: text,
});
export type NewFactor = Of<typeof newFactorSchema>;

const area = 'Sign-in';

export const signInEndpoints = {
  signIn: endpoint({
    method: 'POST',
    path: '/session',
    area,
    summary: 'Sign in; the answer sets the session cookie',
    anyone: true,
    mostBytes: 4_000,
    body: credentialsSchema,
    status: 204,
  }),
  beginOutside: endpoint({
    method: 'GET',
    path: '/session/outside',
    area,
    summary:
      'Sends the browser to the identity service, to sign in there (OpenID Connect, code flow with PKCE)',
    anyone: true,
    status: 303,
    query: shape({ next: filled(Joi.string().allow('').max(2_000), '/') }),
  }),
  endOutside: endpoint({
    method: 'GET',
    path: '/session/outside/back',
    area,
    summary: 'Where the identity service sends the browser back to; sets the session cookie',
    anyone: true,
    status: 303,
  }),
  signOut: endpoint({
    method: 'DELETE',
    path: '/session',
    area,
    summary: 'Sign out',
    anyone: true,
    status: 204,
  }),
  me: endpoint({
    method: 'GET',
    path: '/me',
    area,
    summary: 'Who you are and whom you reach',
    answer: shape({
      name: text,
      role: oneOf(ROLES),
      rights: listOf(oneOf(RIGHTS)).description('What you may do; of a token, what it may'),
      reach: oneOf(REACHES).description('Whether you reach every customer or those listed for you'),
    }),
    beforeFactor: true,
  }),
  factor: endpoint({
    method: 'GET',
    path: '/second-factor',
    area,
    summary: 'Whether you have a second factor, and whether everyone has to',
    beforeFactor: true,
    answer: factorSchema,
  }),
  newFactor: endpoint({
    method: 'POST',
    path: '/second-factor',
    area,
    inPerson: true,
    summary: 'Begin to set up a second factor (RFC 6238); its secret is shown this once',
    beforeFactor: true,
    status: 201,
    answer: newFactorSchema,
  }),
  setFactor: endpoint({
    method: 'PUT',
    path: '/second-factor',
    area,
    inPerson: true,
    summary:
      'Set up the second factor by a first code of it and by the one before it, or the password; API tokens end; the recovery codes are shown this once',
    beforeFactor: true,
    mostBytes: 4_000,
    body: setFactorSchema,
    answer: shape({ recovery: listOf(text) }),
  }),
  showFactor: endpoint({
    method: 'PUT',
    path: '/second-factor/shown',
    area,
    summary: 'Show a code of your second factor, where the identity service did not ask for one',
    inPerson: true,
    beforeFactor: true,
    mostBytes: 4_000,
    body: codeSchema,
    status: 204,
  }),
  dropFactor: endpoint({
    method: 'DELETE',
    path: '/second-factor',
    area,
    inPerson: true,
    summary: 'Give up your second factor, by a code of it',
    query: codeSchema,
    status: 204,
  }),
  accept: endpoint({
    method: 'POST',
    path: '/invites/{invite}',
    area,
    summary: 'Take up an invitation: choose a password, once',
    anyone: true,
    mostBytes: 4_000,
    params: shape({ invite: Joi.string().max(80).required() }),
    body: invitedSchema,
    answer: shape({ mail: text }),
  }),
  changePassword: endpoint({
    method: 'PUT',
    path: '/password',
    area,
    inPerson: true,
    summary: 'Change your password; ends your sign-ins in other browsers and your API tokens',
    mostBytes: 4_000,
    body: passwordChangeSchema,
    status: 204,
  }),
  makeToken: endpoint({
    method: 'POST',
    path: '/tokens',
    area,
    inPerson: true,
    summary: 'Make an API token that reaches what you reach; it is shown this once',
    body: newTokenSchema,
    status: 201,
    answer: shape({ id: text, token: text, name: text }),
  }),
  tokens: endpoint({
    method: 'GET',
    path: '/tokens',
    area,
    summary: 'API tokens that have not ended: your own; to a lead also those of operators within their reach',
    answer: shape({ tokens: listOf(tokenSchema) }),
  }),
  endToken: endpoint({
    method: 'DELETE',
    path: '/tokens/{token}',
    area,
    summary: 'End an API token: your own; a lead may end those of operators within their reach',
    params: shape({ token: id }),
    status: 204,
  }),
};
