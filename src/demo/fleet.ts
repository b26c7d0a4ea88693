import { newId, insertMany, transaction, type Connection, type Value } from '../server/db';
import type { App } from '../server/app';
import { createCustomer } from '../server/customers';
import { monthOf } from '../core/calendar';

export interface FleetSize {
  readonly customers: number;
  readonly hosts: number;
  /** Intervals that one month holds for each host. */
  readonly intervalsAHost: number;
}

/** The fleet set: 500 customers, 20,000 hosts, about 1.2 million intervals of state in the month. */
export const FLEET: FleetSize = { customers: 500, hosts: 20_000, intervalsAHost: 60 };

const SIZES = ['s2x8', 's4x16', 's8x32'] as const;
const SYSTEM = { id: 'system', name: 'Laager', role: 'system' } as const;

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
    await transaction(app.db, (connection) =>
      makeCustomer(connection, n, count, size.intervalsAHost, month.from, now),
    );
    if ((n + 1) % 100 === 0) say(`  ${n + 1} customers`);
  }
}

async function makeCustomer(
  connection: Connection,
  n: number,
  hosts: number,
  intervals: number,
  from: number,
  now: number,
): Promise<void> {
  const code = `F${String(n).padStart(3, '0')}`;
  const customerId = await createCustomer(
    connection,
    SYSTEM,
    {
      code,
      name: `Fleet customer ${n}`,
      state: 'active',
      plan: 'harbour',
      site: 'KQ',
      zone: 'UTC',
      currency: 'EUR',
      card: 'eur',
      mark: n,
    },
    now,
  );
  const [networkId, environmentId, poolId] = [newId(), newId(), newId()];
  const size = SIZES[n % SIZES.length] ?? 's2x8';
  await connection.write('INSERT INTO network (customer_id, id, site_code, cidr) VALUES (?, ?, ?, ?)', [
    customerId,
    networkId,
    'KQ',
    '10.0.0.0/20',
  ]);
  await connection.write(
    `INSERT INTO environment (customer_id, id, name, site_code, template_code, revision, wanted, people, created_at)
     VALUES (?, ?, 'fleet', 'KQ', 'shared-office', 1, 'serving', ?, ?)`,
    [customerId, environmentId, hosts * 3, from],
  );
  await connection.write(
    `INSERT INTO pool (customer_id, id, environment_id, network_id, name, image, size, seats, arrival, disk_gib,
       subnet_cidr, share_gib, items) VALUES (?, ?, ?, ?, 'desks', 'Ostrel 12 multi-user', ?, 8, 'spread', 128,
       '10.0.0.0/24', 100, '[]')`,
    [customerId, poolId, environmentId, networkId, size],
  );
  const made = Array.from({ length: hosts }, (_, h) => ({
    id: newId(),
    ref: `${String(n).padStart(5, '0')}${String(h).padStart(7, '0')}`,
    name: `${code}-${String(h).padStart(4, '0')}`,
  }));
  await insertMany(
    connection,
    'host',
    ['customer_id', 'id', 'pool_id', 'name', 'address', 'node', 'wanted_power', 'wanted_accepting'],
    made.map((host) => [customerId, host.id, poolId, host.name, '10.0.0.4', null, 'on', true]),
  );
  await insertMany(
    connection,
    'link',
    ['customer_id', 'id', 'environment_id', 'kind', 'wanted_id', 'ref', 'made_at'],
    made.map((host) => [customerId, newId(), environmentId, 'host', host.id, host.ref, from]),
  );
  await insertMany(
    connection,
    'observed',
    [
      'ref',
      'customer_id',
      'environment_id',
      'kind',
      'name',
      'site_code',
      'state',
      'size',
      'disk_gib',
      'accepting',
      'made_at',
      'changed_at',
    ],
    made.map((host) => [
      host.ref,
      customerId,
      environmentId,
      'host',
      host.name,
      'KQ',
      'on',
      size,
      128,
      true,
      from,
      from,
    ]),
  );
  await insertMany(
    connection,
    'session_seen',
    ['customer_id', 'id', 'host_ref', 'account', 'state', 'since'],
    made.flatMap((host, h) =>
      Array.from({ length: 3 }, (_, p): Value[] => [
        customerId,
        `${host.ref.slice(2)}${p}s`,
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
      'pool_id',
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
        poolId,
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
