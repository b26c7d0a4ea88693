import { ENTERPRISE_USER, GROUP, LIST, MOST_ON_A_PAGE, PLACE, USER } from './resource';

const attribute = (name: string, over: object = {}): object => ({
  name,
  type: 'string',
  multiValued: false,
  required: false,
  caseExact: false,
  mutability: 'readWrite',
  returned: 'default',
  uniqueness: 'none',
  ...over,
});

const SCHEMAS = [
  {
    id: USER,
    name: 'User',
    attributes: [
      attribute('userName', { required: true, uniqueness: 'server' }),
      attribute('name', {
        type: 'complex',
        subAttributes: [attribute('givenName'), attribute('familyName')],
      }),
      attribute('emails', { type: 'complex', multiValued: true, subAttributes: [attribute('value')] }),
      attribute('active', { type: 'boolean' }),
    ],
  },
  {
    id: GROUP,
    name: 'Group',
    attributes: [
      attribute('displayName', { required: true }),
      attribute('members', {
        type: 'complex',
        multiValued: true,
        subAttributes: [attribute('value', { caseExact: true }), attribute('type')],
      }),
    ],
  },
  { id: PLACE, name: 'Place', attributes: [attribute('unit')] },
];

const list = (resources: readonly object[]): object => ({
  schemas: [LIST],
  totalResults: resources.length,
  startIndex: 1,
  itemsPerPage: resources.length,
  Resources: resources,
});

/** What the service says of itself (RFC 7643, sections 5 to 7), by path. */
export const describing = (mostAtOnce: number): Readonly<Record<string, object>> => ({
  ServiceProviderConfig: {
    schemas: ['urn:ietf:params:scim:schemas:core:2.0:ServiceProviderConfig'],
    patch: { supported: true },
    bulk: { supported: true, maxOperations: mostAtOnce, maxPayloadSize: 1_000_000 },
    filter: { supported: true, maxResults: MOST_ON_A_PAGE },
    changePassword: { supported: false },
    sort: { supported: false },
    etag: { supported: true },
    authenticationSchemes: [
      {
        type: 'oauthbearertoken',
        name: 'Bearer token',
        description: 'A token for one directory (RFC 6750)',
        primary: true,
      },
    ],
  },
  ResourceTypes: list(
    [
      { id: 'User', endpoint: '/Users', schema: USER, extensions: [PLACE, ENTERPRISE_USER] },
      { id: 'Group', endpoint: '/Groups', schema: GROUP, extensions: [PLACE] },
    ].map(({ id, endpoint, schema, extensions }) => ({
      schemas: ['urn:ietf:params:scim:schemas:core:2.0:ResourceType'],
      id,
      name: id,
      endpoint,
      schema,
      schemaExtensions: extensions.map((one) => ({ schema: one, required: false })),
    })),
  ),
  Schemas: list(
    SCHEMAS.map((one) => ({ schemas: ['urn:ietf:params:scim:schemas:core:2.0:Schema'], ...one })),
  ),
});
