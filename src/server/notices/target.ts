import type { NoticeTarget } from '../../contract';
import type { Scope, SealPlace } from '../access';
import type { App } from '../app';
import { sql, type Connection } from '../db';
import { Problem, unusable } from '../problem';
import { write, type WriteHouse } from '../write';

export interface Target {
  readonly address: string;
  readonly secret: string;
}

/** What concerns every customer is for who reaches them all. @throws Problem 403 */
export function refuseFewer(scope: Scope): void {
  if (scope.customers) throw new Problem(403, 'reach', 'This needs a lead who reaches every customer.');
}

const PLACE: SealPlace = ['notice target'];

export async function targetOf({ db, sealing }: Pick<App, 'db' | 'sealing'>): Promise<Target | undefined> {
  const row = await db.row<{ address: string; secret_sealed: Buffer }>(
    sql`SELECT address, secret_sealed FROM notice_target`,
  );
  return row && { address: row.address, secret: sealing.unseal(row.secret_sealed, PLACE) };
}

export async function readTarget(db: Connection, scope: Scope): Promise<NoticeTarget | null> {
  refuseFewer(scope);
  const row = await db.row<NoticeTarget>(
    sql`SELECT address, sent_at AS sentAt, trouble, (SELECT COUNT(*) FROM notice) AS waiting FROM notice_target`,
  );
  return row ?? null;
}

/** Whose an address is. What follows may hold a token, which is for nobody who reads the trail. */
const originOf = (address: string): string => (address === '' ? '' : new URL(address).origin);

/**
 * Says where it is told what needs a look; an empty address: nowhere, and what waits is told no more.
 * @throws Problem 403, 422 where no secret was ever given
 */
export const keepTarget = (house: WriteHouse, scope: Scope, { address, secret }: Target): Promise<void> =>
  write(house, scope, [], async (tx) => {
    refuseFewer(scope);
    const before = await tx.row<{ address: string }>(sql`SELECT address FROM notice_target`);
    const isMoved = before !== undefined && originOf(before.address) !== originOf(address);
    if (address === '') {
      await tx.write(sql`DELETE FROM notice_target`);
      await tx.write(sql`DELETE FROM notice`);
      await tx.write(sql`DELETE FROM notice_look`);
    } else if (secret === '') {
      if (!before) throw unusable('secret', 'is needed the first time');
      // What was given for one receiver is not used with another.
      if (isMoved)
        throw unusable(
          'secret',
          `belongs to ${originOf(before.address)}: enter the secret of the new address`,
        );
      await tx.write(sql`UPDATE notice_target SET address = ${address}, trouble = ''`);
    } else
      await tx.write(
        sql`REPLACE INTO notice_target (id, address, secret_sealed) VALUES (1, ${address}, ${house.sealing.seal(secret, PLACE)})`,
      );
    await tx.record({
      action: 'say where notices go',
      subject: address === '' ? 'nowhere' : originOf(address),
      before: { address: originOf(before?.address ?? '') },
      after: { address: originOf(address), ...(secret === '' ? {} : { secret: 'another' }) },
      topic: 'ground',
      id: 'notices',
    });
  });

/** Seals the secret with the key that seals now. @returns how many those were */
export const sealTargetAnew = (house: WriteHouse, scope: Scope): Promise<number> =>
  write(house, scope, [], async (tx) => {
    const row = await tx.row<{ secret_sealed: Buffer }>(
      sql`SELECT secret_sealed FROM notice_target FOR UPDATE`,
    );
    if (!row || house.sealing.isSealedNow(row.secret_sealed, PLACE)) return 0;
    const sealed = house.sealing.seal(house.sealing.unseal(row.secret_sealed, PLACE), PLACE);
    await tx.write(sql`UPDATE notice_target SET secret_sealed = ${sealed}`);
    return 1;
  });
