import Joi from 'joi';
import { differing, listed, type ResourceKind } from './kind';

type Pool = {
  readonly site: string;
  readonly seats: number;
  readonly arrival: 'spread' | 'fill';
  /** What its people may do with their own. */
  readonly may: string[];
};

export const poolKey = (role: string): string => `pool:${role}`;

/** What hosts are registered in, and arrivals are shared out by. */
export const pool: ResourceKind<Pool> = {
  key: 'pool',
  words: { one: 'pool', many: 'pools' },
  attributes: Joi.object<Pool, true>({
    site: Joi.string().required(),
    seats: Joi.number().integer().min(1).required(),
    arrival: Joi.string().valid('spread', 'fill').required(),
    may: Joi.array().items(Joi.string()).required(),
  }),
  wanted: (intent) =>
    intent.pools.map((one) => ({
      key: poolKey(one.role),
      kind: 'pool',
      name: `${intent.name} ${one.role}`,
      attributes: { site: intent.site, seats: one.seats, arrival: one.arrival, may: [...one.may] },
      needs: [`network:${intent.site}`],
    })),
  differences: (wanted, present) => [
    ...differing(wanted, present, 'seats', 'in place', false),
    ...differing(wanted, present, 'arrival', 'in place', false),
    ...differing(wanted, present, 'may', 'in place', false, mayDiffers(wanted, present)),
  ],
  steps: (task) => {
    switch (task.do) {
      case 'make':
        return [{ action: 'make', seconds: 3 }];
      case 'remove':
        return [{ action: 'remove', seconds: 5 }];
      default:
        return [{ action: 'set', seconds: 5 }];
    }
  },
  meters: () => [],
};

const mayDiffers = (wanted: Pool, present: Partial<Pool>): string =>
  `people may ${listed(present.may)}, wanted ${listed(wanted.may)}`;
