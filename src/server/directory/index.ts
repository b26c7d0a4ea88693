import Joi from 'joi';
import type { DirectoryPerson } from '../../core/people';
import { accepted, CredentialsRefused, OutsideError, outsideHttp, understood } from '../outside';

/** A customer's directory, as far as hosts need it. Joining and leaving may be repeated. */
export interface Directory {
  /** @returns what it says of itself */
  check(realm: string): Promise<{ worked: boolean; says: string; computers?: readonly string[] }>;
  computers(realm: string): Promise<string[]>;
  /** Everyone in it, as an account of its own sees them. @throws OutsideError, CredentialsRefused */
  people(
    realm: string,
    credentials: { readonly account: string; readonly secret: string },
  ): Promise<DirectoryPerson[]>;
  join(realm: string, name: string): Promise<void>;
  leave(realm: string, name: string): Promise<void>;
}

const SYSTEM = 'directory';
const computersSchema = Joi.object<{ computers: string[] }>({
  computers: Joi.array().items(Joi.string()).required(),
});

const line = Joi.string().allow('').max(250).required();
const peopleSchema = Joi.object<{ people: DirectoryPerson[] }>({
  people: Joi.array()
    .items(
      Joi.object({
        account: line,
        given: line,
        family: line,
        mail: line,
        unit: line,
        groups: Joi.array().items(line).required(),
        disabled: Joi.boolean().required(),
      }).unknown(),
    )
    .max(100_000)
    .required(),
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
    people: async (realm, credentials) => {
      const reply = await send('POST', `/realms/${encodeURIComponent(realm)}/people`, {
        headers: { authorization: `Bearer ${key}` },
        json: credentials,
      });
      if (reply.status === 401) throw new CredentialsRefused(SYSTEM);
      return understood(SYSTEM, peopleSchema, accepted(SYSTEM, reply)).people;
    },
    join: async (realm, name) => void (await call('PUT', computer(realm, name))),
    leave: async (realm, name) => void (await call('DELETE', computer(realm, name))),
  };
}
