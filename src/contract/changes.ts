import Joi from 'joi';
import type { Durations } from '../core/durations';
import type { Facts } from '../core/facts';
import { CONDITIONS, SITE_KINDS } from '../core/facts';
import type { Attributes } from '../core/intent';
import { OVERRIDDEN, OVERRIDE_CAUSES } from '../core/overrides';
import { CHECK_STATES, policyWish, type Change, type Check, type PolicyWish } from '../core/planning';
import { PURPOSES } from '../core/resources';
import { POWERS } from '../core/status';
import { approvalFactsSchema } from './approval';
import { customerParams, environmentParams, impactSchema, moneySchema, reason, saysSchema } from './common';
import { endpoint, question } from './endpoint';
import { amountsSchema, planFactsSchema } from './plans';
import { rateSchema } from './pricing';
import { policySchema } from './runs';
import {
  flag,
  listOf,
  maybe,
  maybeText,
  maybeWhole,
  number,
  oneOf,
  optional,
  shape,
  text,
  texts,
  whole,
  type Of,
} from './shape';
import { profileNeedSchema } from './sizing';
import { imageSchema, quotaSchema, sizeSchema } from './sites';
import { templateDocumentSchema } from './templates';

const attribute = Joi.alternatives(
  Joi.string().allow('', null),
  Joi.number(),
  Joi.boolean(),
  Joi.array().items(Joi.string()),
);

/** What a resource is made of: plain data by name, as its kind has them. */
export const attributesSchema: Joi.AnySchema<Attributes> = Joi.object()
  .pattern(Joi.string(), attribute)
  .required();

export const checkSchema: Joi.AnySchema<Check> = shape({
  key: text,
  title: text,
  state: oneOf(CHECK_STATES),
  says: text,
  do: optional(text),
  evidence: optional(text),
  at: optional(whole),
  fix: optional(shape({ of: oneOf(['customer', 'everyone']), page: text, says: text })),
});

/** What is to be done to one resource, as it is shown. */
export const taskSchema = shape({
  key: text,
  kind: text,
  name: text,
  do: oneOf(PURPOSES),
  /** Each difference that is mended, in plain words. */
  says: listOf(text),
  /** What is wanted of it; for what goes, what was. */
  attributes: attributesSchema,
  /** People signed in on it. */
  people: whole,
});
export type ProposedTask = Of<typeof taskSchema>;

export const proposalSchema = shape({
  kind: text,
  title: text,
  /** What of the input cannot be used, beside its fields; null when all can. */
  refused: maybe(texts),
  tasks: listOf(taskSchema),
  steps: listOf(
    shape({ key: text, kind: text, action: text, subject: text, needs: listOf(text), seconds: number }),
  ),
  policy: policySchema,
  seconds: number,
  critical: listOf(text),
  /** Whose data would be destroyed: then the customer's code is typed. */
  destroyed: listOf(text),
  cost: listOf(
    shape({ meter: text, size: maybeText, quantity: number, unit: text, price: text, amount: moneySchema }),
  ),
  monthly: moneySchema,
  checks: listOf(checkSchema),
  impact: impactSchema,
  room: whole,
});
export type ProposalView = Of<typeof proposalSchema>;

export const fingerprintedSchema = shape({ proposal: proposalSchema, fingerprint: text });
export type FingerprintedProposal = Of<typeof fingerprintedSchema>;

const blockSchema = shape({ base: whole, prefix: whole });
const placed = {
  id: text,
  customer: text,
  pool: text,
  vcpu: whole,
  memoryGiB: whole,
  diskGiB: whole,
  node: text,
};

/** What the proposal of a new environment is computed from, in the browser as on the server. */
export const factsSchema = shape({
  now: whole,
  approval: optional(approvalFactsSchema),
  customer: shape({
    code: text,
    currency: text,
    zone: text,
    state: text,
    realm: text,
    naming: text,
    plan: planFactsSchema,
    takes: amountsSchema,
    stands: optional(Joi.object<Record<string, number>>().pattern(Joi.string(), Joi.number())),
    needs: optional(listOf(profileNeedSchema)),
    people: whole,
    block: optional(blockSchema),
    taken: Joi.object<Record<string, string[]>>().pattern(Joi.string(), listOf(text)).required(),
    environments: listOf(text),
    nameServers: listOf(text),
    gateway: optional(shape({ name: text, certificate: text, until: whole })),
  }),
  site: shape({
    code: text,
    name: text,
    kind: oneOf(SITE_KINDS),
    reservedAddresses: whole,
    sizes: listOf(sizeSchema),
    images: listOf(imageSchema),
    imagesElsewhere: optional(listOf(imageSchema)),
    nodes: listOf(
      shape({
        id: text,
        zone: text,
        vcpu: whole,
        memoryGiB: whole,
        diskGiB: whole,
        dedicatedTo: optional(text),
        isDown: optional(flag),
      }),
    ),
    present: listOf(shape(placed)),
    quota: optional(quotaSchema),
    durations: optional(
      Joi.object<Durations>().pattern(Joi.string(), shape({ count: whole, median: number, late: number })),
    ),
    signIn: saysSchema,
    directory: saysSchema,
    namesThere: optional(listOf(text)),
    services: optional(shape({ network: text, cidr: text, nameServers: listOf(text), directory: text })),
    route: optional(saysSchema),
    nameServers: optional(saysSchema),
    askedAt: optional(whole),
    shelf: optional(
      listOf(
        shape({
          ref: text,
          name: text,
          size: text,
          image: text,
          diskGiB: whole,
          node: Joi.string().allow(null).required() as Joi.AnySchema<string | null>,
        }),
      ),
    ),
    joinedBy: optional(whole),
  }),
  rates: listOf(rateSchema),
  template: optional(shape({ code: text, revision: whole, document: templateDocumentSchema })),
  /** The customer’s groups, where the template asks for some. */
  grantees: optional(
    listOf(
      shape({
        id: text,
        to: oneOf(['group', 'person']),
        name: text,
        unit: text,
        inScope: flag,
        people: whole,
      }),
    ),
  ),
  known: listOf(
    shape({
      id: text,
      key: text,
      kind: text,
      name: text,
      attributes: attributesSchema,
      needs: listOf(text),
      version: whole,
      wanted: flag,
      unsettled: flag,
      awaited: optional(flag),
      people: whole,
    }),
  ),
  present: listOf(
    shape({
      ref: text,
      kind: text,
      name: text,
      key: maybeText,
      condition: oneOf(CONDITIONS),
      attributes: attributesSchema,
    }),
  ),
  /** What is set otherwise of every host of the customer. */
  overrides: optional(
    listOf(
      shape({
        host: maybeText,
        cause: oneOf(OVERRIDE_CAUSES),
        attribute: oneOf(OVERRIDDEN),
        value: Joi.alternatives(flag, oneOf(POWERS)),
        why: text,
        by: text,
        since: whole,
        until: maybeWhole,
      }),
    ),
  ),
});

const area = 'Changes';

export const factsEndpoints = {
  facts: endpoint({
    method: 'GET',
    path: '/customers/{customer}/facts',
    area,
    summary: 'The facts that a proposal for a new environment at a site is computed from',
    params: customerParams,
    query: shape({ site: Joi.string().max(16).required(), template: Joi.string().max(32).required() }),
    answer: factsSchema as Joi.AnySchema<Facts>,
  }),
};

const typedCode = Joi.string()
  .allow('')
  .max(16)
  .required()
  .description("The customer's code, as typed by whoever does it");

/** What is begun: what was proposed, by its fingerprint. */
export interface Begin {
  readonly input: unknown;
  readonly policy?: PolicyWish;
  readonly fingerprint: string;
  readonly reason: string;
  readonly code?: string;
}

/** What is held: as it is begun, for so long. */
export interface HoldAsk extends Omit<Begin, 'code'> {
  readonly minutes: number;
}

/** The three ways into a change of the catalogue: what it would do, begin it, and have it held. */
export function changeEndpoints(
  change: Pick<Change, 'kind' | 'subject' | 'of' | 'verb' | 'input' | 'right' | 'confirm'>,
) {
  const isNew = change.subject === 'new environment';
  const own = change.of !== 'customers';
  const path = isNew
    ? `/customers/{customer}/changes/${change.kind}`
    : `/customers/{customer}/environments/{environment}/changes/${change.kind}`;
  const asked = { input: change.input.required(), policy: optional(policyWish) };
  const params: Joi.AnySchema<{ customer: string; environment?: string }> = isNew
    ? customerParams
    : environmentParams;
  const body: Joi.ObjectSchema<Begin> = shape({
    ...asked,
    fingerprint: Joi.string().max(40).required(),
    reason,
    // Where data would be destroyed it is asked for whatever the change.
    code: change.confirm === 'type the code' ? typedCode : optional(Joi.string().allow('').max(16)),
  });
  const holdBody: Joi.ObjectSchema<HoldAsk> = shape({
    ...asked,
    fingerprint: Joi.string().max(40).required(),
    reason,
    minutes: Joi.number()
      .integer()
      .min(15)
      .max(7 * 24 * 60)
      .required(),
  });
  return {
    propose: question({
      path: `${path}/proposal` as `${string}{customer}${string}`,
      area,
      summary: `${change.verb}: what it would do, cost and take, with every check; changes nothing`,
      params,
      own,
      body: shape(asked),
      answer: fingerprintedSchema,
    }),
    hold: endpoint({
      method: 'POST',
      path: `${path}/hold` as `${string}{customer}${string}`,
      area,
      summary: `${change.verb}: holds it as proposed; its names, addresses, room and quota are kept for it until then`,
      params,
      own,
      right: change.right,
      body: holdBody,
      status: 201,
      answer: shape({ hold: text }),
    }),
    begin: endpoint({
      method: 'POST',
      path: path as `${string}{customer}${string}`,
      area,
      summary: `${change.verb}: begins it as proposed; send back the fingerprint of the proposal that you agree to`,
      params,
      own,
      right: change.right,
      body,
      status: 201,
      answer: shape({ run: text, environment: text }),
    }),
  };
}
