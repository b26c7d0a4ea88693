import { createHash, randomBytes } from 'node:crypto';
import type { SimulatedClock } from '../kit/clock';
import type { Store } from '../kit/database';
import { Refusal } from '../kit/server';
import type { Catalogue } from './catalogue';
import { recover } from './ailment';
import { keepCertificate, onlyItsOwn, withCertificate } from './gateways';
import { chance } from './crowd';
import { applied, applySeconds, capturedOf, listOf, programsOn, writesOf } from './images';
import type { Attributes, Operation, Resource } from './resource';
import { checkRoom, imageFor } from './room';
import { endSessionsOn } from './session-record';

interface ResourceRow extends Omit<Resource, 'attrs' | 'tags'> {
  readonly attrs: string;
  readonly tags: string;
}

/** A resource that stands already. */
export type Standing = Pick<Resource, 'kind' | 'site' | 'name' | 'state' | 'attrs' | 'tags' | 'created_at'>;

/** How long making and removing take, in simulated seconds, give or take a sixth. */
const MAKING: Readonly<Record<string, number>> = {
  network: 4,
  subnet: 3,
  services: 280,
  peering: 2,
  gateway: 25,
  share: 8,
  pool: 2,
  host: 520,
  publication: 6,
  'personal-disk': 18,
  builder: 280,
  image: 290,
};
const REMOVING: Readonly<Record<string, number>> = {
  network: 50,
  subnet: 25,
  share: 80,
  pool: 15,
  host: 110,
  publication: 25,
  builder: 90,
  image: 15,
};
const USUAL = 20;

/** A resource, and what is at work on it. */
const RESOURCE = `SELECT r.*, (SELECT o.id FROM operation o WHERE o.resource = r.id AND o.state = 'working'
  ORDER BY o.begun_at, o.id LIMIT 1) AS busy_with FROM resource r`;

/** What can be done to something, and how long it takes. */
const ACTIONS: Readonly<Record<string, number>> = {
  'install-agent': 170,
  join: 80,
  'power-on': 110,
  'power-off': 50,
  resize: 220,
  'grow-disk': 55,
  'grow-file-system': 25,
  'bring-up': 500,
  restart: 70,
  'take-picture': 50,
  'drop-picture': 5,
  'go-back': 80,
  'install-certificate': 12,
  'drop-certificates': 3,
  apply: 60,
  'measure-writes': 20,
  generalise: 75,
  // Of its own accord: an order to stop is taken at once, and followed by and by.
  'come-to-rest': 45,
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
    readonly catalogue: Catalogue,
    /** Where its gateways are reached, `host:port`. */
    readonly gatewaysListen = '',
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
    const row = await this.store.row<ResourceRow>(`${RESOURCE} WHERE r.id = ?`, [id]);
    if (!row) throw new Refusal(404, 'not-found', `there is no ${id}`);
    return readResource(row);
  }

  /**
   * A resource that is still there. @throws Refusal 404, 410 when it is gone, 412 when it is not the version that a write
   * names
   */
  async present(id: string, version?: number): Promise<Resource> {
    const resource = await this.find(id);
    if (resource.state === 'gone') throw new Refusal(410, 'gone', `${resource.name} is gone`);
    if (version !== undefined && version !== resource.version)
      throw new Refusal(412, 'changed', `${resource.name} has changed since version ${version}`);
    return resource;
  }

  async list(
    where: string,
    values: readonly (string | number)[],
    most = Number.MAX_SAFE_INTEGER,
  ): Promise<Resource[]> {
    const rows = await this.store.rows<ResourceRow>(
      `${RESOURCE} WHERE ${where} ORDER BY r.id LIMIT ${most}`,
      values,
    );
    return rows.map(readResource);
  }

  /** The hosts that take room at a site, but for one. */
  private hostsAt(site: string, but: string): Promise<Resource[]> {
    return this.list("kind IN ('host', 'builder') AND site = ? AND state <> 'gone' AND id <> ?", [site, but]);
  }

  /** Begins to make a resource. The same idempotency key gets the same operation, however often it comes. */
  async make(
    wanted: Pick<Resource, 'kind' | 'site' | 'name' | 'attrs' | 'tags'>,
    key: string | undefined,
  ): Promise<Operation> {
    const before = await this.operationFor(key);
    if (before) return before;
    if (!this.catalogue.sites.some((site) => site.code === wanted.site))
      throw new Refusal(422, 'no-such-site', `${wanted.site} is not a site`);
    const id = this.refFor(wanted.kind, idFor('resource', key));
    // Cut off here before, it stands already and takes its own room.
    const origin = await this.originOf(wanted, id);
    const image = await this.imageOf(wanted);
    if (wanted.kind === 'host' || wanted.kind === 'builder')
      checkRoom(
        this.catalogue,
        (await this.hostsAt(wanted.site, id)).filter((one) => one.id !== origin?.id),
        wanted.site,
        wanted.attrs,
      );
    const now = this.clock.now();
    await this.store.write(
      `INSERT IGNORE INTO resource (id, kind, site, name, state, attrs, tags, created_at)
       VALUES (?, ?, ?, ?, 'building', ?, ?, ?)`,
      [
        id,
        wanted.kind,
        wanted.site,
        wanted.name,
        JSON.stringify({
          ...this.startOf(wanted.kind, wanted.attrs),
          ...wanted.attrs,
          ...(origin ? { agent: origin.attrs.agent, lacks: origin.attrs.lacks ?? [] } : {}),
          ...(wanted.kind === 'builder' ? { programs: programsOn(image) } : {}),
          ...(await this.capturedFor(wanted)),
        }),
        JSON.stringify(wanted.tags),
        now,
      ],
    );
    await this.tell(id, now);
    return this.begin(id, 'make', {}, key);
  }

  /** What was captured and a host or a machine is made of. @throws Refusal 422 when it is not at the site */
  private async imageOf({
    kind,
    site,
    attrs,
  }: Pick<Resource, 'kind' | 'site' | 'attrs'>): Promise<Resource | undefined> {
    if (kind !== 'host' && kind !== 'builder') return undefined;
    const captured = await this.list("kind = 'image' AND site = ? AND state = 'ready'", [site]);
    return imageFor(this.catalogue, captured, site, attrs);
  }

  /** What an image holds that is captured from a machine: only of one that is off, and knows no more who it was. */
  private async capturedFor({ kind, attrs }: Pick<Resource, 'kind' | 'attrs'>): Promise<Attributes> {
    if (kind !== 'image' || typeof attrs.machine !== 'string') return {};
    const machine = await this.present(attrs.machine);
    if (machine.state !== 'off')
      throw new Refusal(409, 'not-off', `${machine.name} is ${machine.state}, not off`);
    if (machine.attrs.generalised !== true)
      throw new Refusal(409, 'not-generalised', `${machine.name} still knows who it was`);
    return capturedOf(machine);
  }

  /** What a host is made of, where it is of another that stands. @throws Refusal 410, 422 when that cannot be had */
  private async originOf(
    { kind, site, attrs }: Pick<Resource, 'kind' | 'site' | 'attrs'>,
    id: string,
  ): Promise<Resource | undefined> {
    if (kind !== 'host' || typeof attrs.from !== 'string') return undefined;
    const origin = await this.present(attrs.from);
    if (origin.kind !== 'host' || origin.site !== site)
      throw new Refusal(422, 'no-origin', `${origin.name} is no host of ${site}`);
    const [other] = await this.list("id <> ? AND state = 'building' AND JSON_VALUE(attrs, '$.from') = ?", [
      id,
      origin.id,
    ]);
    if (other) throw new Refusal(409, 'taken', `${origin.name} is becoming ${other.name} already`);
    return origin;
  }

  /** Begins an operation on a resource that is there. Removing what is gone already is done at once. */
  async begin(
    resource: string,
    action: string,
    parameters: Attributes,
    key: string | undefined,
    version?: number,
  ): Promise<Operation> {
    const before = await this.operationFor(key);
    if (before) return before;
    const found = await this.find(resource);
    const target =
      found.state === 'gone' && action === 'remove' ? found : await this.present(resource, version);
    if (action !== 'make' && action !== 'remove' && ACTIONS[action] === undefined)
      throw new Refusal(422, 'no-such-action', `${action} cannot be done`);
    if (action === 'resize')
      checkRoom(this.catalogue, await this.hostsAt(target.site, target.id), target.site, {
        ...target.attrs,
        ...parameters,
      });
    // Its key is kept apart: what is asked of an operation can be read.
    const kept =
      action === 'install-certificate'
        ? { fingerprint: await keepCertificate(this.store, parameters) }
        : parameters;
    const now = this.clock.now();
    const id = idFor('operation', key);
    const seconds = target.state === 'gone' ? 0 : secondsOf(action, target, kept) * (5 / 6 + chance(id) / 3);
    await this.store.write(
      `INSERT IGNORE INTO operation (id, idempotency_key, resource, action, parameters, state, says, begun_at, ready_at)
       VALUES (?, ?, ?, ?, ?, 'working', '', ?, ?)`,
      [id, key ?? null, resource, action, JSON.stringify(kept), now, now + Math.round(seconds * 1_000)],
    );
    // What an operation is at work on has changed: who read it before does not know.
    if (action !== 'make' && target.state !== 'gone') await this.nextVersion(resource);
    await this.settle();
    return this.operation(id);
  }

  async operation(id: string): Promise<Operation> {
    const found = await this.store.row<Operation>('SELECT * FROM operation WHERE id = ?', [id]);
    if (!found) throw new Refusal(404, 'not-found', `there is no operation ${id}`);
    return found;
  }

  /** Changes what is known of a resource, and tells the feed. */
  async change(id: string, at: number, state: string, attrs: Attributes): Promise<void> {
    const gone = state === 'gone' ? at : null;
    const before = await this.find(id);
    await this.store.write(
      'UPDATE resource SET state = ?, attrs = ?, gone_at = ?, version = version + 1 WHERE id = ?',
      [state, JSON.stringify({ ...before.attrs, ...attrs }), gone, id],
    );
    await this.tell(id, at);
  }

  /** Has resources stand as they are said to be, without their having been made: what was there before anyone looked. */
  async stand(all: readonly Standing[]): Promise<string[]> {
    const now = this.clock.now();
    const refs = all.map((one) => this.refFor(one.kind, newId()));
    const told = all.map((one, n) =>
      describe({ ...one, id: refs[n] ?? '', version: 1, customer: null, gone_at: null, busy_with: null }),
    );
    const places = (each: string): string => all.map(() => each).join(', ');
    await this.store.write(
      `INSERT INTO resource (id, kind, site, name, state, attrs, tags, created_at) VALUES ${places('(?, ?, ?, ?, ?, ?, ?, ?)')}`,
      all.flatMap((one, n) => [
        refs[n] ?? '',
        one.kind,
        one.site,
        one.name,
        one.state,
        JSON.stringify(one.attrs),
        JSON.stringify(one.tags),
        one.created_at,
      ]),
    );
    await this.store.write(
      `INSERT INTO feed (at, resource, seen) VALUES ${places('(?, ?, ?)')}`,
      told.flatMap((seen, n) => [now, refs[n] ?? '', JSON.stringify(seen)]),
    );
    return refs;
  }

  /** Changes a resource's tags; those that are not named stay. */
  async tag(id: string, tags: Readonly<Record<string, string>>): Promise<void> {
    const before = await this.find(id);
    await this.store.write('UPDATE resource SET tags = ?, version = version + 1 WHERE id = ?', [
      JSON.stringify({ ...before.tags, ...tags }),
      id,
    ]);
    await this.tell(id, this.clock.now());
  }

  /** What something has at its beginning beyond what was asked for. */
  private startOf(kind: string, attrs: Attributes): Attributes {
    switch (kind) {
      case 'host':
        return { accepting: true, agent: 'missing', joined: null, pool: null, fileSystemGiB: attrs.diskGiB };
      case 'gateway':
        return { certificate: '', certificates: [], listens: this.gatewaysListen };
      default:
        return {};
    }
  }

  /** After a start they are reached elsewhere. */
  async moveGateways(): Promise<void> {
    for (const { id, state } of await this.list("kind = 'gateway' AND state <> 'gone'", []))
      await this.change(id, this.clock.now(), state, { listens: this.gatewaysListen });
  }

  private nextVersion(id: string): Promise<unknown> {
    return this.store.write('UPDATE resource SET version = version + 1 WHERE id = ?', [id]);
  }

  private refFor(kind: string, id: string): string {
    return this.catalogue.refs === 'hex' ? id : `region/${kind}/${id}`;
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
    if (operation.action === 'apply' && target.state !== 'gone') {
      const { failed, attrs } = applied(operation, target);
      await this.change(target.id, operation.ready_at, target.state, attrs);
      await this.finish(operation, failed === undefined ? 'done' : 'failed', failed ?? '');
      return;
    }
    if (target.state !== 'gone') {
      const stuck = await this.store.row("SELECT id FROM fault WHERE kind = 'stuck-gateway' AND target = ?", [
        target.name,
      ]);
      const [state, attrs] = effect(operation, target, !stuck);
      if (state === 'gone' || state === 'off' || STARTS_ANEW.has(operation.action))
        await endSessionsOn(this.store, target.id);
      await this.change(target.id, operation.ready_at, state, attrs);
      if (operation.action === 'grow-file-system' || STARTS_ANEW.has(operation.action))
        await recover(this.store, target.id, operation.action === 'grow-file-system');
      if (state === 'stopping') await this.comeToRest(target.id, operation);
      if (operation.action === 'make' && target.kind === 'host' && typeof target.attrs.from === 'string')
        await this.endOrigin(target.attrs.from, operation.ready_at);
    }
    await this.finish(operation, 'done', '');
  }

  /** A machine that was told to stop is off by and by, without anyone's asking. */
  private comeToRest(machine: string, { id, ready_at }: Operation): Promise<unknown> {
    return this.store.write(
      `INSERT IGNORE INTO operation (id, resource, action, parameters, state, says, begun_at, ready_at)
       VALUES (?, ?, 'come-to-rest', '{}', 'working', '', ?, ?)`,
      [
        idFor('operation', `rest ${id}`),
        machine,
        ready_at,
        ready_at + (ACTIONS['come-to-rest'] ?? USUAL) * 1_000,
      ],
    );
  }

  /** What a host was made of is it now, and stands no more by itself. */
  private async endOrigin(ref: string, at: number): Promise<void> {
    const origin = await this.find(ref);
    if (origin.state !== 'gone') await this.change(ref, at, 'gone', {});
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
}

/** Whatever ran is over, and what ailed a machine that a start mends is well. */
const STARTS_ANEW = new Set(['resize', 'restart', 'power-on', 'go-back']);

/** Between sites. */
const COPIED_GIB_A_SECOND = 0.13;

/** What was ready before is only moved: everything is on it. */
const MOVED = 8;

const secondsOf = (action: string, { kind, attrs }: Resource, parameters: Attributes): number => {
  if (action === 'apply') return applySeconds(parameters);
  if (kind === 'image' && action === 'make' && typeof attrs.copyOf === 'string')
    return Number(attrs.gib ?? 0) / COPIED_GIB_A_SECOND;
  if (kind === 'host' && typeof attrs.from === 'string' && (action === 'make' || action === 'join'))
    return MOVED;
  if (action === 'make') return MAKING[kind] ?? USUAL;
  if (action === 'remove') return REMOVING[kind] ?? USUAL;
  return ACTIONS[action] ?? USUAL;
};

function effect(operation: Operation, target: Resource, works: boolean): [state: string, attrs: Attributes] {
  const parameters = JSON.parse(operation.parameters) as Attributes;
  switch (operation.action) {
    case 'make':
      return [target.kind === 'host' || target.kind === 'builder' ? 'on' : 'ready', {}];
    case 'remove':
      return ['gone', {}];
    case 'install-agent':
      return [target.state, { agent: 'ready' }];
    case 'join':
      return [target.state, { joined: parameters.realm }];
    case 'power-on':
      return ['on', {}];
    case 'restart':
      return [target.state, {}];
    case 'take-picture':
      return [target.state, { picture: true, pictured: JSON.stringify(pictureOf(target)) }];
    case 'drop-picture':
      return [target.state, { picture: false, pictured: '' }];
    case 'go-back':
      return [target.state, pictured(target)];
    case 'power-off':
      return [target.kind === 'builder' ? 'stopping' : 'off', {}];
    case 'come-to-rest':
      return [target.state === 'stopping' ? 'off' : target.state, {}];
    case 'measure-writes':
      return [target.state, { writesMiB: writesOf(target, operation.ready_at) }];
    case 'generalise':
      return [target.state, { generalised: true }];
    case 'resize':
      return [target.state, { size: parameters.size, node: parameters.node ?? target.attrs.node }];
    case 'grow-disk':
      return [target.state, { diskGiB: Math.max(Number(target.attrs.diskGiB), Number(parameters.diskGiB)) }];
    case 'bring-up':
      // What has to be bought is not put on it by itself.
      return [target.state, { lacks: listOf(target.attrs.lacks).filter((one) => one === 'office set') }];
    case 'install-certificate':
      return [target.state, withCertificate(target, String(parameters.fingerprint), works)];
    case 'drop-certificates':
      return [target.state, onlyItsOwn(target)];
    case 'grow-file-system':
      return [target.state, { fileSystemGiB: target.attrs.diskGiB }];
    default:
      return [target.state, {}];
  }
}

/** What of a machine is on its disk. */
const pictureOf = ({ attrs: { agent, joined, lacks, programs, applied } }: Resource): Attributes =>
  Object.fromEntries(
    Object.entries({ agent, joined, lacks, programs, applied }).filter(([, value]) => value !== undefined),
  );

/** What its picture shows; nothing, where none is kept. */
const pictured = ({ attrs }: Resource): Attributes =>
  typeof attrs.pictured === 'string' && attrs.pictured !== ''
    ? (JSON.parse(attrs.pictured) as Attributes)
    : {};

/** A resource as this provider's API shows it. */
export function describe(resource: Resource): Record<string, unknown> {
  return {
    id: resource.id,
    kind: resource.kind,
    site: resource.site,
    name: resource.name,
    state: resource.state,
    version: resource.version,
    tags: resource.tags,
    created_at: resource.created_at,
    gone_at: resource.gone_at,
    attributes: resource.attrs,
    busy_with: resource.busy_with,
  };
}

const readResource = (row: ResourceRow): Resource => ({
  ...row,
  attrs: JSON.parse(row.attrs) as Attributes,
  tags: JSON.parse(row.tags) as Record<string, string>,
});
