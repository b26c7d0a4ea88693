import Joi from 'joi';
import { accepted, OutsideError, outsideHttp, understood } from '../outside';
import { ldapReader, type LdapAddress } from './ldap';
import type { DirectoryReader } from './reader';
import { scimReader } from './scim';

export { groupOfScim, personOfScim, scimGroup, scimUser } from './scim';

export type { Asked, DirectoryPage, DirectoryReader } from './reader';

/** How a directory's people and groups are read: through the directory service, by its realm, or past it over LDAP. */
export type DirectorySource =
  { readonly via: 'scim'; readonly realm: string } | ({ readonly via: 'ldap' } & LdapAddress);

/** A customer's directory, as far as hosts need it. Joining and leaving may be repeated. */
export interface Directory {
  /** @returns what it says of itself */
  check(realm: string): Promise<{ worked: boolean; says: string; computers?: readonly string[] }>;
  computers(realm: string): Promise<string[]>;
  /** Its people and groups, as whoever holds a secret of its own sees them. */
  reader(source: DirectorySource, secret: string): DirectoryReader;
  join(realm: string, name: string): Promise<void>;
  leave(realm: string, name: string): Promise<void>;
}

const SYSTEM = 'directory';
const computersSchema = Joi.object<{ computers: string[] }>({
  computers: Joi.array().items(Joi.string()).required(),
});

/** The directory service's HTTP API behind the port. */
export function httpDirectory(url: string, key: string): Directory {
  const send = outsideHttp(SYSTEM, url);
  const call = async (method: string, path: string): Promise<unknown> =>
    accepted(SYSTEM, await send(method, path, { headers: { authorization: `Bearer ${key}` } }));
  const computers = async (realm: string): Promise<string[]> =>
    understood(SYSTEM, computersSchema, await call('GET', `/realms/${encodeURIComponent(realm)}/computers`))
      .computers;
  const computer = (realm: string, name: string): string =>
    `/realms/${encodeURIComponent(realm)}/computers/${encodeURIComponent(name)}`;
  return {
    computers,
    check: (realm) =>
      computers(realm).then(
        (names) => ({
          worked: true,
          says: `${realm} answers, knows ${names.length} computers`,
          computers: names,
        }),
        (error: unknown) => {
          if (error instanceof OutsideError) return { worked: false, says: error.says };
          throw error;
        },
      ),
    reader: (source, secret) =>
      source.via === 'ldap'
        ? ldapReader(source, secret)
        : scimReader(`${url}/realms/${encodeURIComponent(source.realm)}/scim/v2`, secret),
    join: async (realm, name) => void (await call('PUT', computer(realm, name))),
    leave: async (realm, name) => void (await call('DELETE', computer(realm, name))),
  };
}
