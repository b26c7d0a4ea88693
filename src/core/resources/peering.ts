import Joi from 'joi';
import { holdingOf } from '../intent';
import { differing, type ResourceKind, type Wanted } from './kind';

type Peering = {
  readonly site: string;
  /** Out: from the customer's network to the shared services; back: from there to the customer's. */
  readonly side: 'out' | 'back';
  /** The addresses that it leads to. */
  readonly far: string;
  /** The MSP's network that it joins the customer's with, by its id. */
  readonly services: string;
};

const keyOf = (site: string, side: Peering['side']): string => `peering:${site}:${side}`;

/** The side that is tried: behind it the directory is reached. */
export const wayOut = (site: string): string => keyOf(site, 'out');

/**
 * One side of what joins a customer's network with the shared services: nothing passes until both stand. What it leads to
 * is the MSP's network or the customer's own; there is no way to name another customer's.
 */
export const peering: ResourceKind<Peering> = {
  key: 'peering',
  words: { one: 'peering', many: 'peerings' },
  attributes: Joi.object<Peering, true>({
    site: Joi.string().required(),
    side: Joi.string().valid('out', 'back').required(),
    far: Joi.string().required(),
    services: Joi.string().required(),
  }),
  shared: true,
  isWay: true,
  joins: ({ services }) => services,
  wanted: (intent, { customer, services }) => {
    if (!services || holdingOf(intent) === 'image') return [];
    const { site } = intent;
    const side = (one: Peering['side'], name: string, ...needs: string[]): Wanted<Peering> => ({
      key: keyOf(site, one),
      kind: 'peering',
      name,
      attributes: { site, side: one, far: services.cidr, services: services.network },
      needs: [`network:${site}`, ...needs],
    });
    return [
      side('back', `services to ${customer}`),
      // It is tried when it stands, and nothing passes before the other side does.
      side('out', `${customer} to services`, keyOf(site, 'back')),
    ];
  },
  allocate: (wanted, { site }, desk) =>
    wanted.map((one) => {
      const own = String(desk.of(`network:${site}`)?.attributes.cidr ?? '');
      return one.attributes.side === 'out' ? one : { ...one, attributes: { ...one.attributes, far: own } };
    }),
  differences: (wanted, present) => differing(wanted, present, 'far', 'in place', false),
  steps: (task) => {
    if (task.do === 'remove') return [{ action: 'remove', seconds: 20 }];
    const first = { action: task.do === 'change' ? 'set' : 'make', seconds: 3 };
    return task.wanted.attributes.side === 'out' ? [first, { action: 'try', seconds: 2 }] : [first];
  },
  meters: () => [],
};
