import Joi from 'joi';
import { accepted, OutsideError, outsideHttp, understood } from '../outside';
import type { DirectoryReader } from './reader';
import { scimReader } from './scim';

export type { Asked, DirectoryPage, DirectoryReader } from './reader';

/** A customer's directory, as far as hosts need it. Joining and leaving may be repeated. */
export interface Directory {
  /** @returns what it says of itself */
  check(realm: string): Promise<{ worked: boolean; says: string; computers?: readonly string[] }>;
  computers(realm: string): Promise<string[]>;
  /** Its people and groups, as whoever holds a token of its own sees them. */
  reader(realm: string, token: string): DirectoryReader;
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
    reader: (realm, token) => scimReader(`${url}/realms/${encodeURIComponent(realm)}/scim/v2`, token),
    join: async (realm, name) => void (await call('PUT', computer(realm, name))),
    leave: async (realm, name) => void (await call('DELETE', computer(realm, name))),
  };
}
