import type { Rate } from '../../core/rating';

/** Something that has a price. */
export interface Priced {
  readonly meter: string;
  readonly size: string | null;
  readonly unit: Rate['unit'];
}
