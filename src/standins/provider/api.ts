import { randomBytes } from 'node:crypto';
import { number, record, tags, text } from '../kit/read';
import { Refusal, type Answer, type Call, type Handler, type Routes } from '../kit/server';
import { beatRoutes } from './beats';
import type { CatalogueSize } from './catalogue';
import type { FaultKind, Faults } from './faults';
import { outputOf } from './images';
import { probe } from './route';
import { endSessionsOn, isKnownPlace, newestChange } from './session-record';
import { sessionRoutes } from './live-sessions';
import { movePeople } from './sessions';
import type { Operation } from './resource';
import { describe, type Standing, type World } from './world';

export interface ProviderAccess {
  readonly account: string;
  readonly secret: string;
}

const TOKEN_LIFE_MS = 30 * 60_000;
const MOST_A_SECOND = 400;
const PAGE = 200;
/** Small ones, so many more of them. */
const CHANGES = 2_000;

/** The provider's HTTP API, version 1, and the controls of the simulation under /control. */
export function providerRoutes(world: World, faults: Faults, access: ProviderAccess): Routes {
  const { store, clock, catalogue } = world;
  const perSecond = { second: 0, count: 0 };

  const guarded =
    (handler: Handler): Handler =>
    async (call) => {
      const second = Math.floor(Date.now() / 1_000);
      if (perSecond.second !== second) Object.assign(perSecond, { second, count: 0 });
      if (++perSecond.count > MOST_A_SECOND)
        return {
          status: 429,
          headers: { 'retry-after': '1' },
          body: { code: 'too-many', message: 'slow down' },
        };
      const token = call.header('authorization')?.replace(/^Bearer /, '') ?? '';
      const known = await store.row('SELECT token FROM token WHERE token = ? AND expires_wall > ?', [
        token,
        Date.now(),
      ]);
      if (!known) throw new Refusal(401, 'token', 'the token is not known or has expired');
      await world.settle();
      return handler(call);
    };

  const idOf = (call: Call): string => call.params.id ?? '';
  const keyOf = (call: Call): string | undefined => call.header('idempotency-key');

  return {
    'GET /health': async () => ({ status: 200, body: { works: true, at: clock.now() } }),

    'POST /v1/token': async (call) => {
      if (text(call, 'account') !== access.account || text(call, 'secret') !== access.secret)
        throw new Refusal(401, 'sign-in', 'account or secret is wrong');
      const token = randomBytes(16).toString('hex');
      await store.write('DELETE FROM token WHERE expires_wall < ?', [Date.now()]);
      await store.write('INSERT INTO token (token, expires_wall) VALUES (?, ?)', [
        token,
        Date.now() + TOKEN_LIFE_MS,
      ]);
      return { status: 200, body: { token, expires_in: TOKEN_LIFE_MS / 1_000 } };
    },

    'GET /v1/sites': guarded(async () => ({ status: 200, body: { sites: await sites(world, faults) } })),
    'GET /v1/prices': guarded(async () => ({
      status: 200,
      body: prices(catalogue, faults),
    })),

    'POST /v1/resources': guarded(async (call) => {
      const wanted = {
        kind: text(call, 'kind'),
        site: text(call, 'site'),
        name: text(call, 'name'),
        attrs: record(call, 'attributes'),
        tags: tags(call),
      };
      return accepted(await world.make(wanted, keyOf(call)));
    }),
    'POST /v1/resources/:id/actions': guarded(async (call) =>
      accepted(
        await world.begin(
          idOf(call),
          text(call, 'action'),
          record(call, 'parameters'),
          keyOf(call),
          versionOf(call),
        ),
      ),
    ),
    'POST /v1/resources/:id/probe': guarded(async (call) => {
      const network = await world.present(idOf(call));
      const ask = typeof call.body.ask === 'string' ? call.body.ask : '';
      return { status: 200, body: await probe(world, network, text(call, 'to'), ask) };
    }),
    'DELETE /v1/resources/:id': guarded(async (call) =>
      accepted(await world.begin(idOf(call), 'remove', {}, keyOf(call), versionOf(call))),
    ),
    'GET /v1/resources/:id': guarded(async (call) => ({
      status: 200,
      body: describe(await world.find(idOf(call))),
    })),
    'PATCH /v1/resources/:id': guarded((call) => patch(world, call)),

    'GET /v1/resources': guarded(async (call) => {
      const filters = [...call.query].filter(([name]) => name !== 'after');
      if (filters.some(([name]) => !/^\w+$/.test(name)))
        throw new Refusal(400, 'bad-filter', 'filter by the name of a tag');
      const where = [
        "id > ? AND state <> 'gone'",
        ...filters.map(([name]) => `JSON_VALUE(tags, '$.${name}') = ?`),
      ];
      const found = await world.list(where.join(' AND '), [
        call.query.get('after') ?? '',
        ...filters.map(([, value]) => value),
      ]);
      return { status: 200, body: page(found.map(describe), (one) => String(one.id)) };
    }),

    'GET /v1/operations/:id': guarded(async (call) => ({
      status: 200,
      body: showOperation(await world.operation(idOf(call)), clock.now()),
    })),

    'GET /v1/feed': guarded(async (call) => {
      const newest = (await store.row<{ seq: number | null }>('SELECT MAX(seq) AS seq FROM feed'))?.seq ?? 0;
      if (call.query.get('after') === 'now')
        return { status: 200, body: { entries: [], next: null, place: String(newest) } };
      if (Number(call.query.get('after') ?? 0) > newest)
        throw new Refusal(410, 'gone', 'that place in the record is not known: read everything');
      const rows = await store.rows<{ seq: number; at: number; seen: string }>(
        `SELECT seq, at, seen FROM feed WHERE seq > ? ORDER BY seq LIMIT ${PAGE + 1}`,
        [Number(call.query.get('after') ?? 0)],
      );
      const entries = rows.map((row) => ({
        seq: row.seq,
        at: row.at,
        seen: JSON.parse(row.seen) as unknown,
      }));
      return { status: 200, body: page(entries, (one) => String(one.seq)) };
    }),

    // People come and go only as far as someone looks: their day is the same however often that is.
    'GET /v1/sessions': guarded(async (call) => {
      if (!call.query.get('after')) await movePeople(world);
      const host = call.query.get('host');
      const place = await newestChange(store);
      const rows = await store.rows<{ id: string }>(
        `SELECT id, host, account, state, since FROM session WHERE id > ? AND (? = '' OR host = ?)
         ORDER BY id LIMIT ${CHANGES + 1}`,
        [call.query.get('after') ?? '', host ?? '', host ?? ''],
      );
      // Whoever has read everything goes on from here with what changes; what changed while it was read comes again.
      return { status: 200, body: { ...page(rows, (one) => one.id, CHANGES), place: String(place) } };
    }),
    'GET /v1/session-changes': guarded(async (call) => {
      await movePeople(world);
      const after = Number(call.query.get('after'));
      if (!Number.isSafeInteger(after) || !(await isKnownPlace(store, after)))
        throw new Refusal(410, 'gone', 'that place in the record is not known: read all sessions');
      const rows = await store.rows<{ seq: number }>(
        `SELECT seq, id, host, account, state, since FROM session_change WHERE seq > ? ORDER BY seq LIMIT ${CHANGES + 1}`,
        [after],
      );
      return { status: 200, body: page(rows, (one) => String(one.seq), CHANGES) };
    }),
    'DELETE /v1/resources/:id/sessions': guarded(async (call) => {
      const host = await world.find(idOf(call));
      await endSessionsOn(store, host.id);
      return { status: 204 };
    }),
    'PUT /v1/resources/:id/messages/:message': guarded(async (call) => {
      const host = await world.present(idOf(call));
      await store.write('INSERT IGNORE INTO message (host, id, text, at) VALUES (?, ?, ?, ?)', [
        host.id,
        call.params.message ?? '',
        text(call, 'text').slice(0, 255),
        clock.now(),
      ]);
      return { status: 204 };
    }),

    ...sessionRoutes(world, guarded),
    ...beatRoutes(world, guarded),

    'GET /control/faults': async () => ({ status: 200, body: { faults: faults.all() } }),
    'PUT /control/faults': async (call) => {
      const wanted = Array.isArray(call.body.faults) ? (call.body.faults as Record<string, unknown>[]) : [];
      await faults.replace(
        wanted.map((one) => ({
          kind: String(one.kind) as FaultKind,
          target: String(one.target ?? ''),
          amount: Number(one.amount ?? 1),
        })),
      );
      return { status: 200, body: { faults: faults.all() } };
    },
    'PUT /control/clock': async (call) => {
      await clock.set(number(call, 'at'), number(call, 'speed'));
      await world.settle();
      return { status: 200, body: { at: clock.now() } };
    },
    'GET /control/next': async () => {
      const next = await store.row<{ ready_at: number | null }>(
        "SELECT MIN(ready_at) AS ready_at FROM operation WHERE state = 'working'",
      );
      return { status: 200, body: { ready_at: next?.ready_at ?? null } };
    },
    'GET /control/messages': async () => ({
      status: 200,
      body: { messages: await store.rows('SELECT host, id, text, at, session FROM message ORDER BY at, id') },
    }),
    'POST /control/standing': async (call) => {
      const all = Array.isArray(call.body.resources) ? (call.body.resources as Standing[]) : [];
      return { status: 200, body: { refs: all.length === 0 ? [] : await world.stand(all) } };
    },
    // Someone changes something at the provider itself, behind everyone's back.
    'POST /control/resources/:id': async (call) => {
      const resource = await world.present(idOf(call));
      const state = call.body.state === undefined ? resource.state : text(call, 'state');
      await world.change(resource.id, clock.now(), state, record(call, 'attributes'));
      return { status: 200, body: describe(await world.find(resource.id)) };
    },
  };
}

/** The version that a write is bound to (RFC 9110, If-Match); undefined: any. */
function versionOf(call: Call): number | undefined {
  const header = call.header('if-match');
  if (header === undefined) return undefined;
  const version = Number(/^"?(\d+)"?$/.exec(header)?.[1]);
  if (!Number.isInteger(version)) throw new Refusal(400, 'bad-version', 'If-Match names a version');
  return version;
}

const accepted = (operation: Operation): Answer => ({
  status: 202,
  headers: { location: `/v1/operations/${operation.id}` },
  body: showOperation(operation, operation.begun_at),
});

const showOperation = (operation: Operation, now: number): Record<string, unknown> => {
  const { id, resource, state, says, begun_at, ready_at } = operation;
  return {
    id,
    resource,
    state,
    says,
    output: outputOf(operation, now),
    begun_at,
    ended_at: state === 'working' ? null : ready_at,
  };
};

function page<Entry>(
  found: readonly Entry[],
  cursor: (entry: Entry) => string,
  most = PAGE,
): Record<string, unknown> {
  const entries = found.slice(0, most);
  const last = entries.at(-1);
  return { entries, next: found.length > most && last ? cursor(last) : null };
}

/** Small changes that take effect at once. What takes its time is an action. */
const SLOW = new Set([
  'size',
  'node',
  'image',
  'diskGiB',
  'fileSystemGiB',
  'agent',
  'joined',
  'address',
  'cidr',
]);

async function patch(world: World, call: Call): Promise<Answer> {
  const resource = await world.present(call.params.id ?? '', versionOf(call));
  const attrs = record(call, 'attributes');
  // A network is widened at once; what lies in it stays.
  const slow = Object.keys(attrs).find(
    (name) => SLOW.has(name) && !(resource.kind === 'network' && name === 'cidr'),
  );
  if (slow !== undefined) throw new Refusal(422, 'not-at-once', `${slow} is changed by an action`);
  const same = Object.entries(attrs).every(
    ([key, value]) => JSON.stringify(resource.attrs[key] ?? null) === JSON.stringify(value),
  );
  if (!same) await world.change(resource.id, world.clock.now(), resource.state, attrs);
  const given = tags(call);
  if (Object.keys(given).length > 0) await world.tag(resource.id, given);
  return { status: 200, body: describe(await world.find(resource.id)) };
}

/** Dearer by as many per cent as was said. */
function prices({ sizes, prices }: World['catalogue'], faults: Faults): Record<string, unknown> {
  const priced = (target: string, price: string): string => {
    const fault = faults.all().find((one) => one.kind === 'price' && one.target === target);
    return fault ? (Number(price) * (1 + fault.amount / 100)).toFixed(6) : price;
  };
  return {
    sizes: sizes.map((size) => ({ ...size, hourly: priced(size.key, size.hourly) })),
    currency: prices.currency,
    diskGiBMonth: priced('disk', prices.diskGiBMonth ?? '0'),
    shareGiBMonth: priced('share', prices.shareGiBMonth ?? '0'),
    imageGiBMonth: priced('image', prices.imageGiBMonth ?? '0'),
  };
}

async function sites(world: World, faults: Faults): Promise<unknown[]> {
  const hosts = await world.list("kind = 'host' AND state <> 'gone'", []);
  const { sizes } = world.catalogue;
  const dropped = (kind: FaultKind): ReadonlySet<string> =>
    new Set(faults.all().flatMap((fault) => (fault.kind === kind ? [fault.target] : [])));
  const [lost, noNodes, noSizes] = [dropped('lose-node'), dropped('drop-node'), dropped('drop-size')];
  const quotas = faults.all().filter((fault) => fault.kind === 'quota');
  const quota = quotas.find(({ target }) => target === '')?.amount;
  const others = quotas.filter(({ target }) => target !== '');
  const usedAt = (site: string, counts: (size: CatalogueSize) => boolean): number =>
    hosts
      .filter((host) => host.site === site)
      .flatMap((host) => sizes.filter((size) => size.key === host.attrs.size && counts(size)))
      .reduce((sum, { vcpu }) => sum + vcpu, 0);
  return world.catalogue.sites.map((site) => ({
    code: site.code,
    name: site.name,
    kind: site.kind,
    reserved_addresses: site.reservedAddresses,
    images: site.images.map(({ name, diskGiB }) => ({ name, disk_gib: diskGiB })),
    sizes: sizes
      .filter(({ key }) => !noSizes.has(key))
      .map(({ key, vcpu, memoryGiB, graphicsGiB, family }) => ({
        key,
        vcpu,
        memory_gib: memoryGiB,
        ...(graphicsGiB === undefined ? {} : { graphics_gib: graphicsGiB }),
        ...(family === undefined ? {} : { family }),
      })),
    nodes: site.nodes
      .filter(({ id }) => !noNodes.has(id))
      .map((node) => ({
        id: node.id,
        zone: node.zone,
        vcpu: node.cores * node.overcommit,
        memory_gib: node.memoryGiB,
        disk_gib: node.diskGiB,
        dedicated_to: node.dedicatedTo,
        state: lost.has(node.id) ? 'lost' : 'up',
      })),
    quota:
      site.vcpuQuota === null
        ? null
        : {
            vcpu: quota ?? site.vcpuQuota,
            vcpu_used: usedAt(site.code, () => true),
            families: Object.entries(site.familyQuotas ?? {}).map(([family, vcpu]) => ({
              family,
              vcpu,
              vcpu_used: usedAt(site.code, (size) => size.family === family),
            })),
            ...(others.length === 0
              ? {}
              : { others: others.map(({ target, amount }) => ({ of: target, most: amount, used: 0 })) }),
          },
  }));
}
