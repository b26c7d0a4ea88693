import Joi from 'joi';
import type { DirectoryGroup, DirectoryPerson } from '../../core/people';
import {
  ENTERPRISE_USER,
  MOST_ON_A_PAGE,
  PLACE,
  type ScimGroup,
  type ScimPage,
  type ScimUser,
} from '../../core/scim';
import { accepted, CredentialsRefused, outsideHttp, understood, type OutsideReply } from '../outside';
import type { Asked, DirectoryPage, DirectoryReader } from './reader';

const SYSTEM = 'directory';

const id = Joi.string().max(250).required();
/** What of a user is understood; what else it says is kept, and of no use here. */
export const scimUser = Joi.object<ScimUser>({
  id,
  userName: Joi.string().allow('').required(),
  name: Joi.object({ givenName: Joi.string().allow(''), familyName: Joi.string().allow('') }).unknown(),
  emails: Joi.array().items(Joi.object({ value: Joi.string().allow('').required() }).unknown()),
  active: Joi.boolean(),
  [PLACE]: Joi.object({ unit: Joi.string().allow('') }).unknown(),
  [ENTERPRISE_USER]: Joi.object({ department: Joi.string().allow('') }).unknown(),
}).unknown();
export const scimGroup = Joi.object<ScimGroup>({
  id,
  displayName: Joi.string().allow('').required(),
  members: Joi.array().items(Joi.object({ value: id, type: Joi.string() }).unknown()),
  [PLACE]: Joi.object({ unit: Joi.string().allow('') }).unknown(),
}).unknown();
const page = <Resource>(resource: Joi.Schema<Resource>): Joi.ObjectSchema<ScimPage<Resource>> =>
  Joi.object<ScimPage<Resource>>({
    totalResults: Joi.number().integer().min(0).required(),
    Resources: Joi.array().items(resource).max(MOST_ON_A_PAGE),
  }).unknown();
const userPage = page(scimUser);
const groupPage = page(scimGroup);
const idPage = page(Joi.object<{ id: string }>({ id }).unknown());

/** Reads a directory that speaks SCIM 2.0 (RFC 7643, RFC 7644). @param url where its `/Users` and `/Groups` are */
export function scimReader(url: string, token: string): DirectoryReader {
  const send = outsideHttp(SYSTEM, url);
  const get = async (path: string): Promise<OutsideReply> => {
    const reply = await send('GET', path, {
      headers: { authorization: `Bearer ${token}`, accept: 'application/scim+json' },
    });
    if (reply.status === 401) throw new CredentialsRefused(SYSTEM, 'says: the token is wrong');
    return reply;
  };
  const list = async <Resource, Entry>(
    path: string,
    schema: Joi.Schema<ScimPage<Resource>>,
    entryOf: (resource: Resource) => Entry,
    { from, since }: Asked,
    more: Readonly<Record<string, string>> = {},
  ): Promise<DirectoryPage<Entry>> => {
    const query = new URLSearchParams({
      startIndex: String(from + 1),
      count: String(MOST_ON_A_PAGE),
      ...(since === undefined ? {} : { filter: `meta.lastModified ge "${since}"` }),
      ...more,
    });
    const reply = await get(`${path}?${query}`);
    const { totalResults, Resources = [] } = understood(SYSTEM, schema, accepted(SYSTEM, reply));
    return { entries: Resources.map(entryOf), total: totalResults, at: reply.date };
  };
  return {
    people: (asked) => list('/Users', userPage, personOfScim, asked),
    groups: (asked) => list('/Groups', groupPage, groupOfScim, asked),
    ids: (of, asked) =>
      list(of === 'people' ? '/Users' : '/Groups', idPage, (one) => one.id, asked, { attributes: 'id' }),
    // RFC 7644, section 3.4.2.4: with a count of none only how many there are.
    total: async (of) => {
      const reply = await get(`${of === 'people' ? '/Users' : '/Groups'}?count=0`);
      return understood(SYSTEM, idPage, accepted(SYSTEM, reply)).totalResults;
    },
    person: async (wanted) => {
      const reply = await get(`/Users/${encodeURIComponent(wanted)}`);
      return reply.status === 404
        ? undefined
        : personOfScim(understood(SYSTEM, scimUser, accepted(SYSTEM, reply)));
    },
  };
}

export function personOfScim(one: ScimUser): DirectoryPerson {
  const mail = one.emails?.find(({ primary }) => primary) ?? one.emails?.[0];
  return {
    id: one.id,
    account: one.userName,
    given: one.name?.givenName ?? '',
    family: one.name?.familyName ?? '',
    mail: mail?.value ?? '',
    unit: placed(one[PLACE]?.unit ?? one[ENTERPRISE_USER]?.department),
    disabled: one.active === false,
  };
}

export function groupOfScim(one: ScimGroup): DirectoryGroup {
  const members = one.members ?? [];
  const isGroup = ({ type }: { readonly type?: string }): boolean => type?.toLowerCase() === 'group';
  return {
    id: one.id,
    name: one.displayName.slice(0, 200),
    unit: placed(one[PLACE]?.unit),
    people: members.filter((member) => !isGroup(member)).map(({ value }) => value),
    groups: members.filter(isGroup).map(({ value }) => value),
  };
}

const placed = (unit = ''): string => unit.slice(0, 250);
