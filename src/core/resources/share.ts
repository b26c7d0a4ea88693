import Joi from 'joi';
import { isShelf } from '../intent';
import { differing, type ResourceKind } from './kind';

type Share = {
  readonly site: string;
  readonly gib: number;
};

export const shareKey = (role: string): string => `share:${role}`;

/** File storage for the profiles of a pool's people. */
export const share: ResourceKind<Share> = {
  key: 'share',
  words: { one: 'share', many: 'shares' },
  attributes: Joi.object<Share, true>({
    site: Joi.string().required(),
    gib: Joi.number().integer().min(1).required(),
  }),
  holdsData: ({ gib }) => [`profiles on a share of ${gib} GiB`],
  wanted: (intent) =>
    (isShelf(intent) ? [] : intent.pools).map((pool) => ({
      key: shareKey(pool.role),
      kind: 'share',
      name: `${intent.name} ${pool.role} profiles`,
      attributes: { site: intent.site, gib: pool.shareGiB },
      needs: [`network:${intent.site}`],
    })),
  differences: (wanted, present) =>
    differing(
      wanted,
      present,
      'gib',
      'in place',
      false,
      `holds ${present.gib ?? 0} GiB, wanted ${wanted.gib} GiB`,
    ),
  steps: (task) => {
    switch (task.do) {
      case 'make':
        return [{ action: 'make', seconds: 10 }];
      case 'remove':
        return [{ action: 'remove', seconds: 90 }];
      default:
        return [{ action: 'set', seconds: 10 }];
    }
  },
  meters: ({ gib }) =>
    gib === undefined ? [] : [{ meter: 'share', state: 'on', size: null, quantity: gib }],
};
