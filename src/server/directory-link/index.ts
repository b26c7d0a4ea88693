import type { DirectoryLink, LinkTry, SentLink } from '../../contract';
import { comparePeople, countDirectory, peopleInScope, type DirectoryRead } from '../../core/people';
import { mostOf } from '../../core/plans';
import type { CustomerScope, Scope } from '../access';
import type { App } from '../app';
import { refuseGone } from '../customers';
import { sql, type Connection } from '../db';
import { CredentialsRefused, OutsideError } from '../outside';
import { knownPeople } from '../people';
import { planFactsOf } from '../plans';
import { conflict, unusable } from '../problem';
import { write, type WriteHouse } from '../write';
import { readWhole } from './reading';
import { directoryLink, linkPlace, MOST_TOLD, readerFor, stored } from './stored';

export { followDirectories } from './follow';
export { takePush, whoPushes } from './push';
export { directoryLink, keptLink } from './stored';

const figure = (n: number): string => n.toLocaleString('en');

const NOBODY = {
  units: [],
  groups: [],
  people: 0,
  added: 0,
  changed: 0,
  returned: 0,
  left: 0,
  leaving: [],
  disabled: 0,
  outside: 0,
  unfit: 0,
  bad: [],
  fits: true,
};

/** Reads it for real, and counts what would change; nothing of it is kept. */
export async function tryLink(app: App, scope: CustomerScope, sent: SentLink): Promise<LinkTry> {
  const row = await stored(app.db, scope);
  const reader = readerFor(app, scope, row, sent);
  let read: DirectoryRead;
  try {
    read = await readWhole(reader);
  } catch (error) {
    if (!(error instanceof OutsideError)) throw error;
    const fix =
      error instanceof CredentialsRefused
        ? sent.via === 'ldap'
          ? 'Look at the name and the password again.'
          : 'Copy the token again, whole and without spaces.'
        : 'Look whether the directory is up, and whether we may read it.';
    return { outcome: 'fails', says: error.says, fix, ...NOBODY };
  }
  const { inScope, disabled, outside } = peopleInScope(read, sent);
  const known = await knownPeople(app.db, scope);
  const { added, changed, returned, left, same, unfit } = comparePeople(known, inScope);
  const at = app.clock.now();
  const { plan, takes } = await planFactsOf(app.db, scope, at);
  const most = mostOf(plan, 'people', at);
  return {
    outcome: 'works',
    says: `${figure(read.people.length)} people and ${figure(read.groups.length)} groups are in it`,
    fix: '',
    ...countDirectory(read),
    people: same + added.length + changed.length + returned.length,
    added: added.length,
    changed: changed.length,
    returned: returned.length,
    left: left.length,
    leaving: left.slice(0, MOST_TOLD).map(({ account }) => account),
    disabled,
    outside,
    unfit: unfit.length,
    bad: unfit.slice(0, MOST_TOLD).map(({ account, reason }) => `${account}: ${reason}`),
    fits: most === null || takes.people + added.length + returned.length - left.length <= most,
  };
}

/**
 * Keeps the link, when it lets us in. With another scope or secret all of it is read the next time.
 * @throws Problem 422 beside `secret`
 */
export async function keepLink(
  app: App,
  scope: CustomerScope,
  { reason, ...sent }: SentLink & { readonly reason: string },
): Promise<DirectoryLink> {
  try {
    await readerFor(app, scope, await stored(app.db, scope), sent).ids('people', { from: 0 });
  } catch (error) {
    if (error instanceof OutsideError) throw unusable('secret', error.says);
    throw error;
  }
  const { id, code } = scope.customer;
  return write(app, scope, [{ table: 'customer', key: { id } }], async (tx) => {
    await refuseGone(tx, scope);
    const before = await directoryLink(tx, scope);
    const sealed =
      sent.secret === null
        ? (await stored(tx, scope)).secret_sealed
        : app.sealing.seal(sent.secret, linkPlace(id));
    await tx.write(
      sql`INSERT INTO directory_link (customer_id, secret_sealed, via, address, base_dn, bind_as, units, groups_in)
          VALUES (${id}, ${sealed}, ${sent.via}, ${sent.address}, ${sent.base}, ${sent.bindAs},
            ${JSON.stringify(sent.units)}, ${JSON.stringify(sent.groups)})
          ON DUPLICATE KEY UPDATE secret_sealed = VALUES(secret_sealed), via = VALUES(via), address = VALUES(address),
            base_dn = VALUES(base_dn), bind_as = VALUES(bind_as), units = VALUES(units),
            groups_in = VALUES(groups_in), since = NULL, agreed = NULL, due_wall = 0,
            round = round + 1`,
    );
    await tx.write(sql`DELETE FROM directory_page WHERE customer_id = ${id}`);
    const scopeNow = ({
      via,
      address,
      base,
      units,
      groups,
    }: Omit<SentLink, 'secret' | 'bindAs'>): object => ({
      via,
      ...(via === 'ldap' ? { address, base } : {}),
      units,
      groups,
    });
    await tx.record({
      action: 'link directory',
      subject: before.realm,
      before: before.linked ? scopeNow(before) : null,
      after: scopeNow(sent),
      reason,
      topic: 'people',
      id: code,
    });
    return directoryLink(tx, scope);
  });
}

/**
 * Has it read as soon as may be. From then on it is followed.
 * @param agree to whose leaving: what the link says under `leaving`
 * @throws Problem 409 where there is no link, or others would leave than was agreed to
 */
export async function askForReading(
  app: App,
  scope: CustomerScope,
  agree: string | null,
): Promise<DirectoryLink> {
  const { id, code } = scope.customer;
  return write(app, scope, [{ table: 'customer', key: { id } }], async (tx) => {
    await refuseGone(tx, scope);
    const before = await stored(tx, scope);
    if (before.secret_sealed === null) throw conflict('directory', 'The directory is not linked yet.');
    if (agree !== null && agree !== before.leaving)
      throw conflict('directory', 'Others would leave by now. Look again.');
    // Whoever reads it now began before this was asked: that is overtaken, and neither ends nor rests it.
    await tx.write(
      sql`UPDATE directory_link SET state = 'asked', says = '', agreed = ${agree}, due_wall = 0, round = round + 1
          WHERE customer_id = ${id}`,
    );
    await tx.record({
      action: 'ask for the directory',
      subject: before.realm,
      after: agree === null ? {} : { agreed: before.says },
      topic: 'people',
      id: code,
    });
    return directoryLink(tx, scope);
  });
}

/** Nobody needs the secret of who has left any more, nor what was read of their directory. */
export async function forgetLink(tx: Connection, { customer }: CustomerScope): Promise<number> {
  await tx.write('DELETE FROM directory_page WHERE customer_id = ?', [customer.id]);
  await tx.write('DELETE FROM pushed_entry WHERE customer_id = ?', [customer.id]);
  return tx.write('DELETE FROM directory_link WHERE customer_id = ?', [customer.id]);
}

/** Seals the secrets with the key that seals now. @returns how many those were */
export const sealLinksAnew = (house: WriteHouse, scope: Scope): Promise<number> =>
  write(house, scope, [], async (tx) => {
    const rows = await tx.rows<{ customer_id: string; secret_sealed: Buffer }>(
      'SELECT customer_id, secret_sealed FROM directory_link FOR UPDATE',
    );
    const old = rows.filter(
      (one) => !house.sealing.isSealedNow(one.secret_sealed, linkPlace(one.customer_id)),
    );
    for (const { customer_id, secret_sealed } of old)
      await tx.write('UPDATE directory_link SET secret_sealed = ? WHERE customer_id = ?', [
        house.sealing.seal(
          house.sealing.unseal(secret_sealed, linkPlace(customer_id)),
          linkPlace(customer_id),
        ),
        customer_id,
      ]);
    return old.length;
  });
