import Joi from 'joi';
import { KEPT_DISKS, type Intent } from '../intent';
import { differing, type ResourceKind, type Wanted } from './kind';

type PersonalDisk = {
  readonly site: string;
  readonly gib: number;
  /** Whose it is, by account; empty: nobody's yet. */
  readonly person: string;
  /** Our id of that person; left out: nobody's yet. */
  readonly personId?: string;
  /** Whether it was put aside: on no host, kept as long as was promised. */
  readonly kept: boolean;
};

export const diskKey = (role: string, slot: number, disk = 1): string =>
  `personal-disk:${role}:${slot}:${disk}`;

/** What a person keeps on a host of their own: it stays when the host is made anew. */
export const personalDisk: ResourceKind<PersonalDisk> = {
  key: 'personal-disk',
  words: { one: 'personal disk', many: 'personal disks' },
  attributes: Joi.object<PersonalDisk, true>({
    site: Joi.string().required(),
    gib: Joi.number().integer().min(1).required(),
    person: Joi.string().allow('').required(),
    personId: Joi.string(),
    kept: Joi.boolean().required(),
  }),
  holdsData: ({ person }) => (person === '' ? [] : [`the disk of ${person}`]),
  wanted: (intent) => [...onHosts(intent), ...keptDisks(intent)],
  differences: (wanted, present) => [
    ...differing(
      wanted,
      present,
      'gib',
      'in place',
      false,
      `has ${present.gib ?? 0} GiB, wanted ${wanted.gib} GiB`,
    ),
    ...differing(
      wanted,
      present,
      'person',
      'in place',
      false,
      `is ${ownerSays(present.person)}, wanted ${ownerSays(wanted.person)}`,
    ),
    ...differing(
      wanted,
      present,
      'kept',
      'in place',
      false,
      wanted.kept ? 'is to be put aside' : 'was put aside',
    ),
  ],
  steps: (task) => {
    switch (task.do) {
      case 'make':
        return [{ action: 'make', seconds: 20 }];
      case 'remove':
        return [{ action: 'remove', seconds: 30 }];
      default:
        return [{ action: 'set', seconds: 10 }];
    }
  },
  meters: ({ gib }) => (gib === undefined ? [] : [{ meter: 'disk', state: 'on', size: null, quantity: gib }]),
};

const idOf = (personId: unknown): { personId?: string } => (typeof personId === 'string' ? { personId } : {});

const ownerSays = (person: string | undefined): string => (person ? `of ${person}` : 'nobody’s');

const onHosts = (intent: Intent): Wanted<PersonalDisk>[] =>
  intent.pools.flatMap(({ role, ownDiskGiB, hosts }) =>
    ownDiskGiB === 0
      ? []
      : hosts.map(({ slot, disk, person = '', personId }) => ({
          key: diskKey(role, slot, disk),
          kind: 'personal-disk',
          name: diskName(intent, role, slot, disk),
          attributes: { site: intent.site, gib: ownDiskGiB, person, ...idOf(personId), kept: false },
          needs: [`network:${intent.site}`],
        })),
  );

const keptDisks = (intent: Intent): Wanted<PersonalDisk>[] =>
  (intent.more[KEPT_DISKS] ?? []).map(({ pool, slot, disk, gib, person, personId }) => ({
    key: diskKey(String(pool), Number(slot), Number(disk)),
    kind: 'personal-disk',
    name: diskName(intent, String(pool), Number(slot), Number(disk)),
    attributes: {
      site: intent.site,
      gib: Number(gib),
      person: String(person),
      ...idOf(personId),
      kept: true,
    },
    needs: [`network:${intent.site}`],
  }));

const diskName = ({ name }: Intent, role: string, slot: number, disk = 1): string =>
  `${name} ${role} ${slot} disk${disk === 1 ? '' : ` ${disk}`}`;
