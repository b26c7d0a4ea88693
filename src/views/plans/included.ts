import { METERED, type Included } from '../../core/rating';
import { writeFigure } from '../../client/format';

/** `500 GiB of share, 20 seats of licence`. */
export const includedSays = (included: readonly Included[]): string =>
  included.length === 0
    ? '–'
    : included
        .map(({ meter, quantity }) => {
          const counts = METERED.find((one) => one.meter === meter)?.counts ?? '';
          const units = counts === 'GiB' || quantity === 1 ? counts : `${counts}s`;
          return `${writeFigure(quantity)} ${units} of ${meter}`;
        })
        .join(', ');
