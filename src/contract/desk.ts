import Joi from 'joi';
import { DESK_STATES, OWN_STATES } from '../core/desk';
import { CROSSINGS, ITEM_ICONS, ITEM_KINDS, OWN_ACTS, SCREENS } from '../core/intent';
import { customerCode, customerParams, id, markSchema, plainLines, saysSchema } from './common';
import { endpoint, question } from './endpoint';
import { filled, flag, listOf, maybe, optional, oneOf, shape, text, whole, type Of } from './shape';

const place = {
  environmentId: id,
  pool: Joi.string().max(24).required(),
  item: Joi.string().max(80).required(),
};
export const deskPlaceSchema = shape(place);
export type DeskPlace = Of<typeof deskPlaceSchema>;

export const deskItemSchema = shape({
  environmentId: text,
  environment: text,
  pool: text,
  name: text,
  kind: oneOf(ITEM_KINDS),
  /** Under which heading it stands; empty: under none. */
  folder: text,
  icon: maybe(oneOf(ITEM_ICONS)),
  /** What may cross between it and where one sits. */
  crosses: listOf(oneOf(CROSSINGS)),
  /** How large it is shown. */
  screen: oneOf(SCREENS),
  state: oneOf(DESK_STATES),
  /** In a sentence that anybody understands. */
  says: text,
  /** How long until one is in, about. */
  seconds: whole,
  favourite: flag,
});
export type DeskItem = Of<typeof deskItemSchema>;

/** The desktop of one's own, and what one may do with it. */
export const ownDesktopSchema = shape({
  environmentId: text,
  pool: text,
  host: text,
  hostId: text,
  state: oneOf(OWN_STATES),
  may: listOf(oneOf(OWN_ACTS)),
});

export const deskSchema = shape({
  customer: shape({ code: text, name: text, mark: markSchema }),
  person: shape({ account: text, name: text }),
  items: listOf(deskItemSchema),
  own: listOf(ownDesktopSchema),
  /** What whoever looks after them has to say, newest first. */
  messages: listOf(shape({ text, at: whole })),
});
export type Desk = Of<typeof deskSchema>;

/** How a program that shows desktops finds a session: an open format of ours (docs/api.md). */
export const deskConnectionSchema = shape({
  format: oneOf(['laager-connection']),
  version: oneOf(['1']),
  name: text,
  item: text,
  kind: oneOf(ITEM_KINDS),
  host: text,
  account: text,
  address: text,
  /** The address lets one in until then. */
  until: whole,
  crosses: listOf(oneOf(CROSSINGS)),
  /** How large it is shown. */
  screen: oneOf(SCREENS),
});
export type DeskConnection = Of<typeof deskConnectionSchema>;

export const startedSchema = shape({
  state: oneOf(['ready', 'starting']),
  says: text,
  /** How long until it is ready, about. */
  seconds: whole,
  connection: maybe(deskConnectionSchema),
});
export type Started = Of<typeof startedSchema>;

/** What stands on people's desks until then; `person` null: on everyone's. */
export const deskMessageSchema = shape({
  id: text,
  person: maybe(text),
  text,
  by: text,
  at: whole,
  until: whole,
});
export type DeskMessage = Of<typeof deskMessageSchema>;

/** Which of what an identity service says of somebody is compared with ours: their mail, or their account. */
export const KNOWN_BY = ['mail', 'account'] as const;

export const deskIdentitySchema = shape({
  /** What the button says. */
  name: text,
  issuer: text,
  client: text,
  knownBy: oneOf(KNOWN_BY),
  /** Nobody of theirs comes in by mail. */
  onlyThere: flag,
});
export type DeskIdentity = Of<typeof deskIdentitySchema>;

const issuer = Joi.string()
  .trim()
  .uri({ scheme: ['http', 'https'] })
  .max(300);

const area = 'My desk';

export const deskEndpoints = {
  askLink: endpoint({
    method: 'POST',
    path: '/desk/links',
    area,
    summary: 'Sends a way in by mail to whoever has this address; says the same whether anybody has',
    anyone: true,
    body: shape({ mail: Joi.string().trim().email({ tlds: false }).max(254).required() }),
    status: 202,
  }),
  signIn: endpoint({
    method: 'POST',
    path: '/desk/session',
    area,
    summary: 'Signs in by a way in that was mailed; sets a cookie',
    anyone: true,
    body: shape({ link: Joi.string().max(100).required() }),
    status: 204,
  }),
  signOut: endpoint({
    method: 'DELETE',
    path: '/desk/session',
    area,
    summary: 'Signs out of one’s desk',
    anyone: true,
    status: 204,
  }),
  read: endpoint({
    method: 'GET',
    path: '/desk',
    area,
    summary: 'One’s own desktops and apps, and how they are',
    answer: deskSchema,
  }),
  start: endpoint({
    method: 'POST',
    path: '/desk/starts',
    area,
    summary: 'Starts an item: answers with the way to it, or that it is being started',
    body: deskPlaceSchema,
    answer: startedSchema,
  }),
  own: endpoint({
    method: 'POST',
    path: '/desk/own',
    area,
    summary: 'Starts a desktop of one’s own, restarts it, or puts it to sleep',
    body: shape({ hostId: id, act: oneOf(['start', 'restart', 'sleep']) }),
    answer: deskSchema,
  }),
  favourite: endpoint({
    method: 'PUT',
    path: '/desk/favourite',
    area,
    summary: 'Puts an item first on one’s desk; null: none',
    body: shape({ favourite: maybe(deskPlaceSchema) }),
    answer: deskSchema,
  }),
  look: endpoint({
    method: 'GET',
    path: '/customers/{customer}/people/{person}/desk',
    area: 'People',
    summary: 'A person’s desk as they see it; that it was looked at stands on the trail',
    params: shape({ customer: customerCode, person: id }),
    right: 'run',
    answer: deskSchema,
  }),
  endSignIns: endpoint({
    method: 'POST',
    path: '/customers/{customer}/people/{person}/desk-sessions/ended',
    area: 'People',
    summary: 'Signs a person out of My desk everywhere; links that were mailed to them no longer work',
    params: shape({ customer: customerCode, person: id }),
    right: 'run',
    answer: shape({ ended: whole }),
  }),
  messages: endpoint({
    method: 'GET',
    path: '/customers/{customer}/desk-messages',
    area: 'People',
    summary: 'What stands on the desks of the customer’s people now',
    params: customerParams,
    query: shape({ person: optional(id) }).optional(),
    answer: shape({ messages: listOf(deskMessageSchema) }),
  }),
  say: endpoint({
    method: 'POST',
    path: '/customers/{customer}/desk-messages',
    area: 'People',
    summary: 'Has something stand on the desk of one of the customer’s people, or of all of them',
    right: 'run',
    params: customerParams,
    body: shape({
      person: maybe(id),
      text: Joi.string().trim().min(1).max(300).custom(plainLines).required(),
      hours: filled(Joi.number().integer().min(1).max(720), 24),
    }),
    status: 201,
    answer: shape({ id: text }),
  }),
  unsay: endpoint({
    method: 'DELETE',
    path: '/customers/{customer}/desk-messages/{message}',
    area: 'People',
    summary: 'Takes something from people’s desks that stands there',
    right: 'run',
    params: shape({ customer: customerCode, message: id }),
    status: 204,
  }),
  beginOutside: endpoint({
    method: 'GET',
    path: '/desk/outside',
    area,
    summary: 'Sends the browser to a customer’s own identity service, to sign in there (OpenID Connect)',
    anyone: true,
    status: 303,
    query: shape({ customer: Joi.string().max(16).required() }),
  }),
  endOutside: endpoint({
    method: 'GET',
    path: '/desk/outside/back',
    area,
    summary: 'Where that service sends the browser back to; sets the desk’s cookie',
    anyone: true,
    status: 303,
  }),
  identity: endpoint({
    method: 'GET',
    path: '/customers/{customer}/desk-identity',
    area: 'People',
    summary: 'The identity service that the customer’s people sign in with; null: none',
    params: customerParams,
    answer: shape({ identity: maybe(deskIdentitySchema) }),
  }),
  tryIdentity: question({
    path: '/customers/{customer}/desk-identity/tried',
    area: 'People',
    summary: 'Asks an identity service what it says of itself; keeps nothing',
    right: 'build',
    params: customerParams,
    body: shape({ issuer: issuer.required() }),
    answer: saysSchema,
  }),
  keepIdentity: endpoint({
    method: 'PUT',
    path: '/customers/{customer}/desk-identity',
    area: 'People',
    summary: 'Has the customer’s people sign in with their own identity service; an empty issuer: with none',
    right: 'build',
    params: customerParams,
    body: shape({
      name: Joi.string().trim().max(60).allow('').required(),
      issuer: issuer.allow('').required(),
      client: Joi.string().trim().max(200).allow('').required(),
      /** Left empty: the one that is kept. */
      secret: Joi.string().max(500).allow('').required(),
      knownBy: oneOf(KNOWN_BY),
      onlyThere: flag,
    }),
    answer: shape({ identity: maybe(deskIdentitySchema) }),
  }),
};
