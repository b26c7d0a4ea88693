import Joi from 'joi';
import { grantLine } from '../grants';
import { isShelf } from '../intent';
import { itemLine } from '../items';
import { hostKey } from './host';
import { differing, listed, type ResourceKind } from './kind';

type Publication = {
  readonly site: string;
  readonly pool: string;
  readonly items: string[];
  /** What of an item goes beyond its name, a line each. */
  readonly details: string[];
  /** What may cross between a session and where it is shown. */
  readonly crosses: string[];
  readonly licences: number;
  /** To whom each item is granted, a line each. */
  readonly grants: string[];
};

/** What a pool puts before its people, and the licence seats that this takes. */
export const publication: ResourceKind<Publication> = {
  key: 'publication',
  words: { one: 'publication', many: 'publications' },
  attributes: Joi.object<Publication, true>({
    site: Joi.string().required(),
    pool: Joi.string().required(),
    items: Joi.array().items(Joi.string()).required(),
    details: Joi.array().items(Joi.string()).required(),
    crosses: Joi.array().items(Joi.string()).required(),
    licences: Joi.number().integer().min(0).required(),
    grants: Joi.array().items(Joi.string()).required(),
  }),
  wanted: (intent) =>
    (isShelf(intent) ? [] : intent.pools).map((pool) => ({
      key: `publication:${pool.role}`,
      kind: 'publication',
      name: `${intent.name} ${pool.role} items`,
      attributes: {
        site: intent.site,
        pool: `pool:${pool.role}`,
        items: pool.items.map((item) => item.name),
        details: pool.items.flatMap((item) => itemLine(item) ?? []),
        crosses: [...pool.crosses],
        licences: pool.people,
        grants: pool.grants.map(grantLine),
      },
      needs: [
        `share:${pool.role}`,
        `pool:${pool.role}`,
        ...pool.hosts.map((host) => hostKey(pool.role, host.slot)),
      ],
    })),
  // What was ready before is reached before the others are built.
  allocate: (wanted, _intent, desk) =>
    wanted.map((one) => {
      const isHost = (key: string): boolean => key.startsWith('host:');
      const ready = one.needs.filter((key) => isHost(key) && desk.of(key)?.attributes.from !== undefined);
      if (ready.length === 0) return one;
      return { ...one, needs: [...one.needs.filter((key) => !isHost(key)), ...ready] };
    }),
  differences: (wanted, present) => [
    ...differing(wanted, present, 'items', 'in place', false),
    ...differing(
      wanted,
      present,
      'details',
      'in place',
      false,
      'what its items start, or how they are shown, is otherwise',
    ),
    ...differing(wanted, present, 'crosses', 'in place', false, crossesDiffers(wanted, present)),
    ...differing(wanted, present, 'licences', 'in place', false),
    ...differing(wanted, present, 'grants', 'in place', false, grantsDiffer(wanted, present)),
  ],
  steps: (task) => {
    switch (task.do) {
      case 'make':
        return [{ action: 'make', seconds: 8 }];
      case 'remove':
        return [{ action: 'remove', seconds: 30 }];
      default:
        return [{ action: 'set', seconds: 10 }];
    }
  },
  meters: ({ licences = 0 }) =>
    licences > 0 ? [{ meter: 'licence', state: 'on', size: null, quantity: licences }] : [],
};

/** What changes of whom it is granted to, by item alone: ids say nothing to anybody. */
function grantsDiffer(wanted: Publication, present: Partial<Publication>): string {
  const [should, is] = [new Set(wanted.grants), new Set(present.grants ?? [])];
  const more = wanted.grants.filter((one) => !is.has(one)).length;
  const fewer = [...is].filter((one) => !should.has(one)).length;
  return `${[more > 0 ? `${more} more` : '', fewer > 0 ? `${fewer} fewer` : ''].filter((one) => one !== '').join(', ')} of its grants`;
}

const crossesDiffers = (wanted: Publication, present: Partial<Publication>): string =>
  `${listed(present.crosses)} may cross, wanted ${listed(wanted.crosses)}`;
