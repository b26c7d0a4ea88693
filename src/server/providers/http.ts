import type Joi from 'joi';
import {
  accepted,
  CredentialsRefused,
  OutsideError,
  outsideHttp,
  understood,
  type OutsideReply,
} from '../outside';
import type { Operation, Provider } from './port';
import {
  beatsSchema,
  feedEntrySchema,
  lastOf,
  healthSchema,
  openedSchema,
  operationSchema,
  pageSchema,
  placeSchema,
  presentSchema,
  pricesSchema,
  probeSchema,
  lookSchema,
  programsSchema,
  readBeats,
  readPresent,
  readPrices,
  readSession,
  readSessionChange,
  readSite,
  sessionChangeSchema,
  sorted,
  sessionSchema,
  sitesSchema,
  tokenSchema,
} from './shapes';

export interface ProviderAddress {
  readonly code: string;
  readonly url: string;
  readonly account: string;
  readonly secret: string;
}

/** So much is read of a list; a provider that gives pages for ever is not read for ever. */
const MOST_ENTRIES = 1_000_000;

interface Sent {
  readonly body?: unknown;
  readonly key?: string;
  readonly version?: number;
}

/** Told of entries of a list that cannot be understood: they are passed over, and the others are kept. */
export type Ignored = (of: string, count: number, why: string) => Promise<unknown>;

/** A provider's HTTP API behind the port. Signs in when needed; one token serves until it is refused. */
export function httpProvider(address: ProviderAddress, ignored: Ignored = async () => undefined): Provider {
  const system = `provider ${address.code}`;
  const send = outsideHttp(system, address.url);
  let token: string | undefined;

  const signIn = async (): Promise<void> => {
    token = undefined;
    const { account, secret } = address;
    const reply = await send('POST', '/v1/token', { json: { account, secret } });
    if (reply.status === 401) throw new CredentialsRefused(system);
    token = understood(system, tokenSchema, accepted(system, reply)).token;
  };

  const once = (method: string, path: string, { body, key, version }: Sent): Promise<OutsideReply> =>
    send(method, path, {
      ...(body === undefined ? {} : { json: body }),
      headers: {
        authorization: `Bearer ${token ?? ''}`,
        ...(key === undefined ? {} : { 'idempotency-key': key }),
        ...(version === undefined ? {} : { 'if-match': `"${version}"` }),
      },
    });

  const call = async (method: string, path: string, sent: Sent = {}): Promise<OutsideReply> => {
    if (token === undefined) await signIn();
    const reply = await once(method, path, sent);
    if (reply.status !== 401) return reply;
    await signIn();
    return once(method, path, sent);
  };

  const all = async <Entry>(
    path: string,
    entry: Joi.Schema<Entry>,
    look: (page: { readonly place?: string }) => unknown = () => undefined,
  ): Promise<Entry[]> => {
    const found: Entry[] = [];
    for (let after: string | null = ''; after !== null;) {
      const join = path.includes('?') ? '&' : '?';
      const reply = await call('GET', `${path}${join}after=${encodeURIComponent(after)}`);
      const page = understood(system, pageSchema, accepted(system, reply));
      for (const one of await usable(path.split('?')[0] ?? path, entry, page.entries)) found.push(one);
      if (page.next === after || found.length > MOST_ENTRIES)
        throw new OutsideError(system, 'gives pages without an end', 'lasting');
      look(page);
      after = page.next;
    }
    return found;
  };

  /** Those entries that can be understood. */
  const usable = async <Entry>(
    of: string,
    entry: Joi.Schema<Entry>,
    entries: readonly unknown[],
  ): Promise<Entry[]> => {
    const { good, bad, why } = sorted(entry, entries);
    if (bad > 0) await ignored(of, bad, why);
    return good;
  };

  const begun = async (method: string, path: string, sent: Sent): Promise<Operation> =>
    understood(system, operationSchema, accepted(system, await call(method, path, sent)));

  const of = (session: string): string => `/v1/sessions/${encodeURIComponent(session)}`;
  const at = (ref: string): string => `/v1/resources/${encodeURIComponent(ref)}`;

  return {
    reach: async () => {
      const reply = await send('GET', '/health');
      understood(system, healthSchema, accepted(system, reply));
      return { clock: reply.date };
    },
    signIn,
    sites: async () =>
      understood(system, sitesSchema, accepted(system, await call('GET', '/v1/sites'))).sites.map(readSite),
    prices: async () =>
      readPrices(understood(system, pricesSchema, accepted(system, await call('GET', '/v1/prices')))),
    make: (ask, key) => begun('POST', '/v1/resources', { body: ask, key }),
    act: (ref, version, action, parameters, key) =>
      begun('POST', `${at(ref)}/actions`, { body: { action, parameters }, key, version }),
    remove: (ref, version, key) => begun('DELETE', at(ref), { key, version }),
    change: async (ref, version, attributes) =>
      void accepted(system, await call('PATCH', at(ref), { body: { attributes }, version })),
    tag: async (ref, version, tags) =>
      void accepted(system, await call('PATCH', at(ref), { body: { tags }, version })),
    operation: (id) => begun('GET', `/v1/operations/${encodeURIComponent(id)}`, {}),
    resource: async (ref) => {
      const reply = await call('GET', at(ref));
      if (reply.status === 404) return undefined;
      return readPresent(understood(system, presentSchema, accepted(system, reply)));
    },
    resources: async (filter) => {
      const query = new URLSearchParams({ ...filter });
      return (await all(`/v1/resources?${query}`, presentSchema)).map(readPresent);
    },
    everything: async () => (await all('/v1/resources', presentSchema)).map(readPresent),
    message: async (host, id, text) =>
      void accepted(system, await call('PUT', `${at(host)}/messages/${id}`, { body: { text } })),
    endSessions: async (host) => void accepted(system, await call('DELETE', `${at(host)}/sessions`)),
    openSession: async (host, account, item, how) => {
      const reply = await call('POST', `${at(host)}/sessions`, { body: { account, item, ...how } });
      const opened = understood(system, openedSchema, accepted(system, reply));
      const session = readSession(opened.session);
      return { ...opened, session, address: new URL(opened.address, address.url).href };
    },
    messageSession: async (session, id, text) =>
      over(system, await call('PUT', `${of(session)}/messages/${id}`, { body: { text } })),
    disconnect: async (session) => over(system, await call('POST', `${of(session)}/disconnect`)),
    endSession: async (session) => over(system, await call('DELETE', of(session))),
    askToLook: async (session, { id, account, by, answerMs, lookMs }) =>
      void accepted(
        system,
        await call('PUT', `${of(session)}/looks/${id}`, {
          body: { account, by, answer_ms: answerMs, look_ms: lookMs },
        }),
      ),
    lookAlong: async (session, id) => {
      const reply = await call('GET', `${of(session)}/looks/${id}`);
      if (reply.status === 404) return { answer: 'over', address: null };
      const { answer, address: path } = understood(system, lookSchema, accepted(system, reply));
      return { answer, address: path === null ? null : new URL(path, address.url).href };
    },
    endLook: async (session, id) => over(system, await call('DELETE', `${of(session)}/looks/${id}`)),
    programs: async (session) => {
      const reply = await call('GET', `${of(session)}/programs`);
      if (reply.status === 404) return [];
      return understood(system, programsSchema, accepted(system, reply)).programs.map(
        ({ memory_mib, ...one }) => ({ ...one, memoryMiB: memory_mib }),
      );
    },
    endProgram: async (session, program) =>
      over(system, await call('DELETE', `${of(session)}/programs/${encodeURIComponent(program)}`)),
    beats: async (after) =>
      readBeats(
        understood(
          system,
          beatsSchema,
          accepted(system, await call('GET', `/v1/beats?after=${encodeURIComponent(after)}`)),
        ),
      ),
    beatOf: async (host) => {
      const reply = await call('GET', `/v1/beats?host=${encodeURIComponent(host)}`);
      const { entries, askedAt } = readBeats(understood(system, beatsSchema, accepted(system, reply)));
      const [beat] = entries;
      return beat?.host === host ? { ...beat, askedAt } : undefined;
    },
    sessions: async (host) =>
      (await all(`/v1/sessions?host=${encodeURIComponent(host)}`, sessionSchema)).map(readSession),
    allSessions: async () => {
      // The first page tells the place: what changes while the others are read is read again as a change.
      let place: string | undefined;
      const sessions = await all('/v1/sessions', sessionSchema, (page) => (place ??= page.place));
      return { sessions: sessions.map(readSession), place: place ?? '' };
    },
    sessionChanges: async (after) => {
      const reply = await call('GET', `/v1/session-changes?after=${encodeURIComponent(after)}`);
      if (reply.status === 410) return undefined;
      const page = understood(system, pageSchema, accepted(system, reply));
      const entries = await usable('/v1/session-changes', sessionChangeSchema, page.entries);
      return { entries: entries.map(readSessionChange), more: page.next !== null, ...lastOf(page.entries) };
    },
    probe: async (network, what) =>
      understood(
        system,
        probeSchema,
        accepted(system, await call('POST', `${at(network)}/probe`, { body: what })),
      ),
    feed: async (after) => {
      const reply = await call('GET', `/v1/feed?after=${encodeURIComponent(after)}`);
      if (reply.status === 410) return undefined;
      const page = understood(system, pageSchema, accepted(system, reply));
      const entries = await usable('/v1/feed', feedEntrySchema, page.entries);
      return {
        entries: entries.map(({ seq, at: when, seen }) => ({ seq, at: when, present: readPresent(seen) })),
        more: page.next !== null,
        ...lastOf(page.entries),
      };
    },
    feedPlaceNow: async () =>
      understood(system, placeSchema, accepted(system, await call('GET', '/v1/feed?after=now'))).place,
  };
}

/** What is over already is as it was to be. */
function over(system: string, reply: OutsideReply): void {
  if (reply.status !== 404) accepted(system, reply);
}
