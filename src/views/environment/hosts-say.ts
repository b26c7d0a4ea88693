import { count } from '../../client/format';

/** One host by its name, several by their number. */
export const hostsSay = (hosts: readonly { readonly name: string }[]): string =>
  hosts.length === 1 ? (hosts[0]?.name ?? '') : count(hosts.length, 'host', 'hosts');
