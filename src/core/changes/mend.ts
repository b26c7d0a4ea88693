import Joi from 'joi';
import type { Facts } from '../facts';
import type { Intent } from '../intent';
import { together, wanting, wishFor, type OverrideWish } from '../overrides';
import { compare, defineChange, type Compared, type Refusal } from '../planning';
import type { ResourceKind } from '../resources';
import { ok, refuse, type Result } from '../result';
import { nameOf } from './common';

type How = 'as wanted' | 'as present';

interface Mending {
  /** The resource, as the list of differences names it. */
  readonly key: string;
  /** Left out: it is missing, or there without being wanted. */
  readonly attribute?: string;
  readonly how: How;
}

interface Mend {
  readonly differences: readonly Mending[];
}

const says = ({ differences }: Mend): string =>
  differences.length === 1 ? 'a difference' : `${differences.length} differences`;

/** Mends differences, each in its own way: makes it as it is wanted, or takes what is there as wanted. */
export const mend = defineChange<Mend>({
  kind: 'mend',
  subject: 'environment',
  verb: 'Mend',
  input: Joi.object<Mend>({
    differences: Joi.array()
      .items(
        Joi.object<Mending>({
          key: Joi.string().max(160).required(),
          attribute: Joi.string().max(40),
          how: Joi.string().valid('as wanted', 'as present').required(),
        }),
      )
      .min(1)
      .max(2000)
      .required()
      .messages({ 'array.min': 'choose at least one' }),
  }),
  right: 'build',
  confirm: 'press',
  touches: ['size', 'diskGiB', 'host gone'],
  undo: 'none',
  title: (input, facts) => `Mend ${says(input)} of ${nameOf(facts)}`,
  edit: (intent, { differences }, facts, kinds) => {
    if (intent === null) return refuse({ environment: 'is not there' });
    const standing = compare(kinds, facts);
    return differences.reduce<Result<Intent, Refusal>>(
      (edited, mending, index) =>
        edited.ok ? takeOne(kinds, edited.value, standing, mending, index) : edited,
      ok(intent),
    );
  },
  overrides: ({ differences }, facts, base, kinds) => {
    const standing = compare(kinds, facts);
    return ok(
      together(
        differences.flatMap((mending) => {
          const one = standing.find((other) => isIt(other, mending));
          const wish = mending.how === 'as present' && one ? wishOf(one) : undefined;
          const host = { key: mending.key, base: base(mending.key) };
          return wish ? [wanting(wish, host, facts.overrides ?? [], facts.now)] : [];
        }),
      ),
    );
  },
  policy: () => ({
    atATime: 5,
    failureLimit: 2,
    drain: { minutes: 10, message: 'This desktop is about to restart. Please save and sign out.' },
  }),
  chosen: ({ differences }, facts, kinds) => chosenOf(kinds, differences, facts),
});

/** What is there of a host, where that can be set by hand. */
const wishOf = ({ difference }: Compared): OverrideWish | undefined =>
  typeof difference === 'string' ? undefined : wishFor(difference.attribute, difference.present);

const isIt = (one: Compared, mending: Mending): boolean =>
  one.key === mending.key &&
  (typeof one.difference === 'string'
    ? mending.attribute === undefined
    : one.difference.attribute === mending.attribute);

function takeOne(
  kinds: readonly ResourceKind[],
  intent: Intent,
  standing: readonly Compared[],
  mending: Mending,
  index: number,
): Result<Intent, Refusal> {
  const one = standing.find((other) => isIt(other, mending));
  if (!one) return refuse({ [`differences.${index}`]: 'differs no more' });
  // What may be overridden is set by hand as it is there; the intent does not say it.
  if (mending.how === 'as wanted' || wishOf(one) !== undefined) return ok(intent);
  const kind = kinds.find((other) => other.key === one.kind);
  const taken = one.difference === 'extra' ? undefined : kind?.take?.(intent, one.key, one.difference);
  return taken
    ? ok(taken)
    : refuse({ [`differences.${index}`]: `${one.name}: ${one.says}; this cannot be taken as wanted` });
}

const chosenOf = (
  kinds: readonly ResourceKind[],
  differences: readonly Mending[],
  facts: Facts,
): { key: string; attribute?: string }[] => {
  const standing = compare(kinds, facts);
  return differences
    .filter((one) => one.how === 'as wanted' && standing.some((other) => isIt(other, one)))
    .map(({ key, attribute }) => (attribute === undefined ? { key } : { key, attribute }));
};
