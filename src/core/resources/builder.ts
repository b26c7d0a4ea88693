import Joi from 'joi';
import type { MachineSize } from '../machines';
import { lineOf, type ImageLine, type ImageVersion } from '../images';
import { roomOf, type Room } from './claim';
import type { ResourceKind, Wanted } from './kind';

type Builder = {
  readonly site: string;
  readonly size: string;
  /** What it begins from. */
  readonly image: string;
  readonly diskGiB: number;
  readonly node: string | null;
};

export const builderKey = ({ number, attempt }: Pick<ImageVersion, 'number' | 'attempt'>): string =>
  `builder:${number}:${attempt}`;

/** The machine that an image's version is made on; there only as long as it is worked on. */
export const builder: ResourceKind<Builder> = {
  key: 'builder',
  words: { one: 'build machine', many: 'build machines' },
  attributes: Joi.object<Builder, true>({
    site: Joi.string().required(),
    size: Joi.string().required(),
    image: Joi.string().required(),
    diskGiB: Joi.number().integer().min(1).required(),
    node: Joi.string().allow(null).required(),
  }),
  passing: true,
  wanted: (intent) => {
    const line = lineOf(intent);
    return (line?.versions ?? []).flatMap((version) =>
      line && version.machine ? [machineOf(line, version)] : [],
    );
  },
  allocate: (wanted, intent, desk) => {
    const fresh = wanted.filter((one) => !desk.known(one.key));
    const nodes = desk.nodes(
      fresh.map((one) => ({
        id: one.name,
        customer: desk.customer,
        pool: `${desk.customer}/${intent.name}`,
        ...amounts(one.attributes, desk.sizes),
      })),
    );
    return wanted.map((one) => {
      const before = desk.known(one.key);
      const node = before ? before.attributes.node : nodes[fresh.indexOf(one)];
      return { ...one, attributes: { ...one.attributes, node: typeof node === 'string' ? node : null } };
    });
  },
  // What is done to it follows from the recipe alone.
  differences: () => [],
  steps: (task) =>
    task.do === 'remove'
      ? [{ action: 'remove', seconds: 120 }]
      : task.do === 'make'
        ? [{ action: 'make', seconds: 300 }]
        : [],
  meters: ({ size, diskGiB }) =>
    size === undefined
      ? []
      : [
          { meter: 'host', state: 'on', size, quantity: 1 },
          { meter: 'disk', state: 'on', size: null, quantity: diskGiB ?? 0 },
        ],
  claims: ({ attributes }, { sizes }) => [roomOf(attributes, sizes)],
};

const machineOf = (line: ImageLine, version: ImageVersion): Wanted<Builder> => ({
  key: builderKey(version),
  kind: 'builder',
  name: `${line.code}-build-${version.number}${version.attempt > 1 ? `-${version.attempt}` : ''}`,
  attributes: {
    site: line.site,
    size: line.size,
    image: version.from,
    diskGiB: line.diskGiB,
    node: null,
  },
  needs: [`network:${line.site}`],
});

function amounts({ size, diskGiB }: Partial<Builder>, sizes: readonly MachineSize[]): Omit<Room, 'node'> {
  const found = sizes.find((one) => one.key === size);
  return { vcpu: found?.vcpu ?? 0, memoryGiB: found?.memoryGiB ?? 0, diskGiB: diskGiB ?? 0 };
}
