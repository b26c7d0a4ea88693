import { randomBytes } from 'node:crypto';
import { number, tags, text, texts } from '../kit/read';
import { Refusal, type Answer, type Call, type Handler, type Routes } from '../kit/server';
import { PRICES, SITES, SIZES } from './catalogue';
import type { FaultKind, Faults } from './faults';
import { movePeople } from './sessions';
import { describe, type Operation, type ResourceKind, type World } from './world';

export interface ProviderAccess {
  readonly account: string;
  readonly secret: string;
}

const TOKEN_LIFE_MS = 30 * 60_000;
const MOST_A_SECOND = 400;
const PAGE = 200;

/** The provider's HTTP API, version 1, and the controls of the simulation under /control. */
export function providerRoutes(world: World, faults: Faults, access: ProviderAccess): Routes {
  const { store, clock } = world;
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

  const making =
    (kind: ResourceKind, read: (call: Call) => Record<string, unknown>): Handler =>
    async (call) => {
      const site = SITES.find((one) => one.code === text(call, 'site'));
      if (!site) throw new Refusal(422, 'no-such-site', `${text(call, 'site')} is not a site`);
      const wanted = { kind, site: site.code, name: text(call, 'name'), attrs: read(call), tags: tags(call) };
      return accepted(await world.make(wanted, call.header('idempotency-key')));
    };

  const acting =
    (
      act: (call: Call) => Parameters<World['begin']>[1],
      argument: (call: Call) => string = () => '',
    ): Handler =>
    async (call) =>
      accepted(
        await world.begin(call.params.id ?? '', act(call), argument(call), call.header('idempotency-key')),
      );

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
    'GET /v1/prices': guarded(async () => ({ status: 200, body: { sizes: SIZES, ...PRICES } })),

    'POST /v1/networks': guarded(making('network', (call) => ({ cidr: text(call, 'cidr') }))),
    'POST /v1/subnets': guarded(
      making('subnet', (call) => ({ cidr: text(call, 'cidr'), network: text(call, 'network') })),
    ),
    'POST /v1/shares': guarded(making('share', (call) => ({ gib: number(call, 'gib') }))),
    'POST /v1/pools': guarded(
      making('pool', (call) => ({
        seats: number(call, 'seats'),
        arrival: text(call, 'arrival'),
        accounts: [],
        items: [],
        licences: 0,
      })),
    ),
    'POST /v1/hosts': guarded(
      making('host', (call) => ({
        size: text(call, 'size'),
        image: text(call, 'image'),
        subnet: text(call, 'subnet'),
        address: text(call, 'address'),
        disk_gib: number(call, 'disk_gib'),
        node: call.body.node ?? null,
        accepting: true,
        agent: 'missing',
        joined: null,
        pool: null,
      })),
    ),

    'POST /v1/resources/:id/agent': guarded(acting(() => 'agent')),
    'POST /v1/resources/:id/join': guarded(
      acting(
        () => 'join',
        (call) => text(call, 'realm'),
      ),
    ),
    'POST /v1/resources/:id/power': guarded(
      acting((call) => (text(call, 'power') === 'on' ? 'power-on' : 'power-off')),
    ),
    'DELETE /v1/resources/:id': guarded(acting(() => 'remove')),
    'GET /v1/resources/:id': guarded(async (call) => ({
      status: 200,
      body: describe(await world.find(call.params.id ?? '')),
    })),
    'PATCH /v1/resources/:id': guarded((call) => patch(world, call)),

    'GET /v1/resources': guarded(async (call) => {
      const after = call.query.get('after') ?? '';
      const customer = call.query.get('customer');
      const where =
        customer === null ? "id > ? AND state <> 'gone'" : "id > ? AND state <> 'gone' AND customer = ?";
      const found = await world.list(where, customer === null ? [after] : [after, customer]);
      return { status: 200, body: page(found.map(describe), (one) => String(one.id)) };
    }),

    'GET /v1/operations/:id': guarded(async (call) => ({
      status: 200,
      body: showOperation(await world.operation(call.params.id ?? '')),
    })),

    'GET /v1/feed': guarded(async (call) => {
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
      const rows = await store.rows<{ id: string }>(
        `SELECT id, pool, host, account, state, since FROM session WHERE id > ? ORDER BY id LIMIT ${PAGE + 1}`,
        [call.query.get('after') ?? ''],
      );
      return { status: 200, body: page(rows, (one) => one.id) };
    }),

    'DELETE /v1/pools/:id/sessions': guarded(async (call) => {
      const pool = await world.find(call.params.id ?? '');
      await store.write('DELETE FROM session WHERE pool = ?', [pool.id]);
      return { status: 204 };
    }),

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
  };
}

const accepted = (operation: Operation): Answer => ({
  status: 202,
  headers: { location: `/v1/operations/${operation.id}` },
  body: showOperation(operation),
});

const showOperation = ({
  id,
  resource,
  state,
  says,
  begun_at,
  ready_at,
}: Operation): Record<string, unknown> => ({
  id,
  resource,
  state,
  says,
  begun_at,
  ended_at: state === 'working' ? null : ready_at,
});

function page<Entry>(found: readonly Entry[], cursor: (entry: Entry) => string): Record<string, unknown> {
  const entries = found.slice(0, PAGE);
  const last = entries.at(-1);
  return { entries, next: found.length > PAGE && last ? cursor(last) : null };
}

/** Small changes that take effect at once: whether a host accepts, its pool, what a pool publishes. */
async function patch(world: World, call: Call): Promise<Answer> {
  const resource = await world.present(call.params.id ?? '');
  const attrs: Record<string, unknown> = {};
  if (typeof call.body.accepting === 'boolean') attrs.accepting = call.body.accepting;
  if ('pool' in call.body) attrs.pool = call.body.pool;
  if ('items' in call.body)
    Object.assign(attrs, { items: texts(call, 'items'), accounts: texts(call, 'accounts') });
  if ('licences' in call.body) attrs.licences = number(call, 'licences');
  const same = Object.entries(attrs).every(
    ([key, value]) => JSON.stringify(resource.attrs[key] ?? null) === JSON.stringify(value),
  );
  if (!same) await world.change(resource.id, world.clock.now(), resource.state, attrs);
  return { status: 200, body: describe(await world.find(resource.id)) };
}

async function sites(world: World, faults: Faults): Promise<unknown[]> {
  const hosts = await world.list("kind = 'host' AND state <> 'gone'", []);
  const lost = new Set(faults.all().flatMap((fault) => (fault.kind === 'lose-node' ? [fault.target] : [])));
  return SITES.map((site) => ({
    code: site.code,
    name: site.name,
    kind: site.kind,
    reserved_addresses: site.reservedAddresses,
    images: site.images,
    sizes: SIZES.map(({ key, vcpu, memoryGiB }) => ({ key, vcpu, memory_gib: memoryGiB })),
    nodes: site.nodes.map((node) => ({
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
            vcpu: site.vcpuQuota,
            vcpu_used: hosts
              .filter((host) => host.site === site.code)
              .reduce(
                (sum, host) => sum + (SIZES.find((size) => size.key === host.attrs.size)?.vcpu ?? 0),
                0,
              ),
          },
  }));
}
