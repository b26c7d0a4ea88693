import Joi from 'joi';
import type { Right } from '../access';
import type { Window } from '../calendar';
import type { Facts, HostFacts } from '../facts';
import type { Attributes, HostTouch, Intent } from '../intent';
import { NO_OVERRIDE_EDIT, type OverrideEdit } from '../overrides';
import type { Ask, Policy, ResourceKind } from '../resources';
import { ok, refuse, type Result } from '../result';
import type { Check } from './check';

/** Why an input cannot be used, beside the field where it was made. */
export type Refusal = Readonly<Record<string, string>>;

/** A difference that is to be mended: one attribute, or the whole resource. */
export interface Chosen {
  readonly key: string;
  readonly attribute?: string;
}

/** Work that belongs to the whole environment and not to one resource. */
export interface FrameStep {
  readonly action: 'warn' | 'sweep' | 'prove';
  readonly seconds: number;
  /** Whether it is done at once, also where the run has to wait for its window; left out: no. */
  readonly ahead?: boolean;
}

/** Groups of facts that are read only for what names them. */
export type ByNeed =
  'approval' | 'template' | 'accounts' | 'grantees' | 'imagesTaken' | 'image' | 'served' | 'retained';

/** Something that is asked of a resource once. */
export interface Asked {
  readonly key: string;
  readonly ask: Ask;
}

/** What every change says of itself. */
interface About<Input> {
  readonly kind: string;
  /** Whose environments it is for; left out: everyone's. */
  readonly of?: 'customers' | 'the MSP';
  readonly verb: string;
  readonly input: Joi.ObjectSchema<Input>;
  readonly right: Right;
  /** `type the code`: the customer's code has to be typed. */
  readonly confirm: 'press' | 'type the code';
  /** The kind of change that it does a part of: where that needs approval, so does this. */
  readonly partOf?: string;
}

/** What a change works out of its input and the facts that it takes. */
interface Work<Input, Given> {
  /** What a run of it is called: `Add 2 hosts to clinic`. */
  title(input: Input, facts: Given): string;
  policy(input: Input, facts: Given): Policy;
  /** What it sets by hand, or sets no longer; left out: nothing. */
  overrides?(
    input: Input,
    facts: Given,
    base: Base,
    kinds: readonly ResourceKind[],
  ): Result<OverrideEdit, Refusal>;
  /** What it asks of resources once. */
  asks?(input: Input, facts: Given): readonly Asked[];
  /** People whom it concerns; left out: those who are in on what it touches. */
  people?(input: Input, facts: Given): number;
}

/** What the intent alone says of a host, by its key. */
export type Base = (key: string) => Attributes;

/** Something that people ask for: how it edits the intent, and how that is carried out. One file each, one list. */
export interface ChangeSpec<Input> extends About<Input>, Work<Input, Facts> {
  /** `new environment`: it makes one; else it changes one that is there. */
  readonly subject: 'environment' | 'new environment';
  readonly undo: 'by difference' | 'none';
  /** What of hosts' entries its edit may change; left out: nothing. Every other difference is refused. */
  readonly touches?: readonly HostTouch[];
  /** Whether people's data may be destroyed by it: each is named, and the customer's code typed. */
  readonly destroys?: boolean;
  /** The intent as it shall be; null: nothing any more. Pure; refuses with a field and a sentence. */
  edit(
    intent: Intent | null,
    input: Input,
    facts: Facts,
    kinds: readonly ResourceKind[],
  ): Result<Intent | null, Refusal>;
  /** Checks beyond those that every plan has. */
  checks?(edited: Intent | null, input: Input, facts: Facts): Check[];
  /** Differences to mend besides what the edit makes. */
  chosen?(input: Input, facts: Facts, kinds: readonly ResourceKind[]): readonly Chosen[];
  /** Whether what holds data is retained where it goes; left out: it is removed. */
  retains?(input: Input): boolean;
  /** Ids of what is retained that it removes; left out: nothing. */
  drops?(input: Input): readonly string[];
  /** Whether it can be begun for an environment that is retired. */
  readonly ofRetired?: boolean;
  /** Whether everything of the environment is compared, not only what the edit touches. */
  readonly whole?: boolean;
  readonly opens?: readonly FrameStep[];
  readonly closes?: readonly FrameStep[];
  /** Groups of facts that it goes by, beside those that every change is proposed from. */
  readonly needs?: readonly ByNeed[];
  /** The version of the intent that it goes back to. */
  looksBackTo?(input: Input): number;
  /** Accounts of people whom it names: the facts tell which of them are known. */
  concerns?(input: Input): readonly string[];
  /** Ids of groups and people whom it names: the facts tell what they are. */
  grantees?(input: Input): readonly string[];
}

/**
 * A change of hosts that leaves the intent alone: it overrides it for a while, or asks something of hosts once. It is cheap:
 * nothing outside is asked for it, and no site is locked.
 */
export interface HostChangeSpec<Input> extends About<Input>, Work<Input, HostFacts> {
  /** The change of the same hosts that undoes it; left out: none does. */
  readonly undoneBy?: string;
  /** Whether every host of the environment is switched as it is wanted by now, not only those that it names. */
  readonly whole?: boolean;
  checks?(input: Input, facts: HostFacts): Check[];
}

/** A change with its input. */
export interface BoundChange extends BoundWork<Facts> {
  readonly looksBackTo: number | undefined;
  readonly concerns: readonly string[];
  readonly grantees: readonly string[];
  readonly retains: boolean;
  readonly drops: readonly string[];
  edit(intent: Intent | null, facts: Facts, kinds: readonly ResourceKind[]): Result<Intent | null, Refusal>;
  checks(edited: Intent | null, facts: Facts): Check[];
  chosen(facts: Facts, kinds: readonly ResourceKind[]): readonly Chosen[];
}

export interface BoundHostChange extends BoundWork<HostFacts> {
  checks(facts: HostFacts): Check[];
}

interface BoundWork<Given> {
  readonly input: unknown;
  title(facts: Given): string;
  policy(facts: Given): Policy;
  overrides(facts: Given, base: Base, kinds: readonly ResourceKind[]): Result<OverrideEdit, Refusal>;
  asks(facts: Given): readonly Asked[];
  people(facts: Given): number | undefined;
}

interface ListedChange extends Omit<About<never>, 'input'> {
  readonly subject: 'environment' | 'new environment';
  readonly undo: 'by difference' | 'none';
  readonly input: Joi.ObjectSchema;
  readonly touches: readonly HostTouch[];
  readonly needs: readonly ByNeed[];
  readonly destroys?: boolean;
  readonly ofRetired?: boolean;
  readonly whole?: boolean;
  readonly opens?: readonly FrameStep[];
  readonly closes?: readonly FrameStep[];
}

/** A change that edits the intent, as the lists hold it: what its input is, it knows itself. */
export interface IntentChange extends ListedChange {
  readonly takes: 'all facts';
  /** Reads an input from outside; refuses it with what is wrong beside each field. */
  bind(raw: unknown): Result<BoundChange, Refusal>;
}

/** A change of hosts alone, as the lists hold it. */
export interface HostChange extends ListedChange {
  readonly takes: 'facts of hosts';
  readonly undoneBy?: string;
  bind(raw: unknown): Result<BoundHostChange, Refusal>;
}

export type Change = IntentChange | HostChange;

/** Makes a change for the list from one whose input has a type. */
export const defineChange = <Input>(spec: ChangeSpec<Input>): IntentChange => ({
  ...listed(spec),
  takes: 'all facts',
  subject: spec.subject,
  undo: spec.undo,
  touches: spec.touches ?? [],
  needs: spec.needs ?? [],
  ...(spec.destroys === undefined ? {} : { destroys: spec.destroys }),
  ...(spec.ofRetired === undefined ? {} : { ofRetired: spec.ofRetired }),
  ...(spec.whole === undefined ? {} : { whole: spec.whole }),
  ...(spec.opens === undefined ? {} : { opens: spec.opens }),
  ...(spec.closes === undefined ? {} : { closes: spec.closes }),
  bind: (raw) => {
    const read = reading(spec.input, raw);
    if (!read.ok) return read;
    const input = read.value;
    return ok({
      ...working(spec, input),
      looksBackTo: spec.looksBackTo?.(input),
      concerns: spec.concerns?.(input) ?? [],
      grantees: spec.grantees?.(input) ?? [],
      retains: spec.retains?.(input) ?? false,
      drops: spec.drops?.(input) ?? [],
      edit: (intent, facts, kinds) => spec.edit(intent, input, facts, kinds),
      checks: (edited, facts) => spec.checks?.(edited, input, facts) ?? [],
      chosen: (facts, kinds) => spec.chosen?.(input, facts, kinds) ?? [],
    });
  },
});

/** Makes a change of hosts for the list. */
export const defineHostChange = <Input>(spec: HostChangeSpec<Input>): HostChange => ({
  ...listed(spec),
  takes: 'facts of hosts',
  subject: 'environment',
  touches: [],
  needs: [],
  undo: spec.undoneBy === undefined ? 'none' : 'by difference',
  ...(spec.undoneBy === undefined ? {} : { undoneBy: spec.undoneBy }),
  ...(spec.whole === undefined ? {} : { whole: spec.whole }),
  bind: (raw) => {
    const read = reading(spec.input, raw);
    if (!read.ok) return read;
    return ok({
      ...working(spec, read.value),
      checks: (facts) => spec.checks?.(read.value, facts) ?? [],
    });
  },
});

const listed = <Input>({ kind, of, verb, input, right, confirm, partOf }: About<Input>) => ({
  kind,
  ...(of === undefined ? {} : { of }),
  verb,
  input,
  right,
  confirm,
  ...(partOf === undefined ? {} : { partOf }),
});

function reading<Input>(schema: Joi.ObjectSchema<Input>, raw: unknown): Result<Input, Refusal> {
  const { error, value } = schema.validate(raw, { abortEarly: false, errors: { label: false } });
  return error
    ? refuse(Object.fromEntries(error.details.map((one) => [one.path.join('.') || 'input', one.message])))
    : ok(value);
}

const working = <Input, Given>(spec: Work<Input, Given>, input: Input): BoundWork<Given> => ({
  input,
  title: (facts) => spec.title(input, facts),
  policy: (facts) => spec.policy(input, facts),
  overrides: (facts, base, kinds) => spec.overrides?.(input, facts, base, kinds) ?? ok(NO_OVERRIDE_EDIT),
  asks: (facts) => spec.asks?.(input, facts) ?? [],
  people: (facts) => spec.people?.(input, facts),
});

/** What whoever asks may set of a run's policy; what is left out stays as the change has it. */
export interface PolicyWish {
  readonly atATime?: number;
  readonly failureLimit?: number;
  /** 0: no waves. */
  readonly waves?: number;
  /** Minutes that people get before their sessions end; left out: as the change has it. */
  readonly drainMinutes?: number;
  readonly message?: string;
  /** By the customer's clock; left out: at once. */
  readonly window?: Window;
}

const timeOfDay = Joi.string()
  .pattern(/^([01]\d|2[0-3]):[0-5]\d$/)
  .messages({ 'string.pattern.base': 'write it like 22:00', 'string.empty': 'write it like 22:00' });

export const policyWish = Joi.object<PolicyWish>({
  atATime: Joi.number().integer().min(1).max(50).description('Steps at a time'),
  failureLimit: Joi.number()
    .integer()
    .min(1)
    .max(1000)
    .description('The run stops after so many failed steps'),
  waves: Joi.number().integer().min(0).max(1000).description('Hosts taken together; 0: no waves'),
  drainMinutes: Joi.number()
    .integer()
    .min(0)
    .max(24 * 60)
    .description('Hosts are drained first; people get so many minutes'),
  message: Joi.string().trim().allow('').max(200).description('What people who are in are told'),
  window: Joi.object<Window>({
    days: Joi.array()
      .items(Joi.number().integer().min(1).max(7))
      .min(1)
      .unique()
      .required()
      .messages({ 'array.min': 'choose a day' })
      .description('Days on which it begins, 1 (Monday) to 7 (Sunday)'),
    from: timeOfDay.required(),
    to: timeOfDay.required().description('Not after `from`: of the day after'),
  }).description('Steps begin only then, by the customer’s clock'),
});

export function policyWith(policy: Policy, wish: PolicyWish): Policy {
  const waves = wish.waves ?? policy.waves;
  const window = wish.window ?? policy.window;
  const drain =
    wish.drainMinutes === undefined && wish.message === undefined
      ? policy.drain
      : {
          minutes: wish.drainMinutes ?? policy.drain?.minutes ?? 0,
          message: wish.message ?? policy.drain?.message ?? '',
        };
  return {
    atATime: wish.atATime ?? policy.atATime,
    failureLimit: wish.failureLimit ?? policy.failureLimit,
    ...(waves === undefined || waves === 0 ? {} : { waves }),
    ...(drain === undefined ? {} : { drain }),
    ...(window === undefined ? {} : { window }),
  };
}
