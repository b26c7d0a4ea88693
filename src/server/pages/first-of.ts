import type { CustomerSummary, Watch } from '../../contract';

/** Up to so many come with a page whole. */
const MANY = 60;
/** Of more than that, so many: as many as are seen before the page's own reading brings the others. */
const FIRST = 20;

/** What comes with a page of a large fleet: its first customers, those for whom `before` holds before the others. */
export function firstOf(all: Watch, before: (one: CustomerSummary) => boolean = () => false): Watch {
  if (all.customers.length <= MANY) return all;
  const first = [...all.customers.filter(before), ...all.customers.filter((one) => !before(one))];
  return { ...all, customers: first.slice(0, FIRST), mine: [] };
}
