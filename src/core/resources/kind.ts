import type Joi from 'joi';
import type { Condition, GatewayFacts, ReadyHost, ServicesFacts } from '../facts';
import type { Attribute, Attributes, Intent } from '../intent';
import type { Instant, Window } from '../calendar';
import type { Measure } from '../metering';
import type { HostNeed } from '../placement';
import { writeSize, type MachineSize } from '../machines';
import type { Claim, ClaimedAt } from './claim';

/** How a run goes about its work. */
export interface Policy {
  /** Steps at a time, from 1. */
  readonly atATime: number;
  /** The run stops after so many failed steps, from 1. */
  readonly failureLimit: number;
  /** So many hosts are taken together, the next ones when all of them are done; undefined: no waves. */
  readonly waves?: number;
  /** Hosts take nobody new first, and those who are in get a message and so many minutes; undefined: at once. */
  readonly drain?: { readonly minutes: number; readonly message: string };
  /** Steps begin only then, by the customer's clock; undefined: at once. */
  readonly window?: Window;
}

/** Something that should be: derived from the intent, with what was allocated to it. */
export interface Wanted<A extends Attributes = Attributes> {
  /** `kind`, or `kind:pool`, or `kind:pool:slot`: the same each time it is derived. */
  readonly key: string;
  readonly kind: string;
  readonly name: string;
  readonly attributes: A;
  /** Keys of what must stand before it. */
  readonly needs: readonly string[];
}

/** Where an environment is, beyond what its intent says. */
export interface Surroundings {
  readonly customer: string;
  readonly realm: string;
  /** The MSP's shared services at the site, which its network is joined with; undefined: there are none. */
  readonly services?: ServicesFacts | undefined;
  /** Name servers of the customer's own; none: those of the shared services. */
  readonly nameServers: readonly string[];
  /** Undefined: people come in at no name of the customer's own. */
  readonly gateway?: GatewayFacts | undefined;
}

/** What can be asked of a resource once. It is no state of it: no document counts it. */
export const ASKS = ['restart', 'go back', 'rebuild'] as const;
export type Ask = (typeof ASKS)[number];

/** One attribute that is otherwise than wanted. */
export interface Difference {
  readonly attribute: string;
  readonly wanted: Attribute;
  readonly present: Attribute;
  readonly how: 'in place' | 'by replacement';
  /** Whether mending it ends sessions. */
  readonly disturbs: boolean;
  /** `is off, wanted on`. */
  readonly says: string;
}

export const PURPOSES = ['make', 'change', 'replace', 'remove', 'retain'] as const;
export type Purpose = (typeof PURPOSES)[number];

/** What is to be done with one resource. */
export type Task<A extends Attributes> =
  | { readonly do: 'make'; readonly wanted: Wanted<A>; readonly people: number }
  | {
      readonly do: 'change' | 'replace';
      readonly wanted: Wanted<A>;
      readonly differences: readonly Difference[];
      readonly people: number;
    }
  | { readonly do: 'remove'; readonly people: number };

/** Something is taken out of use like what is removed, and kept for its data. It is the same for every kind that holds some. */
export interface Retaining {
  readonly do: 'retain';
  readonly people: number;
  readonly until: Instant;
}

export const RETAIN: StepSpec = { action: 'retain', seconds: 10 };

/** A piece of work on one resource; the pieces of a resource are done one after the other. */
export interface StepSpec {
  readonly action: string;
  /** Expected length. */
  readonly seconds: number;
  /** Which of several alike it is, from 1; and what it is about, in one line. */
  readonly part?: number;
  readonly about?: string;
}

/** Where scarce things are allocated while a proposal is made; what was allocated once stays. */
export interface Desk {
  /** What was wanted and allocated before; undefined: it is new. */
  known(key: string): Wanted | undefined;
  /** What has been allocated in this proposal to something that comes earlier in the list of kinds. */
  of(key: string): Wanted | undefined;
  /** The customer's address block at the site; empty when there is none. */
  block(): string;
  /** A subnet with room for `ceiling` hosts; empty when none is left. */
  subnet(ceiling: number): string;
  /** Free computer names of the rule; fewer when it runs out. */
  names(rule: string, role: string, count: number): string[];
  /** Free addresses in a subnet; fewer when it is full. */
  addresses(subnet: string, count: number): string[];
  /** So many of some values that nobody has in that space yet, in their order; fewer when they run out. */
  free(space: string, values: Iterable<string>, count: number): string[];
  /** A host of the ready shelf like this one, taken for this proposal; undefined: none is ready. */
  ready(like: Pick<ReadyHost, 'size' | 'image' | 'diskGiB'>): ReadyHost | undefined;
  /** A server that nobody owns, by its provider's name for it. */
  stray(ref: string): ReadyHost | undefined;
  /** A node for each need, null where none has room or the site shows no nodes. */
  nodes(needs: readonly HostNeed[]): (string | null)[];
  /** Where a host goes that comes to need something else: its own node as long as that has room. */
  moved(before: HostNeed & { readonly node: string | null }, after: HostNeed): string | null;
  readonly environment: string;
  readonly customer: string;
  readonly sizes: readonly MachineSize[];
}

/**
 * A kind of resource: everything the planner knows of it. Methods, so that a kind with attributes of its own stands in
 * one list with the others.
 */
export interface ResourceKind<A extends Attributes = Attributes> {
  readonly key: string;
  readonly words: { readonly one: string; readonly many: string };
  readonly attributes: Joi.ObjectSchema<A>;
  /** Whether all environments of a customer at a site have it together: it goes with the last of them. */
  readonly shared?: boolean;
  /** The MSP's resource that it joins its customer to: none of another customer's can be. */
  joins?(attributes: A): string | undefined;
  /** Whether hosts reach their directory over it: what was tried before it changes says nothing of after. */
  readonly isWay?: boolean;
  /** Whether it is there only as long as a run is at work: a month of it is never paid. */
  readonly passing?: boolean;
  /** Whether waves count it: it carries sessions. */
  readonly carriesSessions?: boolean;
  /** Whose data go with it when it is removed or replaced, as one says it: `the disk of kim`. */
  holdsData?(attributes: A): readonly string[];
  /** Those that an intent asks for; what is to be allocated is left empty. */
  wanted(intent: Intent, surroundings: Surroundings): Wanted<A>[];
  /** Fills in names, addresses and places; left out where nothing is allocated. */
  allocate?(wanted: readonly Wanted<A>[], intent: Intent, desk: Desk): Wanted<A>[];
  differences(wanted: A, present: Partial<A>, condition: Condition): Difference[];
  /** What is otherwise than asked for, where something can be asked of it once; left out: nothing can. */
  asked?(ask: Ask): Difference;
  steps(task: Task<A>, policy: Policy): StepSpec[];
  /** What it is metered as while it stands, wanted or present. */
  meters(attributes: Partial<A>): Measure[];
  /** What it takes of what is scarce, once that has been allocated; left out: nothing. */
  claims?(wanted: Pick<Wanted<A>, 'name' | 'attributes'>, at: ClaimedAt): Claim[];
  /** The intent that wants what is there: for one attribute, or for the whole resource not being there. */
  take?(intent: Intent, key: string, difference: Difference | 'missing'): Intent | undefined;
}

/** Comparing one attribute, for the common case. Undefined: what is there is as wanted, or was not told. */
export function differing<A extends Attributes>(
  wanted: A,
  present: Partial<A>,
  attribute: keyof A & string,
  how: Difference['how'],
  disturbs: boolean,
  says?: string,
): Difference[] {
  const [should, is] = [wanted[attribute], present[attribute]];
  if (should === undefined || is === undefined || same(should, is)) return [];
  return [
    {
      attribute,
      wanted: should,
      present: is,
      how,
      disturbs,
      says: says ?? `${attribute} is ${write(is)}, wanted ${write(should)}`,
    },
  ];
}

/** A difference in plain words: sizes are told by what they hold, where they are known. */
export function saysOf(
  { attribute, wanted, present, says }: Difference,
  sizes: readonly MachineSize[],
): string {
  if (attribute !== 'size') return says;
  const written = (value: Attribute): string => {
    const size = sizes.find((one) => one.key === value);
    return size ? writeSize(size) : write(value);
  };
  return `is ${written(present)}, wanted ${written(wanted)}`;
}

/** Several in a row, `nothing` where there are none. */
export const listed = (several: readonly string[] | undefined): string =>
  several === undefined || several.length === 0 ? 'nothing' : several.join(', ');

export const same = (a: Attribute, b: Attribute): boolean => JSON.stringify(a) === JSON.stringify(b);

const write = (value: Attribute): string =>
  value === null ? 'nothing' : Array.isArray(value) ? value.join(', ') : String(value);
