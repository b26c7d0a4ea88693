import Joi from 'joi';
import { differing, type ResourceKind } from './kind';

type Services = {
  readonly site: string;
  readonly directory: string;
  readonly gateway: string;
  readonly nameServers: string[];
};

/** What the MSP's own environment asks for by this name: directories, gateways and name servers for everyone at a site. */
export const SERVICES = 'services';

/** So many machines it may come to, of those that follow here and more. */
export const SERVICE_ADDRESSES = 8;
const NAME_SERVERS = 2;

/** The shared services at a site: one address for directories, one for gateways, and two name servers (RFC 2182). */
export const services: ResourceKind<Services> = {
  key: SERVICES,
  words: { one: 'shared services', many: 'shared services' },
  attributes: Joi.object<Services, true>({
    site: Joi.string().required(),
    directory: Joi.string().required(),
    gateway: Joi.string().required(),
    nameServers: Joi.array().items(Joi.string()).required(),
  }),
  wanted: (intent) =>
    (intent.more[SERVICES] ?? []).map(() => ({
      key: SERVICES,
      kind: SERVICES,
      name: `${intent.name} at ${intent.site}`,
      attributes: { site: intent.site, directory: '', gateway: '', nameServers: [] },
      needs: [`subnet:${SERVICES}`],
    })),
  allocate: (wanted, _intent, desk) =>
    wanted.map((one) => {
      const before = desk.known(one.key)?.attributes;
      if (before) return { ...one, attributes: before as Services };
      const subnet = String(desk.of(`subnet:${SERVICES}`)?.attributes.cidr ?? '');
      const [directory = '', gateway = '', ...nameServers] = desk.addresses(subnet, 2 + NAME_SERVERS);
      return { ...one, attributes: { ...one.attributes, directory, gateway, nameServers } };
    }),
  differences: (wanted, present) => [
    ...differing(wanted, present, 'directory', 'by replacement', false),
    ...differing(wanted, present, 'nameServers', 'by replacement', false),
  ],
  steps: (task) => [
    { action: task.do === 'remove' ? 'remove' : 'make', seconds: task.do === 'remove' ? 120 : 300 },
  ],
  meters: () => [],
};
