import Joi from 'joi';
import { differing, type ResourceKind } from './kind';

type Subnet = {
  readonly site: string;
  readonly cidr: string;
};

export const subnet: ResourceKind<Subnet> = {
  key: 'subnet',
  words: { one: 'subnet', many: 'subnets' },
  attributes: Joi.object<Subnet, true>({ site: Joi.string().required(), cidr: Joi.string().required() }),
  wanted: (intent) =>
    intent.pools.map((pool) => ({
      key: `subnet:${pool.role}`,
      kind: 'subnet',
      name: `${intent.name} ${pool.role}`,
      attributes: { site: intent.site, cidr: '' },
      needs: [`network:${intent.site}`],
    })),
  allocate: (wanted, intent, desk) =>
    wanted.map((one) => {
      const pool = intent.pools.find(({ role }) => one.key === `subnet:${role}`);
      const before = desk.known(one.key)?.attributes.cidr;
      return {
        ...one,
        attributes: { ...one.attributes, cidr: String(before ?? desk.subnet(pool?.ceiling ?? 1)) },
      };
    }),
  differences: (wanted, present) => differing(wanted, present, 'cidr', 'by replacement', true),
  steps: (task) => [{ action: task.do === 'remove' ? 'remove' : 'make', seconds: 30 }],
  meters: () => [],
};
