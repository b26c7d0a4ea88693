import type { Facts } from '../../facts';
import { sum } from '../../money';
import { monthlyCost, rateFor } from '../../rating';
import type { MachineSize } from '../../machines';
import {
  compareSizes,
  hostsFor,
  isPersonal,
  needsWith,
  peakOf,
  type Alternative,
  type SizingAnswer,
} from '../../sizing';
import { fill, schemaOf, type TemplateSpec } from '../../templates';
import { fitsRule, TERM_KEYS, type PoolSpec, type TermKey } from '../../terms';
import { refuse, type Result } from '../../result';
import type { ProvisionInput } from './input';

/** A pool to be, with the sizes that would carry it. */
export interface SizedPool {
  readonly spec: PoolSpec;
  /** For whom it is ready from the start. */
  readonly people: number;
  /** Sizes that could be taken if they had a price. */
  readonly unpriced: readonly MachineSize[];
  readonly sizing: SizingAnswer;
  /** The size that was chosen by hand, whether it can be had here or not. */
  readonly asked: string | undefined;
  /** The one chosen by hand, or the one that the rule comes to; undefined when nothing carries it. */
  readonly chosen: Alternative | undefined;
  /** Hosts of that size when everyone is there. */
  readonly hostsForAll: number;
}

/** What the template says once it is filled as asked. */
export function filledTemplate(
  { people, ready, inputs }: Pick<ProvisionInput, 'people' | 'ready' | 'inputs'>,
  { template }: Pick<Facts, 'template'>,
): Result<TemplateSpec, Readonly<Record<string, string>>> {
  if (!template) return refuse({ template: 'is not known' });
  return fill(template.document, { people, ready, inputs });
}

/** Sizes each pool of the template for its part of the people, at the rates of now and within the plan. */
export function sizePools(input: ProvisionInput, facts: Facts): SizedPool[] {
  const filled = filledTemplate(input, facts);
  if (!filled.ok) return [];
  return filled.value.pools.map((pool) => {
    const { size, ...otherwise } = input.pools?.find((one) => one.role === pool.role) ?? {};
    // What cannot be used is told beside its field; until it can, it is sized as the template has it.
    const sized = sizePool({ ...pool, ...usable(otherwise) }, partReady(input), size, facts);
    return { ...sized, spec: { ...pool, ...otherwise } };
  });
}

const usable = (choice: Partial<PoolSpec>): Partial<PoolSpec> =>
  Object.fromEntries(
    Object.entries(choice).filter(
      ([key, value]) => isTermKey(key) && schemaOf(key).validate(value).error === undefined,
    ),
  );

const isTermKey = (key: string): key is TermKey => TERM_KEYS.some((one) => one === key);

const partReady = ({ people, ready = people }: Pick<ProvisionInput, 'people' | 'ready'>): number =>
  people === 0 ? 1 : Math.min(1, ready / people);

/** @param ready of its people, the part that it is ready for from the start: 0 to 1 */
export function sizePool(spec: PoolSpec, ready: number, asked: string | undefined, facts: Facts): SizedPool {
  const people = Math.ceil(Number((spec.people * ready).toFixed(6)));
  const { priced, unpriced } = sizesFor(spec, asked, facts);
  const sizing = compareFor(spec, people, priced, facts);
  const chosen = choose(sizing, asked, spec.spare);
  const inAtOnce = isPersonal(spec) ? spec.people : peakOf(spec.people, spec.concurrency);
  const hosts = chosen ? hostsFor(inAtOnce, chosen.seats) + (isPersonal(spec) ? 0 : spec.spare) : 0;
  return {
    spec,
    people,
    unpriced,
    sizing,
    asked,
    chosen,
    hostsForAll: Math.max(hosts, chosen?.hosts ?? 0),
  };
}

/** The sizes that template and plan allow here, and those among them that have no price now. */
function sizesFor(
  { size: rule }: PoolSpec,
  asked: string | undefined,
  { site, customer, rates, now }: Facts,
): { priced: MachineSize[]; unpriced: MachineSize[] } {
  const { plan } = customer;
  const isWanted = (size: MachineSize): boolean => size.key === asked || fitsRule(rule, size);
  const allowed = site.sizes.filter(
    (size) => (plan.sizes.length === 0 || plan.sizes.includes(size.key)) && isWanted(size),
  );
  const hasRate = (size: MachineSize): boolean => rateFor(rates, 'host', size.key, now) !== undefined;
  return { priced: allowed.filter(hasRate), unpriced: allowed.filter((size) => !hasRate(size)) };
}

function compareFor(
  spec: PoolSpec,
  people: number,
  sizes: readonly MachineSize[],
  facts: Facts,
): SizingAnswer {
  const { currency } = facts.customer;
  return compareSizes({
    people,
    concurrency: spec.concurrency,
    profile: needsWith(facts.customer.needs ?? [])[spec.profile],
    sizes,
    spare: spec.spare,
    monthlyOf: (size, hosts) => {
      const needs = [
        { meter: 'host', size: size.key, quantity: hosts },
        { meter: 'disk', size: null, quantity: hosts * spec.diskGiB },
      ];
      const { lines } = monthlyCost(needs, facts.rates, facts.now, currency);
      return sum(
        lines.map((line) => line.amount),
        currency,
      );
    },
    arrival: spec.arrival,
    mostSeats: spec.mostSeats,
  });
}

/** A size that a person chose is theirs to choose, whatever beats it. */
function choose(
  { all, chosen }: SizingAnswer,
  size: string | undefined,
  spare: number | undefined,
): Alternative | undefined {
  if (size === undefined) return chosen;
  const own = all.filter((one) => one.size.key === size);
  // As many as the rule asks for, and no host to spare where it asks for none.
  return (spare === 0 ? undefined : own.find((one) => one.keepsOneSpare)) ?? own[0];
}
