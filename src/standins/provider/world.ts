import { createHash, randomBytes } from 'node:crypto';
import type { SimulatedClock } from '../kit/clock';
import type { Store } from '../kit/database';
import { Refusal } from '../kit/server';
import { SITES, SIZES } from './catalogue';
import { chance } from './crowd';

/** Anything this provider keeps: networks, subnets, shares, hosts and pools. */
export interface Resource {
  readonly id: string;
  readonly kind: ResourceKind;
  readonly site: string;
  readonly name: string;
  readonly state: string;
  readonly customer: string | null;
  readonly attrs: Readonly<Record<string, unknown>>;
  readonly tags: Readonly<Record<string, string>>;
  readonly created_at: number;
  readonly gone_at: number | null;
}

export type ResourceKind = 'network' | 'subnet' | 'share' | 'pool' | 'host';

interface ResourceRow extends Omit<Resource, 'attrs' | 'tags'> {
  readonly attrs: string;
  readonly tags: string;
}

export interface Operation {
  readonly id: string;
  readonly resource: string;
  readonly action: Action;
  readonly argument: string;
  readonly state: 'working' | 'done' | 'failed';
  readonly says: string;
  readonly begun_at: number;
  readonly ready_at: number;
}

export type Action = 'make' | 'agent' | 'join' | 'power-on' | 'power-off' | 'remove';

/** How long each takes, in simulated seconds, give or take a sixth. */
const SECONDS: Readonly<Record<Action, Readonly<Record<ResourceKind, number>>>> = {
  make: { network: 50, subnet: 25, share: 110, pool: 15, host: 400 },
  agent: { network: 0, subnet: 0, share: 0, pool: 0, host: 140 },
  join: { network: 0, subnet: 0, share: 0, pool: 0, host: 80 },
  'power-on': { network: 0, subnet: 0, share: 0, pool: 0, host: 110 },
  'power-off': { network: 0, subnet: 0, share: 0, pool: 0, host: 50 },
  remove: { network: 50, subnet: 25, share: 80, pool: 15, host: 110 },
};

export const newId = (): string => randomBytes(6).toString('hex');

/** What is made for an idempotency key has its id from it: made again after a crash, it is the same. */
const idFor = (what: 'resource' | 'operation', key: string | undefined): string =>
  key === undefined ? newId() : createHash('sha256').update(`${what} ${key}`).digest('hex').slice(0, 12);

/** The provider's resources and the long operations on them. All that time does to them happens in `settle`. */
export class World {
  constructor(
    readonly store: Store,
    readonly clock: SimulatedClock,
  ) {}

  /** Ends every operation that is due, each at its own instant, the earliest first. */
  async settle(): Promise<void> {
    const due = await this.store.rows<Operation>(
      "SELECT * FROM operation WHERE state = 'working' AND ready_at <= ? ORDER BY ready_at, id",
      [this.clock.now()],
    );
    for (const operation of due) await this.end(operation);
  }

  async find(id: string): Promise<Resource> {
    const row = await this.store.row<ResourceRow>('SELECT * FROM resource WHERE id = ?', [id]);
    if (!row) throw new Refusal(404, 'not-found', `there is no ${id}`);
    return readResource(row);
  }

  /** A resource that is still there. @throws Refusal 404, or 410 when it is gone */
  async present(id: string): Promise<Resource> {
    const resource = await this.find(id);
    if (resource.state === 'gone') throw new Refusal(410, 'gone', `${resource.name} is gone`);
    return resource;
  }

  async list(where: string, values: readonly (string | number)[]): Promise<Resource[]> {
    const rows = await this.store.rows<ResourceRow>(
      `SELECT * FROM resource WHERE ${where} ORDER BY id`,
      values,
    );
    return rows.map(readResource);
  }

  /** Begins to make a resource. The same idempotency key gets the same operation, however often it comes. */
  async make(
    wanted: Pick<Resource, 'kind' | 'site' | 'name' | 'attrs' | 'tags'>,
    key: string | undefined,
  ): Promise<Operation> {
    const before = await this.operationFor(key);
    if (before) return before;
    if (wanted.kind === 'host') await this.checkRoom(wanted.site, wanted.attrs);
    const id = idFor('resource', key);
    const now = this.clock.now();
    await this.store.write(
      `INSERT IGNORE INTO resource (id, kind, site, name, state, customer, attrs, tags, created_at)
       VALUES (?, ?, ?, ?, 'building', ?, ?, ?, ?)`,
      [
        id,
        wanted.kind,
        wanted.site,
        wanted.name,
        wanted.tags.customer ?? null,
        JSON.stringify(wanted.attrs),
        JSON.stringify(wanted.tags),
        now,
      ],
    );
    await this.tell(id, now);
    return this.begin(id, 'make', '', key);
  }

  /** Begins an operation on a resource that is there. Removing what is gone already is done at once. */
  async begin(
    resource: string,
    action: Action,
    argument: string,
    key: string | undefined,
  ): Promise<Operation> {
    const before = await this.operationFor(key);
    if (before) return before;
    const target = await this.find(resource);
    if (target.state === 'gone' && action !== 'remove')
      throw new Refusal(410, 'gone', `${target.name} is gone`);
    const now = this.clock.now();
    const id = idFor('operation', key);
    const seconds = target.state === 'gone' ? 0 : SECONDS[action][target.kind] * (5 / 6 + chance(id) / 3);
    await this.store.write(
      `INSERT IGNORE INTO operation (id, idempotency_key, resource, action, argument, state, says, begun_at, ready_at)
       VALUES (?, ?, ?, ?, ?, 'working', '', ?, ?)`,
      [id, key ?? null, resource, action, argument, now, now + Math.round(seconds * 1_000)],
    );
    await this.settle();
    return this.operation(id);
  }

  async operation(id: string): Promise<Operation> {
    const found = await this.store.row<Operation>('SELECT * FROM operation WHERE id = ?', [id]);
    if (!found) throw new Refusal(404, 'not-found', `there is no operation ${id}`);
    return found;
  }

  /** Changes what is known of a resource, and tells the feed. */
  async change(
    id: string,
    at: number,
    state: string,
    attrs: Readonly<Record<string, unknown>>,
  ): Promise<void> {
    const gone = state === 'gone' ? at : null;
    await this.store.write(
      'UPDATE resource SET state = ?, attrs = JSON_MERGE_PATCH(attrs, ?), gone_at = ? WHERE id = ?',
      [state, JSON.stringify(attrs), gone, id],
    );
    await this.tell(id, at);
  }

  private async operationFor(key: string | undefined): Promise<Operation | undefined> {
    if (key === undefined) return undefined;
    return this.store.row<Operation>('SELECT * FROM operation WHERE idempotency_key = ?', [key]);
  }

  /** The effect first, then the end: cut off in between, it is done again, and is the same. */
  private async end(operation: Operation): Promise<void> {
    const target = await this.find(operation.resource);
    const fault = await this.store.row<{ id: number; amount: number }>(
      "SELECT id, amount FROM fault WHERE kind = 'fail-host' AND target = ? AND amount > 0",
      [target.name],
    );
    if (fault && target.kind === 'host' && operation.action !== 'remove') {
      await this.store.write('UPDATE fault SET amount = amount - 1 WHERE id = ?', [fault.id]);
      if (operation.action === 'make') await this.change(target.id, operation.ready_at, 'gone', {});
      await this.finish(
        operation,
        'failed',
        `${target.name}: the host did not answer after ${operation.action}`,
      );
      return;
    }
    const [state, attrs] = effect(operation, target);
    if (state === 'gone' || state === 'off')
      await this.store.write('DELETE FROM session WHERE host = ?', [target.id]);
    await this.change(target.id, operation.ready_at, state, attrs);
    await this.finish(operation, 'done', '');
  }

  private finish(operation: Operation, state: string, says: string): Promise<unknown> {
    return this.store.write('UPDATE operation SET state = ?, says = ? WHERE id = ?', [
      state,
      says,
      operation.id,
    ]);
  }

  private async tell(id: string, at: number): Promise<void> {
    const resource = await this.find(id);
    await this.store.write('INSERT INTO feed (at, resource, seen) VALUES (?, ?, ?)', [
      at,
      id,
      JSON.stringify(describe(resource)),
    ]);
  }

  private async checkRoom(siteCode: string, attrs: Readonly<Record<string, unknown>>): Promise<void> {
    const site = SITES.find((one) => one.code === siteCode);
    const size = SIZES.find((one) => one.key === attrs.size);
    if (!site || !size)
      throw new Refusal(422, 'no-such-size', `${String(attrs.size)} is not offered at ${siteCode}`);
    const hosts = await this.list("kind = 'host' AND site = ? AND state <> 'gone'", [siteCode]);
    const vcpuOf = (host: Resource): number => SIZES.find((one) => one.key === host.attrs.size)?.vcpu ?? 0;
    if (site.vcpuQuota !== null) {
      const used = hosts.reduce((sum, host) => sum + vcpuOf(host), 0);
      if (used + size.vcpu > site.vcpuQuota)
        throw new Refusal(409, 'quota', `quota of ${site.vcpuQuota} vCPU at ${site.name} is used up`);
      return;
    }
    const node = site.nodes.find((one) => one.id === attrs.node);
    if (!node) throw new Refusal(422, 'no-such-node', `${String(attrs.node)} is not a node of ${site.name}`);
    const there = hosts.filter((host) => host.attrs.node === node.id);
    const memory = there.reduce(
      (sum, host) => sum + (SIZES.find((one) => one.key === host.attrs.size)?.memoryGiB ?? 0),
      0,
    );
    if (memory + size.memoryGiB > node.memoryGiB)
      throw new Refusal(409, 'node-full', `${node.id} has no room for ${size.memoryGiB} GiB`);
  }
}

function effect(operation: Operation, target: Resource): [state: string, attrs: Record<string, unknown>] {
  switch (operation.action) {
    case 'make':
      return [target.kind === 'host' ? 'on' : 'ready', {}];
    case 'agent':
      return [target.state, { agent: 'ready' }];
    case 'join':
      return [target.state, { joined: operation.argument }];
    case 'power-on':
      return ['on', {}];
    case 'power-off':
      return ['off', {}];
    case 'remove':
      return ['gone', {}];
  }
}

/** A resource as this provider's API shows it. */
export function describe(resource: Resource): Record<string, unknown> {
  return {
    id: resource.id,
    kind: resource.kind,
    site: resource.site,
    name: resource.name,
    state: resource.state,
    tags: resource.tags,
    created_at: resource.created_at,
    gone_at: resource.gone_at,
    ...resource.attrs,
  };
}

const readResource = (row: ResourceRow): Resource => ({
  ...row,
  attrs: JSON.parse(row.attrs) as Record<string, unknown>,
  tags: JSON.parse(row.tags) as Record<string, string>,
});
