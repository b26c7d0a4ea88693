import type { Folk, Identity } from './service';

interface User {
  readonly id: string;
  readonly userName: string;
  readonly active?: boolean;
  readonly name?: { readonly givenName?: string; readonly familyName?: string };
  readonly emails?: readonly { readonly value: string }[];
}

const MOST_SHOWN = 15;

/** The people of a customer's simulated directory: whoever is in it can show at the customer's service who they are. */
export function folkOfDirectory(url: string, realm: string, token: string): Folk {
  const ask = async (path: string): Promise<Response> =>
    fetch(`${url}/realms/${realm}/scim/v2${path}`, { headers: { authorization: `Bearer ${token}` } });
  return {
    some: async () => {
      const response = await ask(`/Users?count=${MOST_SHOWN}`);
      const { Resources = [] } = (await response.json()) as { Resources?: readonly User[] };
      return Resources.filter(({ active }) => active !== false).map(identityOf);
    },
    find: async (id) => {
      const response = id === '' ? undefined : await ask(`/Users/${encodeURIComponent(id)}`);
      if (response?.ok !== true) return undefined;
      const user = (await response.json()) as User;
      return user.active === false ? undefined : identityOf(user);
    },
  };
}

const identityOf = ({ id, userName, name, emails }: User): Identity => ({
  id,
  name: `${name?.givenName ?? ''} ${name?.familyName ?? ''}`.trim(),
  mail: emails?.[0]?.value ?? '',
  verified: true,
  groups: [],
  amr: ['pwd'],
  account: userName,
});
