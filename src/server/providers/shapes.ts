import Joi from 'joi';
import type { Quota } from '../../core/facts';
import { ANSWERS, type Answer } from '../../core/look-along';
import type { Attributes } from '../../core/intent';
import type { Rate } from '../../core/rating';
import { identity } from '../../core/text';
import type {
  BeatsPage,
  Operation,
  PresentResource,
  OpenedSession,
  PresentSession,
  Program,
  ProviderPrices,
  ProviderSite,
  SessionChange,
} from './port';

/** The shapes of a provider's answers: what does not match them is not believed. */

/** Its own names: visible ASCII, as they are kept. */
const named = (most: number): Joi.StringSchema =>
  Joi.string()
    .max(most)
    .pattern(/^[!-~]+$/)
    .required();
const text = Joi.string().allow('').max(200).required();
const ref = named(128);
/** An amount of something, or how often something changed. */
const whole = Joi.number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required();
/** Instants of the years 1970 to 9999. */
const instant = Joi.number().integer().min(0).max(253_402_300_799_999);

export const healthSchema = Joi.object<{ works: boolean }, true>({ works: Joi.boolean().required() });

export const tokenSchema = Joi.object<{ token: string }>({ token: Joi.string().required() });

export const operationSchema = Joi.object<Operation>({
  id: ref,
  resource: ref,
  state: Joi.valid('working', 'done', 'failed').required(),
  says: text,
  output: Joi.string().allow('').max(100_000),
});

interface PresentBody {
  readonly id: string;
  readonly kind: string;
  readonly site: string;
  readonly name: string;
  readonly state: string;
  readonly tags: Record<string, string>;
  readonly version: number;
  readonly created_at: number;
  readonly gone_at: number | null;
  readonly attributes: Attributes;
  readonly busy_with: string | null;
}

const attribute = Joi.alternatives(
  Joi.string().allow('', null).max(8_000),
  Joi.number(),
  Joi.boolean(),
  Joi.array().items(Joi.string().max(8_000)).max(2_000),
);

export const presentSchema = Joi.object<PresentBody>({
  id: ref,
  kind: named(32),
  site: named(16),
  name: Joi.string().max(120).required(),
  state: text,
  tags: Joi.object().pattern(Joi.string().max(128), Joi.string().allow('').max(500)).max(100).required(),
  version: whole,
  created_at: instant.required(),
  gone_at: instant.allow(null).required(),
  attributes: Joi.object().pattern(Joi.string().max(64), attribute).max(100).required(),
  busy_with: ref.allow(null),
});

export const readPresent = ({ id, created_at, gone_at, ...body }: PresentBody): PresentResource => ({
  ref: id,
  kind: body.kind,
  site: body.site,
  name: body.name,
  state: body.state,
  tags: body.tags,
  version: body.version,
  createdAt: created_at,
  goneAt: gone_at,
  attributes: body.attributes,
  busyWith: body.busy_with,
});

/** A page of a list: its entries are looked at one by one, so that a bad one hides none of the others. */
export const pageSchema = Joi.object<{
  readonly entries: readonly unknown[];
  readonly next: string | null;
  readonly place?: string;
}>({
  entries: Joi.array().items(Joi.any()).max(10_000).required(),
  next: Joi.string().max(300).allow(null).required(),
  /** Where the record of changes stood. */
  place: Joi.string().max(40),
});

export const placeSchema = Joi.object<{ readonly place: string }>({ place: Joi.string().max(40).required() });

/** Entries that can be understood, how many others there were, and what was wrong with the first of those. */
export function sorted<Entry>(
  schema: Joi.Schema<Entry>,
  entries: readonly unknown[],
): { readonly good: Entry[]; readonly bad: number; readonly why: string } {
  const good: Entry[] = [];
  let why = '';
  for (const entry of entries) {
    const { error, value } = schema.validate(entry, { convert: false, allowUnknown: true });
    if (error) why ||= error.message;
    else good.push(value);
  }
  return { good, bad: entries.length - good.length, why };
}

/** How far a page of a record goes, also where its last entries cannot be understood. */
export function lastOf(entries: readonly unknown[]): { readonly last?: number } {
  const seqs = entries.flatMap((one) =>
    typeof one === 'object' && one !== null && 'seq' in one && Number.isSafeInteger(one.seq)
      ? [one.seq as number]
      : [],
  );
  return seqs.length === 0 ? {} : { last: Math.max(...seqs.slice(-1_000)) };
}

export const feedEntrySchema = Joi.object<{ seq: number; at: number; seen: PresentBody }>({
  seq: whole,
  at: instant.required(),
  seen: presentSchema.required(),
}).required();

export const sessionSchema = Joi.object<PresentSession>({
  id: named(64),
  host: ref,
  account: Joi.string().max(80).required(),
  state: Joi.valid('active', 'idle').required(),
  since: instant.required(),
}).required();

/** Accounts are the same whatever their case. */
export const readSession = (session: PresentSession): PresentSession => ({
  ...session,
  account: identity(session.account),
});

/** Where a browser is sent: it leads to a page, and runs nothing. */
const address = Joi.string()
  .uri({ scheme: ['http', 'https'], allowRelative: true })
  .max(500)
  .required();

export const openedSchema = Joi.object<OpenedSession>({
  session: sessionSchema.required(),
  address,
  until: whole,
});

export const lookSchema = Joi.object<{ readonly answer: Answer; readonly address: string | null }>({
  answer: Joi.valid(...ANSWERS).required(),
  address: address.allow(null),
});

export const programsSchema = Joi.object<{
  readonly programs: readonly (Omit<Program, 'memoryMiB'> & { readonly memory_mib: number })[];
}>({
  programs: Joi.array()
    .items(
      Joi.object({
        id: Joi.string().max(64).required(),
        name: text,
        load: Joi.number().min(0).required(),
        memory_mib: Joi.number().min(0).required(),
        responds: Joi.boolean().required(),
      }),
    )
    .required(),
});

interface ChangeBody extends Omit<PresentSession, 'state'> {
  readonly seq: number;
  readonly state: 'active' | 'idle' | 'ended';
}

export const sessionChangeSchema = Joi.object<ChangeBody>({
  seq: whole,
  id: named(64),
  host: ref,
  account: Joi.string().allow('').max(80).required(),
  state: Joi.valid('active', 'idle', 'ended').required(),
  since: instant.required(),
}).required();

interface BeatBody {
  readonly host: string;
  readonly at: number;
  readonly unwell: boolean;
  readonly load: number;
  readonly memory: number;
  readonly disk: number;
  readonly clock_off_ms: number;
  readonly agent: string;
  readonly tried: number;
  readonly refused: number;
  readonly sign_in_seconds: number;
}

const part = Joi.number().min(0).required();

interface BeatsBody {
  readonly entries: readonly unknown[];
  readonly next: string | null;
  readonly as_of: number;
}

export const beatsSchema = Joi.object<BeatsBody>({
  entries: Joi.array().items(Joi.object().unknown()).required(),
  next: Joi.string().max(128).allow(null).required(),
  as_of: whole,
});

/** What a host says of itself besides is of no use here. */
const beatSchema = Joi.object<BeatBody>({
  host: ref,
  at: instant.required(),
  unwell: Joi.boolean().required(),
  load: part,
  memory: part,
  disk: part,
  clock_off_ms: Joi.number().required(),
  agent: Joi.string().allow('').max(40).required(),
  tried: whole.min(0),
  refused: whole.min(0),
  sign_in_seconds: Joi.number().min(0).required(),
}).unknown();

/** One host that says what cannot be understood hides none of the others. */
const understoodBeat = (entry: unknown): BeatBody[] => {
  const { error, value } = beatSchema.validate(entry, { convert: false });
  return error ? [] : [value];
};

/** Which host an entry is of, whatever else it says. */
const mentionedBy = (entry: unknown): string[] => {
  const { error, value } = Joi.object<{ host: string }>({ host: ref }).unknown().required().validate(entry);
  return error ? [] : [value.host];
};

export const readBeats = ({ entries, next, as_of }: BeatsBody): BeatsPage => ({
  mentioned: entries.flatMap(mentionedBy),
  entries: entries.flatMap(understoodBeat).map((one) => ({
    host: one.host,
    isUnwell: one.unwell,
    heardAt: one.at,
    load: one.load,
    memory: one.memory,
    disk: one.disk,
    clockOffMs: one.clock_off_ms,
    agent: one.agent,
    signIns: { tried: one.tried, refused: one.refused },
    signInSeconds: one.sign_in_seconds,
  })),
  next,
  askedAt: as_of,
});

export const readSessionChange = ({ seq, id, host, state, account, since }: ChangeBody): SessionChange =>
  state === 'ended' ? { seq, id, host, state } : { seq, ...readSession({ id, host, state, account, since }) };

const nodeSchema = Joi.object({
  id: named(32),
  zone: named(32),
  vcpu: whole,
  memory_gib: whole,
  disk_gib: whole,
  dedicated_to: named(16).allow(null),
  state: Joi.valid('up', 'lost').required(),
});

interface SiteBody {
  readonly code: string;
  readonly name: string;
  readonly kind: 'own nodes' | 'hosted region';
  readonly reserved_addresses: number;
  readonly images: { name: string; disk_gib: number }[];
  readonly sizes: {
    key: string;
    vcpu: number;
    memory_gib: number;
    graphics_gib?: number;
    family?: string;
  }[];
  readonly nodes: {
    id: string;
    zone: string;
    vcpu: number;
    memory_gib: number;
    disk_gib: number;
    dedicated_to: string | null;
    state: 'up' | 'lost';
  }[];
  readonly quota: QuotaBody | null;
}

interface QuotaBody {
  readonly vcpu: number;
  readonly vcpu_used: number;
  readonly families?: readonly { family: string; vcpu: number; vcpu_used: number }[];
  readonly others?: readonly { of: string; most: number; used: number }[];
}

export const sitesSchema = Joi.object<{ sites: SiteBody[] }>({
  sites: Joi.array()
    .items(
      Joi.object<SiteBody>({
        code: named(16),
        name: Joi.string().max(80).required(),
        kind: Joi.valid('own nodes', 'hosted region').required(),
        reserved_addresses: whole,
        images: Joi.array()
          .items(Joi.object({ name: text, disk_gib: whole }))
          .required(),
        sizes: Joi.array()
          .items(
            Joi.object({
              key: named(16),
              vcpu: whole,
              memory_gib: whole,
              graphics_gib: whole.optional(),
              family: text.optional(),
            }),
          )
          .required(),
        nodes: Joi.array().items(nodeSchema).required(),
        quota: Joi.object({
          vcpu: whole,
          vcpu_used: whole,
          families: Joi.array().items(Joi.object({ family: text, vcpu: whole, vcpu_used: whole })),
          others: Joi.array()
            .max(50)
            .items(Joi.object({ of: Joi.string().max(64).required(), most: whole, used: whole })),
        })
          .allow(null)
          .required(),
      }),
    )
    .required(),
});

const readQuota = ({ vcpu, vcpu_used, families, others }: QuotaBody): Quota => ({
  vcpu,
  vcpuUsed: vcpu_used,
  ...(families
    ? { families: families.map(({ vcpu_used: used, ...one }) => ({ ...one, vcpuUsed: used })) }
    : {}),
  ...(others ? { others } : {}),
});

export const readSite = (site: SiteBody): ProviderSite => ({
  code: site.code,
  name: site.name,
  kind: site.kind,
  reservedAddresses: site.reserved_addresses,
  images: site.images.map(({ name, disk_gib }) => ({ name, diskGiB: disk_gib })),
  sizes: site.sizes.map(({ key, vcpu, memory_gib, graphics_gib, family }) => ({
    key,
    vcpu,
    memoryGiB: memory_gib,
    ...(graphics_gib === undefined ? {} : { graphicsGiB: graphics_gib }),
    ...(family === undefined ? {} : { family }),
  })),
  nodes: site.nodes.map((node) => ({
    id: node.id,
    zone: node.zone,
    vcpu: node.vcpu,
    memoryGiB: node.memory_gib,
    diskGiB: node.disk_gib,
    dedicatedTo: node.dedicated_to,
    state: node.state,
  })),
  quota: site.quota && readQuota(site.quota),
});

interface PricesBody {
  readonly sizes: readonly { readonly key: string; readonly hourly: string }[];
  readonly diskGiBMonth: string;
  readonly shareGiBMonth: string;
  readonly imageGiBMonth: string;
  readonly currency: string;
}

const price = Joi.string()
  .pattern(/^\d{1,6}(\.\d{1,6})?$/)
  .required();

export const pricesSchema = Joi.object<PricesBody>({
  sizes: Joi.array()
    .items(Joi.object({ key: text, hourly: price, vcpu: whole, memoryGiB: whole }))
    .required(),
  diskGiBMonth: price,
  shareGiBMonth: price,
  imageGiBMonth: price,
  currency: Joi.string().length(3).uppercase().required(),
});

/** Its prices, in our meters. */
export function readPrices({
  sizes,
  diskGiBMonth,
  shareGiBMonth,
  imageGiBMonth,
  currency,
}: PricesBody): ProviderPrices {
  const always = { from: 0, to: null };
  const ofGiB = (meter: string, each: string): Rate => ({
    meter,
    size: null,
    unit: 'month',
    price: each,
    ...always,
  });
  return {
    currency,
    rates: [
      ...sizes.map(({ key, hourly }): Rate => ({
        meter: 'host',
        size: key,
        unit: 'hour',
        price: hourly,
        ...always,
      })),
      ofGiB('disk', diskGiBMonth),
      ofGiB('share', shareGiBMonth),
      ofGiB('image', imageGiBMonth),
    ],
  };
}

export const probeSchema = Joi.object<{ worked: boolean; says: string }>({
  worked: Joi.boolean().required(),
  says: Joi.string().allow('').max(250).required(),
});
