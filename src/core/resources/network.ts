import Joi from 'joi';
import { differing, type ResourceKind } from './kind';

type Network = {
  readonly site: string;
  readonly cidr: string;
};

/** The customer's network at a site. All its environments there share it, and it costs nothing. */
export const network: ResourceKind<Network> = {
  key: 'network',
  words: { one: 'network', many: 'networks' },
  attributes: Joi.object<Network, true>({ site: Joi.string().required(), cidr: Joi.string().required() }),
  shared: true,
  wanted: (intent, { customer }) => [
    {
      key: `network:${intent.site}`,
      kind: 'network',
      name: `${customer} network`,
      attributes: { site: intent.site, cidr: '' },
      needs: [],
    },
  ],
  allocate: (wanted, _intent, desk) =>
    wanted.map((one) => ({
      ...one,
      attributes: {
        ...one.attributes,
        cidr: String(desk.known(one.key)?.attributes.cidr ?? desk.block()),
      },
    })),
  differences: (wanted, present) => differing(wanted, present, 'cidr', 'by replacement', true),
  steps: (task) => [{ action: task.do === 'remove' ? 'remove' : 'make', seconds: 60 }],
  meters: () => [],
};
