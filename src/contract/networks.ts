import Joi from 'joi';
import { customerCode, saysSchema } from './common';
import { endpoint } from './endpoint';
import { ENVIRONMENT_STATES } from './environments';
import { listOf, maybe, maybeText, oneOf, shape, text, type Of } from './shape';

/** How far one side of a peering is: it stands, is missing, is being made, or was never asked for. */
export const SIDE_STATES = ['stands', 'missing', 'under way', 'not asked for'] as const;

/** The MSP's shared services at a site. */
export const sharedServicesSchema = shape({
  cidr: text,
  nameServers: listOf(text),
  directory: text,
  gateway: text,
  environment: text,
  state: oneOf(ENVIRONMENT_STATES),
});

export const siteNetworksSchema = shape({ site: text, name: text, services: maybe(sharedServicesSchema) });
export type SiteNetworks = Of<typeof siteNetworksSchema>;

/** A customer's network at a site, and how it is joined with the shared services there. */
export const joinedNetworkSchema = shape({
  customer: text,
  site: text,
  cidr: text,
  nameServers: listOf(text),
  out: oneOf(SIDE_STATES),
  back: oneOf(SIDE_STATES),
  /** What is otherwise than wanted, as `mend` takes it. */
  differences: listOf(shape({ key: text, attribute: maybeText, says: text })),
  /** An environment of theirs through which it is mended; null: none serves here. */
  environment: maybeText,
});
export type JoinedNetwork = Of<typeof joinedNetworkSchema>;

export const networksSchema = shape({
  sites: listOf(siteNetworksSchema),
  networks: listOf(joinedNetworkSchema),
});
export type Networks = Of<typeof networksSchema>;

const area = 'Ground';

export const networkEndpoints = {
  list: endpoint({
    method: 'GET',
    path: '/ground/networks',
    area,
    summary:
      'The shared services of each site, and how the networks of customers in your reach are joined with them',
    answer: networksSchema,
  }),
  try: endpoint({
    method: 'GET',
    path: '/customers/{customer}/networks/{site}/route',
    area,
    summary:
      'Tries the way from the customer’s network to its name servers and directory, for real; changes nothing',
    params: shape({ customer: customerCode, site: Joi.string().max(16).required() }),
    answer: shape({ route: maybe(saysSchema) }),
  }),
};
