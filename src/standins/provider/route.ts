import ipaddr from 'ipaddr.js';
import type { Resource } from './resource';
import type { World } from './world';

/**
 * Tries an address from inside a network: it is reached when it lies in it, or in another that a peering leads to from
 * here, and another one back. With a name to ask for, there has to be a name server at it.
 */
export async function probe(
  world: World,
  from: Resource,
  to: string,
  ask: string,
): Promise<{ worked: boolean; says: string }> {
  const [networks, peerings, services] = await Promise.all(
    ['network', 'peering', 'services'].map((kind) =>
      world.list('kind = ? AND site = ? AND state = ?', [kind, from.site, 'ready']),
    ),
  );
  const leads = (near: string, far: string): Resource | undefined =>
    peerings?.find((one) => one.attrs.network === near && one.attrs.peer === far);
  const at = networks?.filter((one) => isIn(to, String(one.attrs.cidr))) ?? [];
  const target = at.find((one) => one.id === from.id) ?? at.find((one) => leads(from.id, one.id));
  if (!target) return { worked: false, says: `no way leads to ${to}` };
  if (target.id !== from.id) {
    const out = leads(from.id, target.id);
    const back = leads(target.id, from.id);
    if (!out || !isIn(to, String(out.attrs.far))) return { worked: false, says: `no way leads to ${to}` };
    if (!back || !isWithin(String(from.attrs.cidr), String(back.attrs.far)))
      return { worked: false, says: `${to} answers nobody here: no way leads back` };
  }
  const servers = services?.flatMap((one) => (one.attrs.nameServers as string[] | undefined) ?? []) ?? [];
  if (ask !== '' && !servers.includes(to)) return { worked: false, says: `no name server answers at ${to}` };
  return { worked: true, says: ask === '' ? `${to} is reached` : `${to} knows ${ask}` };
}

const isIn = (address: string, cidr: string): boolean => {
  if (!ipaddr.IPv4.isValid(address) || !ipaddr.IPv4.isValidCIDR(cidr)) return false;
  return ipaddr.IPv4.parse(address).match(ipaddr.IPv4.parseCIDR(cidr));
};

const isWithin = (inner: string, outer: string): boolean => {
  if (!ipaddr.IPv4.isValidCIDR(inner) || !ipaddr.IPv4.isValidCIDR(outer)) return false;
  const [base, bits] = ipaddr.IPv4.parseCIDR(inner);
  const whole = ipaddr.IPv4.parseCIDR(outer);
  return bits >= whole[1] && base.match(whole);
};
