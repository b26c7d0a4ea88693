import type { Facts } from '../../facts';
import { sum } from '../../money';
import { monthlyCost, rateFor } from '../../rating';
import type { MachineSize } from '../../machines';
import { compareSizes, needsWith, type Alternative, type ProfileKey, type SizingAnswer } from '../../sizing';
import type { PoolSpec } from '../../templates';
import type { ProvisionInput } from './input';

/** A pool to be, with the sizes that would carry it. */
export interface SizedPool {
  readonly spec: PoolSpec;
  readonly people: number;
  readonly profile: ProfileKey;
  /** Sizes that could be taken if they had a price. */
  readonly unpriced: readonly MachineSize[];
  readonly sizing: SizingAnswer;
  /** The size that was chosen by hand, whether it can be had here or not. */
  readonly asked: string | undefined;
  /** The one chosen by hand, or the cheapest that keeps N+1; undefined when nothing carries it. */
  readonly chosen: Alternative | undefined;
}

/** Sizes each pool of the template for its part of the people, at the rates of now and within the plan. */
export function sizePools(input: ProvisionInput, facts: Facts): SizedPool[] {
  return (facts.template?.spec.pools ?? []).map((spec) => {
    const asked = input.pools?.find((one) => one.role === spec.role);
    const people = Math.ceil(Number((input.people * spec.partOfPeople).toFixed(6)));
    const profile = asked?.profile ?? spec.profile;
    const { priced, unpriced } = sizesFor(facts);
    const sizing = compareFor(spec, people, profile, priced, facts);
    return {
      spec,
      people,
      profile,
      unpriced,
      sizing,
      asked: asked?.size,
      chosen: choose(sizing, asked?.size),
    };
  });
}

/** The sizes that the plan allows here, and those among them that have no price now. */
function sizesFor({ site, customer, rates, now }: Facts): { priced: MachineSize[]; unpriced: MachineSize[] } {
  const { plan } = customer;
  const allowed = site.sizes.filter((size) => plan.sizes.length === 0 || plan.sizes.includes(size.key));
  const hasRate = (size: MachineSize): boolean => rateFor(rates, 'host', size.key, now) !== undefined;
  return { priced: allowed.filter(hasRate), unpriced: allowed.filter((size) => !hasRate(size)) };
}

function compareFor(
  spec: PoolSpec,
  people: number,
  profile: ProfileKey,
  sizes: readonly MachineSize[],
  facts: Facts,
): SizingAnswer {
  const { currency } = facts.customer;
  return compareSizes({
    people,
    concurrency: spec.concurrency,
    profile: needsWith(facts.customer.needs ?? [])[profile],
    sizes,
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
    ...(spec.mostSeats === undefined ? {} : { mostSeats: spec.mostSeats }),
  });
}

/** A size that a person chose is theirs to choose, whatever beats it. */
function choose({ all, chosen }: SizingAnswer, size: string | undefined): Alternative | undefined {
  if (size === undefined) return chosen;
  return (
    all.find((one) => one.size.key === size && one.keepsOneSpare) ?? all.find((one) => one.size.key === size)
  );
}
