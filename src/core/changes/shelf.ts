import Joi from 'joi';
import { SHELF, withPool, type Intent, type PoolIntent } from '../intent';
import { blocks, defineChange, passes, type Check } from '../planning';
import { moreHosts } from '../resources';
import { ok, refuse } from '../result';
import { nameOf, seatsless } from './common';

/** The pool that a ready shelf is. */
export const READY = 'ready';

/** How much of a shelf there is to be: so many hosts, for no more than so much a month. */
interface Stock {
  readonly hosts: number;
  /** Decimal text, in the currency of the site's prices; null: whatever they cost. */
  readonly most: string | null;
}

interface StockShelf extends Stock {
  readonly site: string;
  readonly image: string;
  readonly size: string;
  readonly diskGiB: number;
}

const stock = {
  hosts: Joi.number().integer().min(0).max(200).required().description('So many are kept ready'),
  most: Joi.string()
    .pattern(/^\d{1,7}(\.\d{1,2})?$/)
    .allow(null)
    .required()
    .messages({ 'string.pattern.base': 'write it like 120.00' })
    .description('The most that they may cost a month, at what the provider asks; null: no limit'),
};

const shelfName = ({ site, size }: Pick<StockShelf, 'site' | 'size'>): string =>
  `ready-${site}-${size}`.toLowerCase();

/** What a shelf is to have, as its intent holds it. */
export function stockOf({ more }: Pick<Intent, 'more'>): Stock | undefined {
  const [held] = more[SHELF] ?? [];
  if (!held) return undefined;
  return { hosts: Number(held.hosts), most: typeof held.most === 'string' ? held.most : null };
}

/** Builds hosts in advance for a site, image and size: whoever comes next has them within a minute. */
export const stockShelf = defineChange<StockShelf>({
  kind: 'stock-shelf',
  subject: 'new environment',
  of: 'the MSP',
  verb: 'Keep hosts ready',
  input: Joi.object<StockShelf>({
    site: Joi.string().max(16).required(),
    image: Joi.string().max(80).required(),
    size: Joi.string().max(16).required(),
    diskGiB: Joi.number().integer().min(1).max(65_536).required(),
    ...stock,
  }),
  right: 'decide',
  confirm: 'press',
  undo: 'none',
  whole: true,
  title: ({ hosts }, { site }) => `Keep ${hosts === 1 ? 'a host' : `${hosts} hosts`} ready at ${site.name}`,
  edit: (_intent, input, { site }) => {
    if (!site.sizes.some((one) => one.key === input.size))
      return refuse({ size: `is not had at ${site.name}` });
    const pool: PoolIntent = {
      ...seatsless,
      role: READY,
      image: input.image,
      size: input.size,
      diskGiB: input.diskGiB,
      // Room for those that are handed over while others are built.
      ceiling: Math.max(8, 2 * input.hosts),
      hosts: [],
    };
    return ok({
      name: shelfName(input),
      site: input.site,
      template: null,
      naming: 'READY-{site}-{counter:4}',
      tags: {},
      people: 0,
      pools: [moreHosts(pool, input.hosts)],
      more: { [SHELF]: [{ hosts: input.hosts, most: input.most }] },
    });
  },
  policy: () => ({ atATime: 3, failureLimit: 2 }),
  checks: (_edited, input, { customer, site }): Check[] => [
    customer.environments.includes(shelfName(input))
      ? blocks(
          'name',
          'Ready shelf',
          `${site.name} keeps hosts of that size ready already`,
          'Change how many.',
        )
      : passes('name', 'Ready shelf', `${site.name} keeps none of that size yet`),
  ],
});

/** Says otherwise how many are kept ready, and what they may cost; it is filled up to that by itself. */
export const changeStock = defineChange<Stock>({
  kind: 'change-stock',
  subject: 'environment',
  of: 'the MSP',
  verb: 'Change how many',
  input: Joi.object<Stock>(stock),
  right: 'decide',
  confirm: 'press',
  undo: 'by difference',
  title: ({ hosts }, facts) => `Keep ${hosts} ready on ${nameOf(facts)}`,
  edit: (intent, { hosts, most }) => {
    if (intent === null || !stockOf(intent)) return refuse({ environment: 'is no ready shelf' });
    return ok({
      ...withPool(intent, READY, (pool) => ({ ...pool, ceiling: Math.max(pool.ceiling, 2 * hosts) })),
      more: { ...intent.more, [SHELF]: [{ hosts, most }] },
    });
  },
  policy: () => ({ atATime: 1, failureLimit: 1 }),
  people: () => 0,
});

interface Shelve {
  /** The server, by its provider's name for it. */
  readonly server: string;
}

/** Puts a server that was made by hand on the shelf: looked at for what it lacks, brought up, restarted, and only then ready. */
export const shelve = defineChange<Shelve>({
  kind: 'shelve',
  subject: 'environment',
  of: 'the MSP',
  verb: 'Put on the shelf',
  input: Joi.object<Shelve>({ server: Joi.string().max(128).required() }),
  right: 'build',
  confirm: 'press',
  touches: ['new host'],
  undo: 'none',
  title: ({ server }, { site }) =>
    `Put ${site.strays?.find((one) => one.ref === server)?.name ?? 'a server'} on the shelf`,
  edit: (intent, { server }, { site }) => {
    if (intent === null || !stockOf(intent)) return refuse({ environment: 'is no ready shelf' });
    const found = site.strays?.find((one) => one.ref === server);
    if (!found) return refuse({ server: `is no server at ${site.name} that nobody owns` });
    const [pool] = intent.pools;
    if (pool && found.size !== pool.size)
      return refuse({ server: `has another size than what is kept on this shelf` });
    return ok(
      withPool(intent, READY, (one) => {
        const fuller = moreHosts(one, 1);
        const slots = new Set(one.hosts.map(({ slot }) => slot));
        return {
          ...fuller,
          ceiling: Math.max(fuller.ceiling, fuller.hosts.length),
          hosts: fuller.hosts.map((host) =>
            slots.has(host.slot) ? host : { ...host, from: server, diskGiB: found.diskGiB },
          ),
        };
      }),
    );
  },
  policy: () => ({ atATime: 1, failureLimit: 1 }),
  people: () => 0,
});
