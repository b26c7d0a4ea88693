import ipaddr from 'ipaddr.js';

/** Addresses that speak for others: gates in front of us, which append for whom to `X-Forwarded-For`. */
export type Gates = readonly [ipaddr.IPv4 | ipaddr.IPv6, number][];

/** @throws Error for what is neither an address nor a block in CIDR notation */
export const readGates = (written: string): Gates =>
  written
    .split(',')
    .map((one) => one.trim())
    .filter((one) => one !== '')
    .map((one) => {
      if (ipaddr.isValidCIDR(one)) return ipaddr.parseCIDR(one);
      if (!ipaddr.isValid(one)) throw new Error(`"${one}" is neither an address nor a block`);
      const address = ipaddr.process(one);
      return [address, address.kind() === 'ipv4' ? 32 : 128];
    });

/**
 * Who is at the other end: the socket's address, or when that is one of the configured gates the address which that gate
 * appended, and so on from the right. What the client itself wrote into the header is never believed.
 * @param socket the address that the connection comes from
 * @param forwarded the `X-Forwarded-For` header, appended to by each gate on the way
 * @returns an IPv4 or IPv6 address in its shortest form; what is no address is left as the last one that is
 */
export function clientAddress(socket: string, forwarded: string | null, gates: Gates): string {
  const hops = (forwarded ?? '').split(',').map((one) => one.trim());
  let found = normal(socket) ?? 'unknown';
  for (let hop = hops.pop(); hop !== undefined && isGate(found, gates); hop = hops.pop()) {
    const before = normal(hop);
    if (before === undefined) break;
    found = before;
  }
  return found;
}

/** One network's end: an IPv6 host has a whole /64 to take addresses from (RFC 4291, section 2.5.4). */
export function networkOf(address: string): string {
  if (!ipaddr.IPv6.isValid(address)) return address;
  const [network] = ipaddr.IPv6.networkAddressFromCIDR(`${address}/64`).toString().split('::');
  return `${network ?? ''}::/64`;
}

const normal = (written: string): string | undefined =>
  ipaddr.isValid(written) ? ipaddr.process(written).toString() : undefined;

function isGate(address: string, gates: Gates): boolean {
  if (!ipaddr.isValid(address)) return false;
  const parsed = ipaddr.process(address);
  return gates.some(([block, bits]) => parsed.kind() === block.kind() && parsed.match(block, bits));
}
