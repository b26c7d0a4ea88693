import { PROFILE_KEYS, type ProfileNeed } from '../../core/sizing';
import type { CustomerScope } from '../access';
import { insertMany, type Connection } from '../db';
import { refuseGone } from '../customers';
import { write, type WriteHouse } from '../write';

/** What kinds of work take at a customer, where that is otherwise than usual. */
export async function readNeeds(db: Connection, { customer }: CustomerScope): Promise<ProfileNeed[]> {
  const rows = await db.rows<{
    profile: string;
    people_per_vcpu: string;
    memory_gib: string;
    disk_operations: string;
    graphics_gib: string;
    source: string;
  }>(
    'SELECT profile, people_per_vcpu, memory_gib, disk_operations, graphics_gib, source FROM profile_need WHERE customer_id = ? ORDER BY profile',
    [customer.id],
  );
  return rows.flatMap((row) => {
    const key = PROFILE_KEYS.find((one) => one === row.profile);
    return key === undefined
      ? []
      : [
          {
            key,
            peoplePerVcpu: Number(row.people_per_vcpu),
            memoryGiB: Number(row.memory_gib),
            diskOperations: Number(row.disk_operations),
            graphicsGiB: Number(row.graphics_gib),
            source: row.source,
          },
        ];
  });
}

/** Keeps what kinds of work take at a customer; what is left out is as usual again. @throws Problem 409 when they have left */
export const keepNeeds = (
  house: WriteHouse,
  scope: CustomerScope,
  needs: readonly ProfileNeed[],
): Promise<void> =>
  write(house, scope, [{ table: 'customer', key: { id: scope.customer.id } }], async (tx) => {
    await refuseGone(tx, scope);
    const before = await readNeeds(tx, scope);
    await tx.write('DELETE FROM profile_need WHERE customer_id = ?', [scope.customer.id]);
    await insertMany(
      tx,
      'profile_need',
      [
        'customer_id',
        'profile',
        'people_per_vcpu',
        'memory_gib',
        'disk_operations',
        'graphics_gib',
        'source',
      ],
      needs.map((one) => [
        scope.customer.id,
        one.key,
        one.peoplePerVcpu,
        one.memoryGiB,
        one.diskOperations,
        one.graphicsGiB,
        one.source,
      ]),
    );
    await tx.record({
      action: 'set work profiles',
      subject: `Work of ${scope.customer.code}`,
      before: { needs: before },
      after: { needs },
      topic: 'summary',
      id: scope.customer.code,
    });
  });

/** Deletes what was said of a customer's work, and what was measured of it. */
export async function forgetSizing(tx: Connection, { customer }: CustomerScope): Promise<void> {
  for (const table of ['profile_need', 'session_peak'])
    await tx.write(`DELETE FROM ${table} WHERE customer_id = ?`, [customer.id]);
}
