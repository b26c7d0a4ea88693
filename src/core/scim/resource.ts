/** Schemas and messages of SCIM 2.0 (RFC 7643, section 10.3; RFC 7644, section 8.2). */
export const USER = 'urn:ietf:params:scim:schemas:core:2.0:User';
export const GROUP = 'urn:ietf:params:scim:schemas:core:2.0:Group';
export const ENTERPRISE_USER = 'urn:ietf:params:scim:schemas:extension:enterprise:2.0:User';
export const LIST = 'urn:ietf:params:scim:api:messages:2.0:ListResponse';
export const PATCH = 'urn:ietf:params:scim:api:messages:2.0:PatchOp';
export const BULK = 'urn:ietf:params:scim:api:messages:2.0:BulkRequest';
export const ERROR = 'urn:ietf:params:scim:api:messages:2.0:Error';

/** An extension of our own: the organisational unit that a user or group stands in, from the top, as `Clinics/North`. */
export const PLACE = 'urn:x-laager:params:scim:schemas:extension:place:1.0';

/** So many are on one page at most; a service may give fewer (RFC 7644, section 3.4.2.4). */
export const MOST_ON_A_PAGE = 1_000;

/** So deep a resource may be, and so many keys and entries it may have: a large group has many members. */
export const MOST_DEPTH = 16;
export const MOST_ENTRIES = 200_000;

/** RFC 7643, section 3.1. */
export interface ScimMeta {
  readonly resourceType: string;
  readonly created: string;
  readonly lastModified: string;
  readonly version: string;
  readonly location: string;
}

/** What of a user (RFC 7643, section 4.1) is read here. */
export interface ScimUser {
  readonly schemas: readonly string[];
  readonly id: string;
  readonly userName: string;
  readonly name?: { readonly givenName?: string; readonly familyName?: string };
  readonly emails?: readonly { readonly value: string; readonly primary?: boolean; readonly type?: string }[];
  readonly active?: boolean;
  readonly meta?: Partial<ScimMeta>;
  readonly [PLACE]?: { readonly unit?: string };
  readonly [ENTERPRISE_USER]?: { readonly department?: string };
}

/** RFC 7643, section 4.2: a member is a user or a group. */
export interface ScimMember {
  readonly value: string;
  readonly type?: string;
}

export interface ScimGroup {
  readonly schemas: readonly string[];
  readonly id: string;
  readonly displayName: string;
  readonly members?: readonly ScimMember[];
  readonly meta?: Partial<ScimMeta>;
  readonly [PLACE]?: { readonly unit?: string };
}

/** RFC 7644, section 3.4.2. */
export interface ScimPage<Resource> {
  readonly totalResults: number;
  readonly Resources?: readonly Resource[];
}

/** Why a request is not done: its status and, where there is one, the `scimType` (RFC 7644, section 3.12). */
export class ScimRefusal extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly scimType?: string,
  ) {
    super(message);
  }

  /** As it goes over the wire. */
  get body(): object {
    const { status, message, scimType } = this;
    return {
      schemas: [ERROR],
      status: String(status),
      ...(scimType === undefined ? {} : { scimType }),
      detail: message,
    };
  }
}
