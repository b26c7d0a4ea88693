import type { Facts } from '../../../src/core/facts';
import type { Most } from '../../../src/core/plans';
import { carriedOut, facts, input, planOf, poolSpec, proposed, spec } from '../setup/facts';

/* What stands, and what stands otherwise: where the situations begin. */

export const large: Facts = {
  ...facts,
  customer: { ...facts.customer, plan: planOf({ hosts: 200, people: 2_000 }) },
};
export const standing = carriedOut(proposed('provision', input, large), large, {
  'host:desks:1': 3,
  'host:desks:4': 1,
});
export const idOf = (key: string): string => standing.known.find((one) => one.key === key)?.id ?? '';
export const lab = {
  ...poolSpec,
  role: 'lab',
  profile: 'heavy' as const,
  mostSeats: 4,
  people: '=people * 0.25' as const,
  arrival: 'fill' as const,
};
export const twoPools: Facts = {
  ...large,
  template: {
    code: 'two',
    revision: 3,
    document: { ...spec, naming: '{customer}-{role}{counter:2}', pools: [poolSpec, lab] },
  },
};
export const own = { ...poolSpec, role: 'own', mostSeats: 1 };
export const withSizes = (from: Facts): Facts => ({
  ...from,
  rates: [
    ...from.rates,
    { meter: 'host', size: 's4x16', unit: 'hour', price: '0.128', from: 0, to: null },
    { meter: 'host', size: 's8x32', unit: 'hour', price: '0.249', from: 0, to: null },
  ],
  site: {
    ...from.site,
    sizes: [
      ...from.site.sizes,
      { key: 's4x16', vcpu: 4, memoryGiB: 16 },
      { key: 's8x32', vcpu: 8, memoryGiB: 32 },
      { key: 's16x64', vcpu: 16, memoryGiB: 64 },
    ],
  },
});
export const sized = withSizes(standing);
export const site = (over: Partial<Facts['site']>, from: Facts = large): Facts => ({
  ...from,
  site: { ...from.site, ...over },
});
export const customer = (over: Partial<Facts['customer']>, from: Facts = large): Facts => ({
  ...from,
  customer: { ...from.customer, ...over },
});
export const template = (over: Partial<typeof spec>, from: Facts = large): Facts => ({
  ...from,
  template: { code: 'other', revision: 2, document: { ...spec, ...over } },
});
export const plan = (over: Partial<Facts['customer']['plan']>, from: Facts = large): Facts =>
  customer({ plan: { ...from.customer.plan, ...over } }, from);
/** A plan that allows at most so much. */
export const most = (over: Partial<Most>, from: Facts = large): Facts =>
  plan({ most: { ...from.customer.plan.most, ...over } }, from);
/** What stands, with one resource there otherwise, or not there. */
export const there = (key: string, over?: Partial<Facts['present'][number]>): Facts => ({
  ...standing,
  present: standing.present.flatMap((one) => (one.key !== key ? [one] : over ? [{ ...one, ...over }] : [])),
});
export const attributes = (key: string, over: object): Facts => {
  const one = standing.present.find((each) => each.key === key);
  return there(key, { attributes: { ...one?.attributes, ...over } });
};
export const stray: Facts = {
  ...standing,
  present: [
    ...standing.present,
    {
      ref: 'stray',
      kind: 'host',
      name: 'SVG-STRAY',
      key: null,
      condition: 'well',
      attributes: { size: 's2x8', power: 'on' },
    },
  ],
};
export const earlier: Facts = {
  ...carriedOut(proposed('add-hosts', { pool: 'desks', hosts: 2 }, standing), standing),
};
export const undoing: Facts = {
  ...earlier,
  environment: earlier.environment && {
    ...earlier.environment,
    ...(standing.environment ? { earlier: standing.environment.intent } : {}),
  },
};
export const drained = proposed('drain', { hosts: [idOf('host:desks:2')] }, standing);

/** Every host of the pool has something of its own beside its pool. */
export function withOwn(from: Facts, over: { size?: string; diskGiB?: number }): Facts {
  const own = Object.entries(over);
  const { environment } = from;
  return {
    ...from,
    known: from.known.map((one) =>
      one.kind === 'host' ? { ...one, attributes: { ...one.attributes, ...Object.fromEntries(own) } } : one,
    ),
    present: from.present.map((one) =>
      one.kind === 'host' ? { ...one, attributes: { ...one.attributes, ...Object.fromEntries(own) } } : one,
    ),
    environment: environment && {
      ...environment,
      intent: {
        ...environment.intent,
        pools: environment.intent.pools.map((pool) => ({
          ...pool,
          hosts: pool.hosts.map((host) => ({ ...host, ...over })),
        })),
      },
    },
  };
}
export const standingTwo = carriedOut(proposed('provision', input, twoPools), twoPools, { 'host:lab:1': 2 });
/** Two hosts more are wanted and known; a run is at work on them, and they are not there yet. */
export const building: Facts = {
  ...earlier,
  known: earlier.known.map((one) =>
    one.key === 'host:desks:6' || one.key === 'host:desks:7' ? { ...one, unsettled: true } : one,
  ),
  present: earlier.present.filter((one) => one.key !== 'host:desks:6' && one.key !== 'host:desks:7'),
};
/** The last host is not wanted any more; a run is at work on it, and it is there still. */
export const afterTaking = carriedOut(
  proposed('take-hosts', { pool: 'desks', hosts: 1 }, standing),
  standing,
);
export const leavingOne: Facts = {
  ...afterTaking,
  known: [
    ...afterTaking.known,
    ...standing.known
      .filter((one) => one.key === 'host:desks:5')
      .map((one) => ({ ...one, wanted: false, unsettled: true })),
  ],
  present: standing.present,
};
/** A run is at work on one of the resources: it is there in one way, and was wanted in another. */
export function atWorkOn(key: string, is: object, was: object): Facts {
  const from = attributes(key, is);
  return {
    ...from,
    known: from.known.map((one) =>
      one.key === key ? { ...one, unsettled: true, attributes: { ...one.attributes, ...was } } : one,
    ),
  };
}

export type Case = readonly [name: string, kind: string, raw: unknown, from: Facts, policy?: object];
