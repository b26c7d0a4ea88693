import { ProviderTrouble } from '../provider';

/** A customer's directory, as far as hosts need it. Joining and leaving may be repeated. */
export interface Directory {
  /** @returns what it says of itself */
  check(realm: string): Promise<{ worked: boolean; says: string }>;
  computers(realm: string): Promise<string[]>;
  join(realm: string, name: string): Promise<void>;
  leave(realm: string, name: string): Promise<void>;
}

/** The directory service's HTTP API behind the port. */
export function httpDirectory(url: string, key: string): Directory {
  const call = async (method: string, path: string): Promise<unknown> => {
    const response = await fetch(url + path, {
      method,
      headers: { authorization: `Bearer ${key}` },
      signal: AbortSignal.timeout(10_000),
    }).catch(() => {
      throw new ProviderTrouble('directory: does not answer', false);
    });
    const text = await response.text();
    if (!response.ok)
      throw new ProviderTrouble(`directory: answered ${response.status}`, response.status < 500);
    return text === '' ? undefined : (JSON.parse(text) as unknown);
  };
  const computers = async (realm: string): Promise<string[]> => {
    const body = await call('GET', `/realms/${encodeURIComponent(realm)}/computers`);
    if (typeof body !== 'object' || body === null || !('computers' in body) || !Array.isArray(body.computers))
      throw new ProviderTrouble('directory: gave an answer that is not understood', true);
    return body.computers.map(String);
  };
  const computer = (realm: string, name: string): string =>
    `/realms/${encodeURIComponent(realm)}/computers/${encodeURIComponent(name)}`;
  return {
    computers,
    check: (realm) =>
      computers(realm).then(
        (names) => ({ worked: true, says: `${realm} answers, knows ${names.length} computers` }),
        (error: unknown) => ({ worked: false, says: error instanceof Error ? error.message : String(error) }),
      ),
    join: async (realm, name) => void (await call('PUT', computer(realm, name))),
    leave: async (realm, name) => void (await call('DELETE', computer(realm, name))),
  };
}
