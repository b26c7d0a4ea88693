import type { Instant } from '../calendar';
import type { Attribute, Attributes } from '../intent';

/* What is wanted of hosts otherwise than the intent says, for a while: why, by whom, and until when. */

/** What sets something otherwise; of several at one attribute, the one that comes first here wins. */
export const OVERRIDE_CAUSES = ['by hand', 'customer paused', 'rota'] as const;
export type OverrideCause = (typeof OVERRIDE_CAUSES)[number];

/** What an override may want of a host: its power, whether it takes new sessions, whether a picture of its disk is kept. */
export type OverrideWish =
  | { readonly attribute: 'power'; readonly value: 'on' | 'off' }
  | { readonly attribute: 'accepting'; readonly value: boolean }
  | { readonly attribute: 'picture'; readonly value: true };

export const OVERRIDDEN = [
  'power',
  'accepting',
  'picture',
] as const satisfies readonly OverrideWish['attribute'][];
export type Overridden = (typeof OVERRIDDEN)[number];

/** Whether an attribute of a host is one that may be overridden. */
export const isOverridden = (attribute: string): attribute is Overridden =>
  (OVERRIDDEN as readonly string[]).includes(attribute);

/** Wanting an attribute of a host so, by hand; undefined: that cannot be set by hand. */
export function wishFor(attribute: string, value: Attribute): OverrideWish | undefined {
  if (attribute === 'power' && (value === 'on' || value === 'off')) return { attribute, value };
  if (attribute === 'accepting' && typeof value === 'boolean') return { attribute, value };
  return undefined;
}

interface Term {
  /** The key of the host; null: every host of the customer. */
  readonly host: string | null;
  /** Null: until it is removed. */
  readonly until: Instant | null;
}

export type Override = OverrideWish &
  Term & {
    readonly cause: OverrideCause;
    readonly why: string;
    readonly by: string;
    readonly since: Instant;
  };

/** What a change does to what is set by hand: each attribute of a host that it names is set otherwise, or no more. */
export interface OverrideEdit {
  readonly set: readonly (OverrideWish & Term & { readonly host: string })[];
  readonly lift: readonly { readonly host: string; readonly attribute: Overridden }[];
}

export const NO_OVERRIDE_EDIT: OverrideEdit = { set: [], lift: [] };

const isInForce = ({ until }: Override, now: Instant): boolean => until === null || until > now;

/** The override that decides an attribute of a host now; undefined: what its intent says holds. */
export function overrideOf(
  overrides: readonly Override[],
  key: string,
  attribute: Overridden,
  now: Instant,
): Override | undefined {
  const own = overrides.filter(
    (one) => one.attribute === attribute && (one.host === null || one.host === key) && isInForce(one, now),
  );
  return OVERRIDE_CAUSES.flatMap((cause) => own.filter((one) => one.cause === cause))[0];
}

/**
 * What is wanted of hosts now: of each attribute what is set by hand, else what follows of the customer's being paused, else
 * what the rota wants, else what the intent says. Nothing else decides it.
 * @param hosts as their intent wants them
 */
export const effective = <Host extends { readonly key: string; readonly attributes: Attributes }>(
  hosts: readonly Host[],
  overrides: readonly Override[],
  now: Instant,
): Host[] =>
  hosts.map((one) => {
    const set = OVERRIDDEN.flatMap((attribute) => overrideOf(overrides, one.key, attribute, now) ?? []);
    if (set.length === 0) return one;
    const wanted = Object.fromEntries(set.map(({ attribute, value }) => [attribute, value]));
    return { ...one, attributes: { ...one.attributes, ...wanted } };
  });

/** When something is wanted otherwise by itself: the next end of an override; undefined: none ends. */
export function nextChange(overrides: readonly Override[], now: Instant): Instant | undefined {
  const ends = overrides.flatMap(({ until }) => (until !== null && until > now ? [until] : []));
  return ends.length === 0 ? undefined : Math.min(...ends);
}

/** Overrides as an edit leaves them: what is set by hand takes the place of what was set by hand before. */
export function edited(
  overrides: readonly Override[],
  { set, lift }: OverrideEdit,
  made: Pick<Override, 'why' | 'by' | 'since'>,
): Override[] {
  const touched = new Set([...set, ...lift].map(({ host, attribute }) => `${attribute} ${host}`));
  return [
    ...overrides.filter(
      ({ cause, host, attribute }) => cause !== 'by hand' || !touched.has(`${attribute} ${host ?? ''}`),
    ),
    ...set.map((one): Override => ({ ...one, ...made, cause: 'by hand' })),
  ];
}

/** The edit that sets something of a host by hand; none, where it is set so already. */
export function setting(
  wish: OverrideWish,
  host: string,
  overrides: readonly Override[],
  until: Instant | null,
): OverrideEdit {
  const isSet = overrides.some(
    (one) =>
      one.cause === 'by hand' &&
      one.host === host &&
      one.attribute === wish.attribute &&
      one.value === wish.value &&
      one.until === until,
  );
  return isSet ? NO_OVERRIDE_EDIT : { set: [{ ...wish, host, until }], lift: [] };
}

/** The edit that removes what is set of a host by hand; none, where nothing is. */
export const lifting = (
  attribute: Overridden,
  host: string,
  overrides: readonly Override[],
): OverrideEdit => {
  const isSet = overrides.some(
    (one) => one.cause === 'by hand' && one.host === host && one.attribute === attribute,
  );
  return isSet ? { set: [], lift: [{ host, attribute }] } : NO_OVERRIDE_EDIT;
};

/**
 * The edit after which a host is wanted so: what was set by hand is removed where that is enough, because the rest wants
 * the same; else, or where it has an end, it is set by hand.
 * @param base what its intent says
 */
export function wanting(
  wish: OverrideWish,
  { key, base }: { readonly key: string; readonly base: Attributes },
  overrides: readonly Override[],
  now: Instant,
  until: Instant | null = null,
): OverrideEdit {
  const rest = edited(overrides, lifting(wish.attribute, key, overrides), { why: '', by: '', since: now });
  const left = overrideOf(rest, key, wish.attribute, now)?.value ?? base[wish.attribute];
  return until === null && left === wish.value
    ? lifting(wish.attribute, key, overrides)
    : setting(wish, key, overrides, until);
}

/** Several edits as one. */
export const together = (edits: readonly OverrideEdit[]): OverrideEdit => ({
  set: edits.flatMap(({ set }) => set),
  lift: edits.flatMap(({ lift }) => lift),
});
