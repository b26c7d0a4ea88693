import { newId, insertMany, transaction, type Connection, type Value } from '../server/db';
import { SYSTEM } from '../server/access';
import type { App } from '../server/app';
import { createCustomer } from '../server/customers';
import { monthOf } from '../core/calendar';
import type { Intent } from '../core/intent';

export interface FleetSize {
  readonly customers: number;
  readonly hosts: number;
  /** Intervals that one month holds for each host. */
  readonly intervalsAHost: number;
}

/** The fleet set: 500 customers, 20,000 hosts, about 1.2 million intervals of state in the month. */
export const FLEET: FleetSize = { customers: 500, hosts: 20_000, intervalsAHost: 60 };

const SIZES = ['s2x8', 's4x16', 's8x32'] as const;

/**
 * Makes a fleet for load and benchmarks, straight into the database: customers with one environment each, their hosts as
 * wanted and as present, sessions, and a month of metering. Not through a provider: none is that large here.
 */
export async function makeFleet(app: App, size: FleetSize, say: (line: string) => void): Promise<void> {
  const now = app.clock.now();
  const hostsEach = Math.ceil(size.hosts / size.customers);
  const month = monthOf(now, 'UTC');
  for (let n = 0; n < size.customers; n++) {
    const count = Math.min(hostsEach, size.hosts - n * hostsEach);
    if (count <= 0) break;
    const code = `F${String(n).padStart(3, '0')}`;
    const { id } = await createCustomer(app, SYSTEM, {
      code,
      name: `Fleet customer ${n}`,
      state: 'active',
      plan: 'harbour',
      site: 'KQ',
      zone: 'UTC',
      currency: 'EUR',
      card: 'eur',
    });
    await transaction(app.db, (connection) =>
      fill(connection, { id, code }, n, count, size.intervalsAHost, month.from, now),
    );
    if ((n + 1) % 100 === 0) say(`  ${n + 1} customers`);
  }
}

async function fill(
  connection: Connection,
  { id: customerId, code }: { readonly id: string; readonly code: string },
  n: number,
  hosts: number,
  intervals: number,
  from: number,
  now: number,
): Promise<void> {
  const environmentId = newId();
  const size = SIZES[n % SIZES.length] ?? 's2x8';
  const intent: Intent = {
    name: 'fleet',
    site: 'KQ',
    template: { code: 'shared-office', revision: 1 },
    naming: '{customer}-{counter:4}',
    people: hosts * 3,
    pools: [],
    more: {},
  };
  await connection.write(
    `INSERT INTO environment (customer_id, id, name, site_code, template_code, revision, wanted, people, created_at)
     VALUES (?, ?, 'fleet', 'KQ', 'shared-office', 1, 'serving', ?, ?)`,
    [customerId, environmentId, hosts * 3, from],
  );
  await connection.write(
    'INSERT INTO intent (customer_id, environment_id, version, document, created_at) VALUES (?, ?, 1, ?, ?)',
    [customerId, environmentId, JSON.stringify(intent), from],
  );
  const made = Array.from({ length: hosts }, (_, h) => ({
    id: newId(),
    ref: `${String(n).padStart(5, '0')}${String(h).padStart(7, '0')}`,
    name: `${code}-${String(h).padStart(4, '0')}`,
    key: `host:desks:${h + 1}`,
  }));
  const attributes = JSON.stringify({
    site: 'KQ',
    pool: 'pool:desks',
    size,
    image: 'Ostrel 12 multi-user',
    diskGiB: 128,
    address: '10.0.0.4',
    node: null,
    power: 'on',
    accepting: true,
    realm: 'fleet.example',
  });
  const columns = [
    'customer_id',
    'id',
    'environment_id',
    'holder',
    'site_code',
    'kind',
    'resource_key',
    'name',
    'attributes',
    'needs',
    'wanted',
    'provider_code',
    'ref',
    'created_at',
  ];
  await insertMany(connection, 'resource', columns, [
    [
      customerId,
      newId(),
      environmentId,
      environmentId,
      'KQ',
      'pool',
      'pool:desks',
      'fleet desks',
      JSON.stringify({ site: 'KQ', seats: 8, arrival: 'spread' }),
      '[]',
      true,
      'coast',
      `${code}-pool`,
      from,
    ],
    ...made.map((host): Value[] => [
      customerId,
      host.id,
      environmentId,
      environmentId,
      'KQ',
      'host',
      host.key,
      host.name,
      attributes,
      '[]',
      true,
      'coast',
      host.ref,
      from,
    ]),
  ]);
  await insertMany(
    connection,
    'present_resource',
    [
      'provider_code',
      'ref',
      'customer_id',
      'environment_id',
      'resource_id',
      'kind',
      'name',
      'site_code',
      'present_condition',
      'attributes',
      'provider_version',
      'made_at',
      'changed_at',
    ],
    made.map((host) => [
      'coast',
      host.ref,
      customerId,
      environmentId,
      host.id,
      'host',
      host.name,
      'KQ',
      'well',
      attributes,
      1,
      from,
      from,
    ]),
  );
  await insertMany(
    connection,
    'session',
    ['customer_id', 'id', 'provider_code', 'host_ref', 'account', 'state', 'since'],
    made.flatMap((host, h) =>
      Array.from({ length: 3 }, (_, p): Value[] => [
        customerId,
        `${host.ref}${p}s`,
        'coast',
        host.ref,
        `person.${h}.${p}`,
        'active',
        now,
      ]),
    ),
  );
  await insertMany(
    connection,
    'meter_interval',
    [
      'customer_id',
      'environment_id',
      'pool',
      'provider_code',
      'ref',
      'meter',
      'state',
      'size',
      'quantity',
      'from_at',
      'to_at',
    ],
    made.flatMap((host) =>
      monthOfStates(intervals, from, now).map((state) => [
        customerId,
        environmentId,
        'desks',
        'coast',
        host.ref,
        ...state(size),
      ]),
    ),
  );
}

/** On by day, off by night, back to back; and the disk all the while. The last one goes on. */
function monthOfStates(intervals: number, from: number, now: number): ((size: string) => Value[])[] {
  const step = Math.floor((now - from) / (intervals - 1) / 1_000) * 1_000;
  const power = Array.from({ length: intervals - 1 }, (_, i) => (size: string): Value[] => {
    const last = i === intervals - 2;
    return [
      'host',
      i % 2 === 0 ? 'on' : 'off',
      size,
      1,
      from + i * step,
      last ? null : from + (i + 1) * step,
    ];
  });
  return [...power, (): Value[] => ['disk', 'on', null, 128, from, null]];
}
