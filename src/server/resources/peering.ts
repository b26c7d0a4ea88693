import { OutsideError } from '../outside';
import { done, failed, make, only, refOf, remove, set, type NowOf, type ResourceWork } from './work';

/** The MSP's network that everyone at the site is joined with. @throws OutsideError, lasting, when it was not made */
async function servicesRef(now: NowOf): Promise<string> {
  const network = await now.own(`network:${now.site}`);
  // The one that this was planned for, or none: what stands there by now may be another's.
  if (typeof network?.ref !== 'string' || network.id !== now.resource.attributes.services)
    throw new OutsideError('provider', 'says: the network of the shared services was not made', 'lasting');
  return network.ref;
}

/** Asks each name server for the customer's directory, and reaches for it, from where the customer's hosts are. */
async function tryIt(now: NowOf): Promise<ReturnType<typeof done>> {
  const services = await now.own('services');
  const network = await now.find(`network:${now.site}`);
  const from = await refOf(now, `network:${now.site}`);
  const realm = now.environment?.realm ?? '';
  const servers = network?.attributes.nameServers;
  const asked = Array.isArray(servers) ? (servers as readonly string[]) : [];
  const tries = [
    ...asked.map((to) => ({ to, ask: realm })),
    { to: String(services?.attributes.directory ?? '') },
  ];
  for (const one of tries) {
    const { worked, says } = await now.provider.probe(from, one);
    if (!worked) return failed(says);
  }
  return done(`${asked.length} name servers know ${realm}, and its directory is reached`);
}

export const peeringWork: ResourceWork = {
  read: only('far'),
  actions: {
    make: make(async (now) => {
      const [own, services] = [await refOf(now, `network:${now.site}`), await servicesRef(now)];
      const { side, far = '' } = now.resource.attributes;
      return side === 'out' ? { network: own, peer: services, far } : { network: services, peer: own, far };
    }),
    set: set(
      ({ resource }) => ({ far: resource.attributes.far ?? '' }),
      ({ resource }) => `leads to ${String(resource.attributes.far)}`,
    ),
    try: tryIt,
    remove,
  },
};
