import { GROUP, PLACE, USER } from '../../core/scim';
import type { Store } from '../kit/database';
import type { Routes } from '../kit/server';
import type { ScimKind as Kind, ScimResource as Resource } from '../../core/scim';
import { Entries } from './entries';

interface SetPerson {
  readonly account: string;
  readonly given: string;
  readonly family: string;
  readonly mail: string;
  readonly unit: string;
  readonly groups?: readonly string[];
  readonly disabled?: boolean;
  /** Left out: it follows from the account. */
  readonly id?: string;
}

interface SetGroup {
  readonly name: string;
  readonly unit?: string;
  /** Names of groups in it. */
  readonly groups?: readonly string[];
}

/** By which id a group that was set by its name is known. */
const groupId = (name: string): string => `g-${name.toLowerCase().replaceAll(/[^a-z0-9]+/g, '-')}`;

/** What stands in the directory and who may read it: set by whoever steers the simulation. */
export const controlRoutes = (store: Store): Routes => ({
  'PUT /control/realms/:realm': async ({ params, body, query }) => {
    const realm = params.realm ?? '';
    const people = (Array.isArray(body.people) ? body.people : []) as SetPerson[];
    const groups = (Array.isArray(body.groups) ? body.groups : []) as SetGroup[];
    const entries = new Entries(store, realm, `/realms/${realm}/scim/v2`);
    await store.write('REPLACE INTO reader (realm, token) VALUES (?, ?)', [realm, String(body.token)]);
    const users = people.map(userOf);
    const all = { User: users, Group: groupsOf(people, groups) };
    for (const kind of ['User', 'Group'] as const satisfies readonly Kind[]) {
      const wanted = new Set(all[kind].map(({ id }) => id));
      // Part of a large directory is added to what is there.
      if (query.get('add') === null)
        await entries.forget(
          kind,
          (await entries.ids(kind)).filter((id) => !wanted.has(id)),
        );
      for (const one of all[kind]) await entries.put(kind, one);
    }
    return { status: 200, body: { people: people.length } };
  },
});

const userOf = ({ account, given, family, mail, unit, disabled = false, id }: SetPerson): Resource => ({
  schemas: [USER, PLACE],
  id: id ?? `u-${account.toLowerCase()}`,
  userName: account,
  name: { givenName: given, familyName: family },
  ...(mail === '' ? {} : { emails: [{ value: mail, type: 'work', primary: true }] }),
  active: !disabled,
  [PLACE]: { unit },
});

function groupsOf(people: readonly SetPerson[], groups: readonly SetGroup[]): Resource[] {
  const names = new Set([
    ...people.flatMap((one) => one.groups ?? []),
    ...groups.flatMap((one) => [one.name, ...(one.groups ?? [])]),
  ]);
  return [...names].map((name) => {
    const set = groups.find((one) => one.name === name);
    return {
      schemas: [GROUP, PLACE],
      id: groupId(name),
      displayName: name,
      members: [
        ...people
          .filter((one) => one.groups?.includes(name))
          .map((one) => ({ value: userOf(one).id, type: 'User' })),
        ...(set?.groups ?? []).map((inner) => ({ value: groupId(inner), type: 'Group' })),
      ],
      [PLACE]: { unit: set?.unit ?? '' },
    };
  });
}
