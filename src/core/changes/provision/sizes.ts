import type { Facts } from '../../facts';
import { HOURS_A_MONTH, rateFor } from '../../rating';
import {
  compareSizes,
  WORK_PROFILES,
  type Alternative,
  type ProfileKey,
  type SizingAnswer,
} from '../../sizing';
import type { PoolSpec } from '../../templates';
import type { ProvisionInput } from './input';

/** A pool to be, with the sizes that would carry it. */
export interface SizedPool {
  readonly spec: PoolSpec;
  readonly people: number;
  readonly profile: ProfileKey;
  readonly sizing: SizingAnswer;
  /** The one chosen by hand, or the cheapest that keeps N+1; undefined when nothing carries it. */
  readonly chosen: Alternative | undefined;
}

/** Sizes each pool of the template for its part of the people, at the rates of now and within the plan. */
export function sizePools(input: ProvisionInput, facts: Facts): SizedPool[] {
  return (facts.template?.spec.pools ?? []).map((spec) => {
    const asked = input.pools?.find((one) => one.role === spec.role);
    const people = Math.ceil(Number((input.people * spec.partOfPeople).toFixed(6)));
    const profile = asked?.profile ?? spec.profile;
    const sizing = compareFor(spec, people, profile, facts);
    return { spec, people, profile, sizing, chosen: choose(sizing, asked?.size) };
  });
}

function compareFor(spec: PoolSpec, people: number, profile: ProfileKey, facts: Facts): SizingAnswer {
  const { plan, currency } = facts.customer;
  const allowed = facts.site.sizes.filter((size) => plan.sizes.length === 0 || plan.sizes.includes(size.key));
  const priced = allowed.flatMap((size) => {
    const rate = rateFor(facts.rates, 'host', size.key, facts.now);
    return rate ? [{ ...size, hourly: rate.price }] : [];
  });
  return compareSizes({
    people,
    concurrency: spec.concurrency,
    profile: WORK_PROFILES[profile],
    sizes: priced,
    currency,
    hoursOn: HOURS_A_MONTH,
    mostSeats: spec.mostSeats,
  });
}

function choose(sizing: SizingAnswer, size: string | undefined): Alternative | undefined {
  if (size === undefined) return sizing.chosen;
  return (
    sizing.alternatives.find((one) => one.size.key === size && one.keepsOneSpare) ??
    sizing.alternatives.find((one) => one.size.key === size)
  );
}
