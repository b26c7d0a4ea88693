import type { Card } from '../../contract';
import type { Meter, Rate, RateUnit } from '../../core/rating';
import type { Connection } from '../db';

interface Stored {
  readonly meter: Meter;
  readonly size: string;
  readonly unit: RateUnit;
  readonly price: string;
  readonly from_at: number;
  readonly to_at: number | null;
}

/** The rates of a card, all dates. */
export async function ratesOf(db: Connection, card: string): Promise<Rate[]> {
  const rows = await db.rows<Stored>(
    'SELECT meter, size, unit, price, from_at, to_at FROM rate WHERE card_code = ? ORDER BY meter, size, from_at',
    [card],
  );
  return rows.map((row) => ({
    meter: row.meter,
    size: row.size === '' ? null : row.size,
    unit: row.unit,
    price: row.price,
    from: row.from_at,
    to: row.to_at,
  }));
}

/** The rate cards with all their rates. */
export async function listCards(db: Connection): Promise<Card[]> {
  const cards = await db.rows<Omit<Card, 'rates'>>(
    'SELECT code, name, currency FROM rate_card ORDER BY code',
  );
  return Promise.all(cards.map(async (card) => ({ ...card, rates: await ratesOf(db, card.code) })));
}
