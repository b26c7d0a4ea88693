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
