import { RETAIN, type Policy, type Purpose, type StepSpec } from '../resources';
import type { FrameStep } from './change';
import { durationKey, expected, type Durations } from '../durations';
import type { PlannedTask } from './tasks';

export interface ProposedStep {
  /** Unique within its run, and the same each time the same change is proposed. */
  readonly key: string;
  /** The kind of resource it works on; `environment` for what belongs to the whole. */
  readonly kind: string;
  readonly action: string;
  readonly purpose: Purpose;
  /** The name of what it is done to. */
  readonly subject: string;
  /** Which of several alike it is, from 1. */
  readonly part?: number;
  /** The resource it is done to; null for the whole environment. */
  readonly resource: string | null;
  /** Keys of the steps that must be done first. */
  readonly needs: readonly string[];
  /** Whether it is done before the run's window comes. */
  readonly ahead?: boolean;
  /** Expected length, and by when nine of ten like it are done. */
  readonly seconds: number;
  readonly late: number;
}

interface Chain {
  readonly planned: PlannedTask;
  readonly specs: readonly StepSpec[];
}

/** Whether it goes, from use at least: what stands on it goes first, and what it stands on after it. */
const goes = ({ task }: PlannedTask): boolean => task.do === 'remove' || task.do === 'retain';

const keyOf = (planned: PlannedTask, { action, part }: StepSpec): string =>
  `${action}${part === undefined ? '' : `-${part}`}:${planned.key}`;
const endOf = ({ planned, specs }: Chain): string[] => specs.slice(-1).map((spec) => keyOf(planned, spec));

/**
 * The steps of a plan with their needs: the pieces of one resource one after the other, what stands on others after
 * them, what goes before what it stood on, waves after each other, and the frame around all.
 */
export function stepsOf(
  tasks: readonly PlannedTask[],
  policy: Policy,
  environment: string,
  frame: { readonly opens: readonly FrameStep[]; readonly closes: readonly FrameStep[] },
  durations: Durations = {},
): ProposedStep[] {
  const chains = tasks
    .map((planned): Chain => ({ planned, specs: specsOf(planned, policy) }))
    .filter((chain) => chain.specs.length > 0);
  const chainOf = new Map(chains.map((chain) => [chain.planned.key, chain]));
  const goneFirst = standingOn(chains);
  const waves = wavesOf(chains, policy);
  const opens = framed(frame.opens, environment, []);
  const opened = opens.slice(-1).map((step) => step.key);
  const own = chains.flatMap((chain) =>
    stepsOfChain(chain, durations, [
      ...opened,
      ...firstNeeds(chain, chainOf, goneFirst),
      ...(waves.get(chain.planned.key) ?? []).flatMap(endOf),
    ]),
  );
  const needed = new Set(own.flatMap((step) => step.needs));
  const ends = own.filter((step) => !needed.has(step.key)).map((step) => step.key);
  return [...opens, ...own, ...framed(frame.closes, environment, ends.length > 0 ? ends : opened)];
}

const specsOf = ({ task, kind }: PlannedTask, policy: Policy): readonly StepSpec[] =>
  task.do === 'retain' ? [RETAIN] : kind.steps(task, policy);

function stepsOfChain(
  { planned, specs }: Chain,
  durations: Durations,
  first: readonly string[],
): ProposedStep[] {
  const { task, kind } = planned;
  const size = 'wanted' in task ? task.wanted.attributes.size : undefined;
  return specs.map((spec, index): ProposedStep => {
    const before = specs[index - 1];
    return {
      key: keyOf(planned, spec),
      kind: planned.kind.key,
      action: spec.action,
      purpose: planned.task.do,
      subject: spec.about === undefined ? planned.name : `${planned.name}: ${spec.about}`,
      ...(spec.part === undefined ? {} : { part: spec.part }),
      resource: planned.key,
      needs: before ? [keyOf(planned, before)] : [...new Set(first)],
      ...expected(durations, durationKey(kind.key, spec.action, size), spec.seconds),
    };
  });
}

function firstNeeds(
  { planned }: Chain,
  chainOf: ReadonlyMap<string, Chain>,
  goneFirst: ReadonlyMap<string, readonly Chain[]>,
): string[] {
  if (goes(planned)) return (goneFirst.get(planned.key) ?? []).flatMap(endOf);
  return planned.needs.flatMap((key) => {
    const chain = chainOf.get(key);
    return chain && !goes(chain.planned) ? endOf(chain) : [];
  });
}

/** For each key, what stands on it and goes too, or stands on it no longer: that comes first. */
function standingOn(chains: readonly Chain[]): Map<string, Chain[]> {
  const found = new Map<string, Chain[]>();
  for (const chain of chains)
    for (const key of goes(chain.planned) ? chain.planned.needs : (chain.planned.stoodOn ?? []))
      found.set(key, [...(found.get(key) ?? []), chain]);
  return found;
}

/** For each resource in a wave, the whole wave before it. */
function wavesOf(chains: readonly Chain[], policy: Policy): Map<string, readonly Chain[]> {
  const before = new Map<string, readonly Chain[]>();
  const size = policy.waves;
  if (size === undefined) return before;
  const waved = chains.filter(
    ({ planned }) => planned.kind.carriesSessions === true && planned.task.do !== 'make',
  );
  for (let at = size; at < waved.length; at += size)
    for (const chain of waved.slice(at, at + size)) before.set(chain.planned.key, waved.slice(at - size, at));
  return before;
}

function framed(frame: readonly FrameStep[], environment: string, after: readonly string[]): ProposedStep[] {
  const steps: ProposedStep[] = [];
  for (const { action, seconds, ahead } of frame)
    steps.push({
      key: `${action}:environment`,
      kind: 'environment',
      action,
      purpose: 'change',
      subject: environment,
      resource: null,
      needs: steps.length > 0 ? steps.slice(-1).map((step) => step.key) : [...after],
      seconds,
      late: seconds,
      ...(ahead === undefined ? {} : { ahead }),
    });
  return steps;
}
