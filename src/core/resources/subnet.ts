import Joi from 'joi';
import type { Intent } from '../intent';
import { onlyOne, SPACES } from './claim';
import { SERVICES, SERVICE_ADDRESSES } from './services';
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
    [...ceilingsOf(intent).keys()].map((role) => ({
      key: `subnet:${role}`,
      kind: 'subnet',
      name: `${intent.name} ${role}`,
      attributes: { site: intent.site, cidr: '' },
      needs: [`network:${intent.site}`],
    })),
  allocate: (wanted, intent, desk) =>
    wanted.map((one) => {
      const ceiling = ceilingsOf(intent).get(one.key.slice('subnet:'.length));
      const before = desk.known(one.key)?.attributes.cidr;
      return {
        ...one,
        attributes: { ...one.attributes, cidr: String(before ?? desk.subnet(ceiling ?? 1)) },
      };
    }),
  differences: (wanted, present) => differing(wanted, present, 'cidr', 'by replacement', true),
  steps: (task) => [{ action: task.do === 'remove' ? 'remove' : 'make', seconds: 5 }],
  meters: () => [],
  claims: ({ attributes }) => onlyOne(SPACES.subnet, '', attributes.cidr),
};

/** For how many machines each subnet is made, by what lies in it. */
const ceilingsOf = ({ pools, more }: Intent): Map<string, number> =>
  new Map([
    ...pools.map(({ role, ceiling }): [string, number] => [role, ceiling]),
    ...(more[SERVICES] ?? []).map((): [string, number] => [SERVICES, SERVICE_ADDRESSES]),
  ]);
