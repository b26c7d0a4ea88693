import type { Check } from '../../core/planning';
import { OWN_CODE } from '../../contract/own-code';

export interface FixLink {
  readonly href: string;
  readonly says: string;
}

/** Where a check that does not pass is mended; undefined: it passes, or is mended where one is. */
export function fixOf({ state, fix }: Check, customer: string): FixLink | undefined {
  if (state === 'passes' || !fix) return undefined;
  const { of, page, says } = fix;
  if (of === 'everyone') return { href: `/${page}`, says };
  return customer === OWN_CODE ? undefined : { href: `/customers/${customer}/${page}`, says };
}
