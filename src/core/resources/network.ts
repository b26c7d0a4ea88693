import Joi from 'joi';
import { contains, parseBlock } from '../addressing';
import { holdingOf, type Attribute } from '../intent';
import { onlyOne, SPACES } from './claim';
import { differing, type ResourceKind } from './kind';

type Network = {
  readonly site: string;
  readonly cidr: string;
  /** What its hosts are told to ask; left out: whatever the provider tells them. */
  readonly nameServers?: string[];
};

/** The customer's network at a site. All its environments there share it, and it costs nothing. */
export const network: ResourceKind<Network> = {
  key: 'network',
  words: { one: 'network', many: 'networks' },
  attributes: Joi.object<Network, true>({
    site: Joi.string().required(),
    cidr: Joi.string().required(),
    nameServers: Joi.array().items(Joi.string()),
  }),
  shared: true,
  isWay: true,
  // What an image is built on is in no network.
  wanted: (intent, { customer, nameServers, services }) =>
    holdingOf(intent) === 'image'
      ? []
      : [
          {
            key: `network:${intent.site}`,
            kind: 'network',
            name: `${customer} network`,
            attributes: { site: intent.site, cidr: '', ...asking(nameServers, services?.nameServers ?? []) },
            needs: [],
          },
        ],
  allocate: (wanted, _intent, desk) =>
    wanted.map((one) => ({
      ...one,
      attributes: {
        ...one.attributes,
        cidr: cidrFor(desk.known(one.key)?.attributes.cidr, desk.block()),
      },
    })),
  // One that only grows stays where it is, with all that is in it.
  differences: (wanted, present) => [
    ...(isWithin(present.cidr, wanted.cidr)
      ? differing(wanted, present, 'cidr', 'in place', false)
      : differing(wanted, present, 'cidr', 'by replacement', true)),
    ...differing(
      wanted,
      { nameServers: [], ...present },
      'nameServers',
      'in place',
      false,
      asksSay(wanted, present),
    ),
  ],
  steps: (task) =>
    task.do === 'change'
      ? [{ action: 'set', seconds: 3 }]
      : [{ action: task.do === 'remove' ? 'remove' : 'make', seconds: 5 }],
  meters: () => [],
  claims: ({ attributes }) => onlyOne(SPACES.network, '', attributes.cidr),
};

/** The block that it has; once that has been made larger, the larger one. */
const cidrFor = (known: Attribute | undefined, block: string): string =>
  typeof known === 'string' && !isWithin(known, block) ? known : block;

function isWithin(inner: Attribute | undefined, outer: string): boolean {
  const [a, b] = [parseBlock(String(inner ?? '')), parseBlock(outer)];
  return a.ok && b.ok && contains(b.value, a.value);
}

const asking = (own: readonly string[], services: readonly string[]): Pick<Network, 'nameServers'> => {
  const nameServers = own.length > 0 ? own : services;
  return nameServers.length > 0 ? { nameServers: [...nameServers] } : {};
};

function asksSay(wanted: Network, present: Partial<Network>): string {
  const is = present.nameServers?.join(', ') ?? '';
  return `asks ${is === '' ? 'no name server of ours' : is}, wanted ${wanted.nameServers?.join(', ') ?? ''}`;
}
