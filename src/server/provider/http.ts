import Joi from 'joi';
import { ProviderTrouble, type Ask, type Change, type Provider, type ProviderSite } from './port';
import {
  feedSchema,
  operationSchema,
  pageOf,
  readSeen,
  seenSchema,
  sessionSchema,
  sitesSchema,
  type SiteBody,
} from './shapes';

export interface ProviderAddress {
  readonly url: string;
  readonly account: string;
  readonly secret: string;
}

const PATIENCE_MS = 10_000;

interface Reply {
  readonly status: number;
  readonly body: unknown;
}

/** The provider's HTTP API behind the port. Signs in when needed; one token serves until it is refused. */
export function httpProvider(address: ProviderAddress): Provider {
  let token: string | undefined;

  const send = async (method: string, path: string, body?: unknown, key?: string): Promise<Reply> => {
    const headers: Record<string, string> = { 'content-type': 'application/json' };
    if (token !== undefined) headers.authorization = `Bearer ${token}`;
    if (key !== undefined) headers['idempotency-key'] = key;
    try {
      const response = await fetch(address.url + path, {
        method,
        headers,
        signal: AbortSignal.timeout(PATIENCE_MS),
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      if (response.status === 429)
        throw new ProviderTrouble(
          'asks us to slow down',
          false,
          1_000 * Number(response.headers.get('retry-after') ?? 1),
        );
      const text = await response.text();
      return { status: response.status, body: text === '' ? undefined : (JSON.parse(text) as unknown) };
    } catch (error) {
      if (error instanceof ProviderTrouble) throw error;
      throw new ProviderTrouble('does not answer', false);
    }
  };

  const signIn = async (): Promise<void> => {
    token = undefined;
    const reply = await send('POST', '/v1/token', { account: address.account, secret: address.secret });
    if (reply.status === 401) throw new ProviderTrouble('account or secret is wrong', true);
    token = checked(Joi.object<{ token: string }>({ token: Joi.string().required() }), sound(reply)).token;
  };

  const call = async (method: string, path: string, body?: unknown, key?: string): Promise<Reply> => {
    if (token === undefined) await signIn();
    const reply = await send(method, path, body, key);
    if (reply.status !== 401) return reply;
    await signIn();
    return send(method, path, body, key);
  };

  const all = async <Entry>(path: string, entry: Joi.Schema<Entry>): Promise<Entry[]> => {
    const found: Entry[] = [];
    for (let after: string | null = ''; after !== null;) {
      const join = path.includes('?') ? '&' : '?';
      const reply = await call('GET', `${path}${join}after=${encodeURIComponent(after)}`);
      const page: { entries: Entry[]; next: string | null } = checked(pageOf(entry), sound(reply));
      found.push(...page.entries);
      after = page.next;
    }
    return found;
  };

  return {
    signIn,
    sites: async () => checked(sitesSchema, sound(await call('GET', '/v1/sites'))).sites.map(readSite),
    begin: async (ask, key) => {
      const [method, path, body] = requestFor(ask);
      return checked(operationSchema, sound(await call(method, path, body, key)));
    },
    operation: async (id) => checked(operationSchema, sound(await call('GET', `/v1/operations/${id}`))),
    resource: async (ref) => {
      const reply = await call('GET', `/v1/resources/${ref}`);
      return reply.status === 404 ? undefined : readSeen(checked(seenSchema, sound(reply)));
    },
    resources: async (customer) =>
      (await all(`/v1/resources?customer=${encodeURIComponent(customer)}`, seenSchema)).map(readSeen),
    change: async (ref, change) =>
      void sound(await call('PATCH', `/v1/resources/${ref}`, changeBody(change))),
    endSessions: async (pool) => void sound(await call('DELETE', `/v1/pools/${pool}/sessions`)),
    feed: async (after) => {
      const page = checked(feedSchema, sound(await call('GET', `/v1/feed?after=${after}`)));
      return {
        entries: page.entries.map(({ seq, at, seen }) => ({ seq, at, seen: readSeen(seen) })),
        more: page.next !== null,
      };
    },
    sessions: () => all('/v1/sessions', sessionSchema),
  };
}

/** The body of an answer that is not a refusal. */
function sound(reply: Reply): unknown {
  if (reply.status < 400) return reply.body;
  const { error, value } = Joi.object<{ message: string }>({ message: Joi.string().required() })
    .unknown()
    .validate(reply.body);
  throw new ProviderTrouble(error ? `answered ${reply.status}` : value.message, reply.status < 500);
}

/** An answer of another shape than agreed is trouble that stays, not something to guess about. */
function checked<Shape>(schema: Joi.Schema<Shape>, body: unknown): Shape {
  const { error, value } = schema.validate(body, { convert: false, allowUnknown: true });
  if (error) throw new ProviderTrouble(`gave an answer that is not understood: ${error.message}`, true);
  return value;
}

type Request = [method: string, path: string, body?: unknown];

function requestFor(ask: Ask): Request {
  switch (ask.do) {
    case 'make network':
      return ['POST', '/v1/networks', ask];
    case 'make subnet':
      return ['POST', '/v1/subnets', ask];
    case 'make share':
      return ['POST', '/v1/shares', ask];
    case 'make pool':
      return ['POST', '/v1/pools', ask];
    case 'make host':
      return ['POST', '/v1/hosts', { ...ask, disk_gib: ask.diskGiB }];
    case 'install agent':
      return ['POST', `/v1/resources/${ask.ref}/agent`, {}];
    case 'join':
      return ['POST', `/v1/resources/${ask.ref}/join`, { realm: ask.realm }];
    case 'power':
      return ['POST', `/v1/resources/${ask.ref}/power`, { power: ask.power }];
    case 'remove':
      return ['DELETE', `/v1/resources/${ask.ref}`];
  }
}

const changeBody = ({ publish, ...rest }: Change): Record<string, unknown> => ({ ...rest, ...publish });

function readSite(site: SiteBody): ProviderSite {
  return {
    code: site.code,
    name: site.name,
    kind: site.kind,
    reservedAddresses: site.reserved_addresses,
    images: site.images,
    sizes: site.sizes.map(({ key, vcpu, memory_gib }) => ({ key, vcpu, memoryGiB: memory_gib })),
    nodes: site.nodes.map((node) => ({
      id: node.id,
      zone: node.zone,
      vcpu: node.vcpu,
      memoryGiB: node.memory_gib,
      diskGiB: node.disk_gib,
      dedicatedTo: node.dedicated_to,
      state: node.state,
    })),
    quota: site.quota && { vcpu: site.quota.vcpu, vcpuUsed: site.quota.vcpu_used },
  };
}
