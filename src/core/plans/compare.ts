import { METERED, type Included } from '../rating';
import { LIMITS, LIMIT_WORDS, type PlanTerms } from './terms';

/** One thing that two sets of terms say otherwise. */
export interface TermDifference {
  readonly title: string;
  readonly from: string;
  readonly to: string;
  /** Whether the second gives less of it; undefined where neither is more. */
  readonly less?: boolean;
}

const amount = (most: number | null): string => (most === null ? 'no limit' : String(most));
const listed = (entries: readonly string[]): string =>
  entries.length === 0
    ? 'all'
    : [...entries].sort((a, b) => a.localeCompare(b, 'en', { numeric: true })).join(', ');
const yes = (is: boolean): string => (is ? 'yes' : 'no');

/**
 * What the second set of terms says otherwise than the first, in the order in which terms are read.
 * @param names of sizes, by their keys; one that has none is told by its key
 */
export function compareTerms(
  from: PlanTerms,
  to: PlanTerms,
  names: Readonly<Record<string, string>>,
): TermDifference[] {
  const named = (keys: readonly string[]): string[] => keys.map((key) => names[key] ?? key);
  const differences: TermDifference[] = LIMITS.map((limit) => ({
    title: LIMIT_WORDS[limit].title,
    from: amount(from.most[limit]),
    to: amount(to.most[limit]),
    less: (to.most[limit] ?? Infinity) < (from.most[limit] ?? Infinity),
  }));
  differences.push(
    listDifference('Sizes', named(from.sizes), named(to.sizes)),
    listDifference('Sites', from.sites, to.sites),
    ...feeDifferences(from, to),
    ...METERED.filter(({ bySize }) => !bySize).map(({ meter, counts }) => ({
      title: `Included: ${meter}, ${counts}`,
      from: String(includedOf(from.included, meter)),
      to: String(includedOf(to.included, meter)),
      less: includedOf(to.included, meter) < includedOf(from.included, meter),
    })),
    {
      title: 'Days that data are kept',
      from: String(from.retentionDays),
      to: String(to.retentionDays),
      less: to.retentionDays < from.retentionDays,
    },
    {
      title: 'Hosts from the ready shelf',
      from: String(from.readyHosts),
      to: String(to.readyHosts),
      less: to.readyHosts < from.readyHosts,
    },
    {
      title: 'Local administrator',
      from: yes(from.localAdministrator),
      to: yes(to.localAdministrator),
      less: from.localAdministrator && !to.localAdministrator,
    },
  );
  return differences.filter((one) => one.from !== one.to);
}

const includedOf = (included: readonly Included[], meter: string): number =>
  included.find((one) => one.meter === meter)?.quantity ?? 0;

/** It gives less when something that the first has is missing in it. */
const listDifference = (title: string, from: readonly string[], to: readonly string[]): TermDifference => ({
  title,
  from: listed(from),
  to: listed(to),
  less: to.length > 0 && (from.length === 0 || from.some((one) => !to.includes(one))),
});

function feeDifferences(from: PlanTerms, to: PlanTerms): TermDifference[] {
  const currencies = [...new Set([...from.fees, ...to.fees].map((fee) => fee.currency))].sort();
  const fee = ({ fees }: PlanTerms, currency: string): string =>
    fees.find((one) => one.currency === currency)?.monthly ?? 'none';
  return currencies.map((currency) => ({
    title: `A month in ${currency}`,
    from: fee(from, currency),
    to: fee(to, currency),
  }));
}
