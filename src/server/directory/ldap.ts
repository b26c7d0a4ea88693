import {
  AndFilter,
  Client,
  EqualityFilter,
  InvalidCredentialsError,
  NoSuchObjectError,
  ResultCodeError,
} from 'ldapts';
import type { Entry } from 'ldapts';
import { comparedDn, unitBelow } from '../../core/ldap';
import type { DirectoryGroup, DirectoryPerson } from '../../core/people';
import { identity } from '../../core/text';
import { CredentialsRefused, OutsideError, unreachedBy, waitOutside } from '../outside';
import type { Asked, DirectoryPage, DirectoryReader } from './reader';

/** Where a directory is that speaks LDAP, and as whom it is read. */
export interface LdapAddress {
  /** `ldaps://…` or `ldap://…` */
  readonly url: string;
  /** The entry below which everything is that is read. */
  readonly base: string;
  /** The name that is bound as. */
  readonly bindAs: string;
}

const SYSTEM = 'directory';
const PATIENCE_MS = 15_000;
const PAGE = 500;
/** More are no customer's people and groups; a directory that never ends is not read for ever. */
const MOST_ENTRIES = 250_000;

/** People are those with an account (RFC 2798, RFC 4519); groups are lists of names, or of accounts (RFC 2307). */
const PEOPLE = '(&(objectClass=inetOrgPerson)(uid=*))';
const GROUPS = '(|(objectClass=groupOfNames)(objectClass=groupOfUniqueNames)(objectClass=posixGroup))';
/** The id that an entry keeps, however it is renamed or moved (RFC 4530); when it was last changed (RFC 4512). */
const ID = 'entryUUID';
const CHANGED = 'modifyTimestamp';
/** Locked for having been guessed at, or by somebody. */
const LOCKED = 'pwdAccountLockedTime';

const PERSON = [ID, CHANGED, 'uid', 'givenName', 'sn', 'mail', LOCKED];
const GROUP = [ID, CHANGED, 'cn', 'member', 'uniqueMember', 'memberUid'];

/**
 * Reads a directory that speaks LDAP version 3 (RFC 4511), page by page (RFC 2696). One reader reads each list once: what is
 * asked of it afterwards is of that reading.
 */
export function ldapReader(
  address: LdapAddress,
  password: string,
  patienceMs = PATIENCE_MS,
): DirectoryReader {
  const search = (
    filter: string | EqualityFilter | AndFilter,
    attributes: readonly string[],
  ): Promise<Entry[]> => searchOnce(address, password, filter, attributes, patienceMs);
  const lists = new Map<string, Promise<Entry[]>>();
  const list = (filter: string, attributes: readonly string[]): Promise<Entry[]> => {
    const key = `${filter} ${attributes.join(' ')}`;
    const known = lists.get(key) ?? search(filter, attributes);
    lists.set(key, known);
    return known;
  };
  /** Whom the members of groups are, by their names and by their accounts. */
  const names = async (): Promise<Names> => {
    const [people, groups] = await Promise.all([list(PEOPLE, [ID, 'uid']), list(GROUPS, [ID])]);
    return {
      people: new Map(people.map((one) => [comparedDn(one.dn), idOf(one)])),
      accounts: new Map(people.map((one) => [identity(first(one, 'uid')), idOf(one)])),
      groups: new Map(groups.map((one) => [comparedDn(one.dn), idOf(one)])),
    };
  };
  return {
    people: async (asked) =>
      pageOf(await list(since(PEOPLE, asked), PERSON), asked, (one) => personOf(one, address.base)),
    groups: async (asked) => {
      const found = await list(since(GROUPS, asked), GROUP);
      // Where no group has changed, nobody needs to be named.
      const known = found.length === 0 ? NOBODY : await names();
      return pageOf(found, asked, (one) => groupOf(one, address.base, known));
    },
    ids: async (of, asked) => pageOf(await list(of === 'people' ? PEOPLE : GROUPS, [ID]), asked, idOf),
    total: async (of) => (await list(of === 'people' ? PEOPLE : GROUPS, [ID])).length,
    person: async (id) => {
      const [found] = await search(
        new AndFilter({
          filters: [
            new EqualityFilter({ attribute: 'objectClass', value: 'inetOrgPerson' }),
            new EqualityFilter({ attribute: ID, value: id }),
          ],
        }),
        PERSON,
      );
      return found && personOf(found, address.base);
    },
  };
}

async function searchOnce(
  { url, base, bindAs }: LdapAddress,
  password: string,
  filter: string | EqualityFilter | AndFilter,
  attributes: readonly string[],
  patienceMs: number,
): Promise<Entry[]> {
  // A name with no password is taken for nobody's, and let in all the same (RFC 4513, section 5.1.2).
  if (password === '' || bindAs === '') throw new CredentialsRefused(SYSTEM, 'needs a name and a password');
  const client = new Client({ url, timeout: patienceMs, connectTimeout: patienceMs });
  try {
    return await waitOutside(async () => {
      await client.bind(bindAs, password);
      const found: Entry[] = [];
      const pages = client.searchPaginated(base, {
        scope: 'sub',
        filter,
        attributes: [...attributes],
        paged: { pageSize: PAGE },
      });
      for await (const { searchEntries } of pages) {
        for (const one of searchEntries) found.push(one);
        if (found.length > MOST_ENTRIES)
          throw new OutsideError(SYSTEM, `has more than ${MOST_ENTRIES} entries`, 'lasting');
      }
      return found;
    });
  } catch (error) {
    throw error instanceof OutsideError ? error : troubleOf(error, base);
  } finally {
    await client.unbind().catch(() => undefined);
  }
}

function troubleOf(error: unknown, base: string): OutsideError {
  if (error instanceof InvalidCredentialsError)
    return new CredentialsRefused(SYSTEM, 'says: name or password is wrong');
  if (error instanceof NoSuchObjectError) return new OutsideError(SYSTEM, `has no entry ${base}`, 'passing');
  if (error instanceof ResultCodeError)
    return new OutsideError(SYSTEM, `says: ${error.message.slice(0, 150)}`, 'passing');
  return unreachedBy(SYSTEM, error);
}

interface Names {
  readonly people: ReadonlyMap<string, string>;
  readonly accounts: ReadonlyMap<string, string>;
  readonly groups: ReadonlyMap<string, string>;
}
const NOBODY: Names = { people: new Map(), accounts: new Map(), groups: new Map() };

/** The clock of the directory, as far as its entries tell it: what changed after the last of them is asked for next. */
function pageOf<One>(
  all: readonly Entry[],
  { from, since: asked }: Asked,
  read: (one: Entry) => One,
): DirectoryPage<One> {
  const newest = all.reduce(
    (latest, one) => Math.max(latest, timeOf(first(one, CHANGED)) ?? 0),
    timeOf(asked) ?? 0,
  );
  return {
    entries: all.slice(from).map(read),
    total: all.length,
    at: newest > 0 ? newest + SAME_SECOND_MS : undefined,
  };
}
/** Its times have no parts of a second: within the last one more may change. What overlaps is read again. */
const SAME_SECOND_MS = 1_000;

const since = (filter: string, { since: from }: Asked): string =>
  from === undefined
    ? filter
    : `(&${filter}(${CHANGED}>=${new Date(from).toISOString().replace(/[-:T]|\.\d+/g, '')}))`;

/** A generalized time (RFC 4517, section 3.3.13), or one of our own. */
function timeOf(text: string | undefined): number | undefined {
  if (text === undefined || text === '') return undefined;
  const [, y, mo, d, h, mi, s = '00'] =
    /^(\d{4})(\d\d)(\d\d)(\d\d)(\d\d)(\d\d)?(?:[.,]\d+)?Z$/.exec(text) ?? [];
  const at =
    y === undefined ? Date.parse(text) : Date.UTC(+y, +(mo ?? 1) - 1, +(d ?? 1), +(h ?? 0), +(mi ?? 0), +s);
  return Number.isNaN(at) ? undefined : at;
}

const all = (entry: Entry, name: string): string[] => {
  const value = entry[name];
  return (Array.isArray(value) ? value : value === undefined ? [] : [value])
    .map(String)
    .filter((one) => one !== '');
};
const first = (entry: Entry, name: string): string => all(entry, name)[0] ?? '';
const idOf = (entry: Entry): string => first(entry, ID).toLowerCase();

const MOST_UNIT = 250;

const personOf = (entry: Entry, base: string): DirectoryPerson => ({
  id: idOf(entry),
  account: first(entry, 'uid'),
  given: first(entry, 'givenName'),
  family: first(entry, 'sn'),
  mail: first(entry, 'mail'),
  unit: unitBelow(entry.dn, base).slice(0, MOST_UNIT),
  disabled: first(entry, LOCKED) !== '',
});

function groupOf(entry: Entry, base: string, { people, accounts, groups }: Names): DirectoryGroup {
  const members = [...all(entry, 'member'), ...all(entry, 'uniqueMember')].map(comparedDn);
  const named = all(entry, 'memberUid').flatMap((account) => accounts.get(identity(account)) ?? []);
  return {
    id: idOf(entry),
    name: first(entry, 'cn').slice(0, 200),
    unit: unitBelow(entry.dn, base).slice(0, MOST_UNIT),
    people: [...new Set([...members.flatMap((one) => people.get(one) ?? []), ...named])],
    groups: [...new Set(members.flatMap((one) => groups.get(one) ?? []))],
  };
}
