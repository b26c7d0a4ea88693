import Joi from 'joi';
import type { Operation, ResourceKind, Seen, SeenSession } from './port';

/** The shapes of the provider's answers: what does not match them is not believed. */

const text = Joi.string().allow('').required();
const whole = Joi.number().integer().required();

export const operationSchema = Joi.object<Operation>({
  id: text,
  resource: text,
  state: Joi.valid('working', 'done', 'failed').required(),
  says: text,
}).unknown();

interface SeenBody {
  readonly id: string;
  readonly kind: ResourceKind;
  readonly site: string;
  readonly name: string;
  readonly state: string;
  readonly tags: Record<string, string>;
  readonly created_at: number;
  readonly gone_at: number | null;
  readonly size?: string | null;
  readonly disk_gib?: number | null;
  readonly node?: string | null;
  readonly accepting?: boolean | null;
  readonly agent?: string | null;
  readonly joined?: string | null;
  readonly pool?: string | null;
  readonly gib?: number | null;
  readonly licences?: number | null;
}

const maybeText = Joi.string().allow(null, '');
const maybeNumber = Joi.number().allow(null);

export const seenSchema = Joi.object<SeenBody>({
  id: text,
  kind: Joi.valid('network', 'subnet', 'share', 'pool', 'host').required(),
  site: text,
  name: text,
  state: text,
  tags: Joi.object().pattern(Joi.string(), Joi.string().allow('')).required(),
  created_at: whole,
  gone_at: Joi.number().integer().allow(null).required(),
  size: maybeText,
  disk_gib: maybeNumber,
  node: maybeText,
  accepting: Joi.boolean().allow(null),
  agent: maybeText,
  joined: maybeText,
  pool: maybeText,
  gib: maybeNumber,
  licences: maybeNumber,
}).unknown();

export const readSeen = (body: SeenBody): Seen => ({
  id: body.id,
  kind: body.kind,
  site: body.site,
  name: body.name,
  state: body.state,
  tags: body.tags,
  createdAt: body.created_at,
  goneAt: body.gone_at,
  size: body.size ?? null,
  diskGiB: body.disk_gib ?? null,
  node: body.node ?? null,
  accepting: body.accepting ?? null,
  agent: body.agent ?? null,
  joined: body.joined ?? null,
  pool: body.pool ?? null,
  gib: body.gib ?? null,
  licences: body.licences ?? null,
});

export const pageOf = <Entry>(
  entry: Joi.Schema<Entry>,
): Joi.ObjectSchema<{ entries: Entry[]; next: string | null }> =>
  Joi.object<{ entries: Entry[]; next: string | null }>({
    entries: Joi.array().items(entry).required(),
    next: Joi.string().allow(null).required(),
  });

export const feedSchema = pageOf(
  Joi.object<{ seq: number; at: number; seen: SeenBody }>({
    seq: whole,
    at: whole,
    seen: seenSchema.required(),
  }),
);

export const sessionSchema = Joi.object<SeenSession>({
  id: text,
  host: text,
  account: text,
  state: Joi.valid('active', 'idle').required(),
  since: whole,
}).unknown();

const nodeSchema = Joi.object({
  id: text,
  zone: text,
  vcpu: whole,
  memory_gib: whole,
  disk_gib: whole,
  dedicated_to: Joi.string().allow(null).required(),
  state: Joi.valid('up', 'lost').required(),
});

export const sitesSchema = Joi.object<{ sites: SiteBody[] }>({
  sites: Joi.array()
    .items(
      Joi.object<SiteBody>({
        code: text,
        name: text,
        kind: Joi.valid('own nodes', 'hosted region').required(),
        reserved_addresses: whole,
        images: Joi.array().items(Joi.string()).required(),
        sizes: Joi.array()
          .items(Joi.object({ key: text, vcpu: whole, memory_gib: whole }))
          .required(),
        nodes: Joi.array().items(nodeSchema).required(),
        quota: Joi.object({ vcpu: whole, vcpu_used: whole }).allow(null).required(),
      }),
    )
    .required(),
});

export interface SiteBody {
  readonly code: string;
  readonly name: string;
  readonly kind: 'own nodes' | 'hosted region';
  readonly reserved_addresses: number;
  readonly images: string[];
  readonly sizes: { key: string; vcpu: number; memory_gib: number }[];
  readonly nodes: {
    id: string;
    zone: string;
    vcpu: number;
    memory_gib: number;
    disk_gib: number;
    dedicated_to: string | null;
    state: 'up' | 'lost';
  }[];
  readonly quota: { vcpu: number; vcpu_used: number } | null;
}
