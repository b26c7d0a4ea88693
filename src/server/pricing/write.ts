import { code } from 'currency-codes';
import type { NewCard } from '../../contract';
import type { Rate } from '../../core/rating';
import type { Scope } from '../access';
import type { Connection } from '../db';
import { conflict, notFound, Problem } from '../problem';
import { write, type WriteHouse } from '../write';

/** Makes a rate card: prices in one currency. @throws Problem 409 when there is one of that code, 422 */
export async function createCard(house: WriteHouse, scope: Scope, card: NewCard): Promise<void> {
  if (!code(card.currency))
    throw new Problem(422, 'currency', 'The currency is not known.', {
      fields: { currency: 'is not a currency of ISO 4217' },
    });
  await write(house, scope, [], async (tx) => {
    if (await tx.row('SELECT code FROM rate_card WHERE code = ?', [card.code]))
      throw conflict('card', `There is a rate card ${card.code} already.`);
    await tx.write('INSERT INTO rate_card (code, name, currency) VALUES (?, ?, ?)', [
      card.code,
      card.name,
      card.currency,
    ]);
    for (const rate of card.rates) await insertRate(tx, card.code, rate);
    await tx.record({
      action: 'make rate card',
      subject: card.name,
      after: card,
      topic: 'ground',
      id: card.code,
    });
  });
}

const insertRate = (
  tx: Connection,
  card: string,
  { meter, size, unit, price, from, to }: Rate,
): Promise<number> =>
  tx.write(
    'INSERT INTO rate (card_code, meter, size, unit, price, from_at, to_at) VALUES (?, ?, ?, ?, ?, ?, ?)',
    [card, meter, size ?? '', unit, price, from, to],
  );

/**
 * Adds a rate to a card. One that goes on until further notice ends where the new one begins, so that at every instant
 * one holds.
 * @throws Problem 404, 409 when one begins at that very instant
 */
export async function addRate(house: WriteHouse, scope: Scope, card: string, rate: Rate): Promise<void> {
  await write(house, scope, [], async (tx) => {
    if (!(await tx.row('SELECT code FROM rate_card WHERE code = ?', [card]))) throw notFound('rate card');
    const key = [card, rate.meter, rate.size ?? ''];
    const same = await tx.row(
      'SELECT from_at FROM rate WHERE card_code = ? AND meter = ? AND size = ? AND from_at = ?',
      [...key, rate.from],
    );
    if (same) throw conflict('rate', 'A rate for this begins at that instant already.');
    await tx.write(
      `UPDATE rate SET to_at = ? WHERE card_code = ? AND meter = ? AND size = ? AND to_at IS NULL AND from_at < ?`,
      [rate.from, ...key, rate.from],
    );
    await insertRate(tx, card, rate);
    await tx.record({ action: 'add rate', subject: card, after: rate, topic: 'ground', id: card });
  });
}
