import { goesOnFrom, hideSecrets, markOf, secretsIn, withSecrets, type RecipeStep } from '../../core/recipes';
import { recipeStep } from '../../core/resources';
import { OutsideError } from '../outside';
import type { PresentResource } from '../providers';
import {
  act,
  done,
  failed,
  keyOf,
  make,
  presentNow,
  readPlainly,
  refOf,
  remove,
  wait,
  type NowOf,
  type Outcome,
  type ResourceWork,
  type StepWork,
} from './work';

const MINUTE = 60_000;

const stepsOf = ({ resource }: NowOf): RecipeStep[] => {
  const { steps } = resource.attributes;
  return Array.isArray(steps) ? steps.map((held) => recipeStep(String(held))) : [];
};

/** The same step, on the machine that the image is made on. */
async function onMachine(now: NowOf): Promise<NowOf> {
  const machine = await now.find(String(now.resource.attributes.machine ?? ''));
  if (!machine) throw new OutsideError('provider', 'says: its build machine was not made', 'lasting');
  return { ...now, resource: machine };
}

const on =
  (work: StepWork): StepWork =>
  async (now) =>
    work(await onMachine(now));

const marksOf = ({ attributes: { applied } }: PresentResource): string[] =>
  Array.isArray(applied) ? applied.map(String) : [];

/** One step of the recipe: begun once, whoever looks at it; what it writes is kept; not longer than it may take. */
async function apply(now: NowOf): Promise<Outcome> {
  const at = (now.step.part ?? 1) - 1;
  const step = stepsOf(now)[at];
  if (!step) return done('the recipe has no such step any more');
  if (now.step.operation !== null) return look(now, step, now.step.operation);
  const machine = await onMachine(now);
  const present = await presentNow(machine);
  if (present.busyWith !== null) return wait('something is at work on the machine');
  const from = goesOnFrom(marksOf(present), stepsOf(now));
  if (from === undefined || from < at)
    return failed('the machine has other steps on it than the recipe: it has to begin anew');
  if (from > at) return done('done before');
  const secrets = await now.secrets();
  const missing = secretsIn([step]).filter((name) => !secrets.has(name));
  if (missing.length > 0) return failed(`${missing.join(', ')}: no such secret is kept any more`);
  const operation = await now.provider.act(
    present.ref,
    present.version,
    'apply',
    // What tells the step again names its secrets and does not hold them.
    { ...step, what: withSecrets(step.what, secrets), to: withSecrets(step.to, secrets), mark: markOf(step) },
    keyOf(now),
  );
  return {
    kind: 'wait',
    says: '',
    operation: operation.id,
    memo: String(now.clock.now() + step.minutes * MINUTE),
    output: hideSecrets(operation.output ?? '', secrets),
  };
}

async function look(now: NowOf, step: RecipeStep, id: string): Promise<Outcome> {
  // Also of those that this step does not name: an earlier one may have left them there.
  const secrets = await now.secrets();
  const operation = await now.provider.operation(id);
  const { state } = operation;
  const says = hideSecrets(operation.says, secrets);
  const output = hideSecrets(operation.output ?? '', secrets);
  if (state === 'done')
    return { kind: 'done', says: step.holds === '' ? '' : `holds: ${step.holds}`, output };
  if (state === 'working' && now.clock.now() <= Number(now.step.memo))
    return { kind: 'wait', says: '', operation: id, output };
  const why = state === 'failed' ? says : `took longer than ${step.minutes} minutes`;
  return now.step.round + 1 < step.tries
    ? { kind: 'again', says: `${why}: tried again`, anew: 'step', output }
    : { kind: 'failed', says: why, anew: 'step', output };
}

const settle = act(
  'measure-writes',
  () => ({}),
  ({ attributes: { writesMiB } }, { step }) =>
    // What was measured before this step began tells nothing of now.
    step.round > 0 && writesMiB === 0 ? 'nothing writes any more' : undefined,
);

const generalise = act(
  'generalise',
  () => ({}),
  ({ attributes }) => (attributes.generalised === true ? 'knows no more who it was' : undefined),
);

/** Asked until it is off: an order that was taken is no proof. */
const stop: StepWork = async (now) => {
  if (now.step.operation === null && (await presentNow(now)).state === 'stopping')
    return wait('is still stopping');
  return powerOff(now);
};

const powerOff = act(
  'power-off',
  () => ({}),
  ({ state }) => (state === 'off' ? 'is really off' : undefined),
);

const capture = make(async (now) => ({
  machine: await refOf(now, String(now.resource.attributes.machine ?? '')),
}));

/** A copy is made of what stands where it was captured: through the provider there, which may be another. */
const copy = make(async (now) => {
  const { copyOf } = now.resource.attributes;
  const source = await now.find(String(copyOf ?? ''));
  const present = source && (await now.standingOf(source));
  if (!source || !present || present.state === 'gone')
    throw new OutsideError('provider', 'says: what it is a copy of is not there', 'lasting');
  const { gib = 0, programs = [], image = '' } = present.attributes;
  return { copyOf: present.ref, from: source.site, gib, programs, image };
});

export const imageWork: ResourceWork = {
  read: (present) => {
    const { condition, attributes } = readPlainly(present);
    const { gib = 0, programs = [] } = attributes;
    return { condition, attributes: { gib, programs } };
  },
  actions: {
    apply,
    settle: on(settle),
    generalise: on(generalise),
    stop: on(stop),
    capture,
    copy,
    remove,
  },
};
