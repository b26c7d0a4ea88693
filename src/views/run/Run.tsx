import type { RunWithSteps, Step } from '../../contract';
import { useState } from 'react';
import { Undo2 } from 'lucide-react';
import { writeWindow } from '../../core/calendar';
import { impactLine, schedule } from '../../core/planning';
import { get, newKey, send } from '../../client/api';
import { count, writeMoney, writeSpan, writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { Chip } from '../../ui/Chip';
import { Button, ButtonLink } from '../../ui/Button';
import { ImpactLine } from '../../ui/ImpactLine';
import { Panel } from '../../ui/Panel';
import type { MarkLook } from '../../ui/Mark';
import type { RingArc } from '../../ui/Ring';
import { Graph } from './Graph';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import { RunControls, RunHead } from './RunHead';
import { RUN_TONE } from '../shared/words';
import styles from './Run.module.css';
import { StepList } from './StepList';
import { stepWords } from './words';

interface Props {
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  readonly initial: RunWithSteps;
  readonly zone: string;
  readonly mayChange: boolean;
}

const STEPS = ['step', 'steps'] as const;

/** What is this run doing now, and when will it end? */
export function Run({ customer, initial, zone, mayChange }: Props) {
  const { code } = customer;
  const here = { customer: code, run: initial.id };
  const { value: run, again } = useLive(
    { key: `run ${initial.id}`, read: () => get('/customers/{customer}/runs/{run}', here) },
    initial,
    `/customers/${code}/events`,
    (change) => change.topic === 'run' && change.id === initial.id,
  );
  const [isUndoing, setIsUndoing] = useState(false);
  const undoing = undoingOf(run);
  const act = (verb: 'stop' | 'resume'): Promise<unknown> =>
    send('POST', `/customers/{customer}/runs/{run}/${verb}`, here, {
      key: newKey(),
      version: run.version,
    }).finally(again);
  return (
    <div className={styles.page}>
      <RunHead
        run={run}
        arcs={ringOf(run)}
        total={run.steps}
        of={STEPS}
        status={
          <Chip tone={RUN_TONE[run.state]}>
            {run.state}
            {run.cause !== null && `, ${run.cause}`}
          </Chip>
        }
        now={nowSays(run, zone)}
        zone={zone}
        impact={<ImpactLine line={impactLine(run.impact, writeMoney)} />}
      >
        {mayChange && <RunControls run={run} of={STEPS} act={act} />}
        {mayChange && undoing && HAS_ENDED.has(run.state) && (
          <Button icon={<Undo2 size={15} aria-hidden="true" />} onPress={() => setIsUndoing(true)}>
            Undo…
          </Button>
        )}
        {mayChange && isUndoneByRetiring(run) && (
          <ButtonLink href={`/customers/${code}/environments/${run.environmentId ?? ''}/retire`}>
            Undo by retiring…
          </ButtonLink>
        )}
        {run.environmentId !== null && (
          <a href={`/customers/${code}/environments/${run.environmentId}`}>See {run.environment}</a>
        )}
      </RunHead>
      <Panel
        title="Steps"
        side={
          <span className={styles.limits}>
            {run.atATime} at a time, stops after {count(run.failureLimit, 'failure', 'failures')}
            {run.policy.window !== undefined && `, ${writeWindow(run.policy.window)}`}
          </span>
        }
      >
        <Graph steps={run.graph} />
      </Panel>
      <StepList steps={run.graph} zone={zone} />
      {isUndoing && undoing && (
        <Confirm customer={customer} {...undoing} onClose={() => setIsUndoing(false)} />
      )}
    </div>
  );
}

const HAS_ENDED: ReadonlySet<RunWithSteps['state']> = new Set(['done', 'stopped']);

/** The change that undoes a run, and of which environment; undefined: there is none. */
function undoingOf({
  environmentId: environment,
  title,
  undoTo,
  undoneBy,
}: RunWithSteps): { readonly environment: string; readonly change: Changing } | undefined {
  if (environment === null) return undefined;
  const change = { verb: 'Undo', what: title };
  if (undoTo !== null)
    return { environment, change: { ...change, kind: 'undo', input: { version: undoTo } } };
  return undoneBy
    ? { environment, change: { ...change, kind: undoneBy.kind, input: { hosts: undoneBy.hosts } } }
    : undefined;
}

/** What made the environment has nothing before it to go back to. */
const isUndoneByRetiring = (run: RunWithSteps): boolean =>
  run.environmentId !== null && run.madeIt && run.impact.undo === 'can be undone' && HAS_ENDED.has(run.state);

const LOOK: Readonly<Record<Step['state'], RingArc>> = {
  done: { look: 'full', parts: 1, fill: 1 },
  overtaken: { look: 'thin', parts: 1, fill: 0 },
  working: { look: 'dashed', parts: 1, fill: 0 },
  failed: { look: 'crossed', parts: 1, fill: 0 },
  waiting: { look: 'full', parts: 1, fill: 0 },
};

function ringOf(run: RunWithSteps): RingArc[] {
  const states: Step['state'][] = ['done', 'overtaken', 'working', 'failed', 'waiting'];
  return states.flatMap((state) => {
    const parts = run.graph.filter((step) => step.state === state).length;
    return parts === 0 ? [] : [{ ...LOOK[state], parts }];
  });
}

/** What happens now and when it will end, counted from the steps that are left. */
function nowSays(run: RunWithSteps, zone: string): string {
  if (run.state === 'done')
    return run.endedAt === null ? '' : `took ${writeSpan((run.endedAt - run.begunAt) / 1000)}`;
  const failed = run.graph.filter((step) => step.state === 'failed');
  if (run.state === 'stopped')
    return failed.length === 0
      ? `${run.steps - run.done} steps are left`
      : failed.map((step) => `${step.subject}: ${step.says}`).join('; ');
  const working = run.graph.filter((step) => step.state === 'working');
  const left = run.graph.filter((step) => step.state !== 'done' && step.state !== 'overtaken');
  const ids = new Set(left.map((step) => step.id));
  const scheduled = schedule(
    left.map((step) => ({
      key: step.id,
      needs: step.needs.filter((need) => ids.has(need)),
      seconds: step.expectedSeconds,
    })),
    run.atATime,
  );
  const seconds = scheduled.ok ? scheduled.value.finish : 0;
  const doing = [...new Set(working.map((step) => stepWords(step)))].join(', ');
  return `${
    doing === ''
      ? waitSays(run, zone)
      : `${doing}: ${working
          .map((step) => step.subject)
          .slice(0, 4)
          .join(', ')}`
  }; at most ${writeSpan(seconds)} left`;
}

/** Why nothing is being done: its window may not have come yet, or be over. */
const waitSays = ({ works }: RunWithSteps, zone: string): string =>
  works === null
    ? 'about to go on'
    : `works from ${writeWhen(works.from, zone)} to ${writeWhen(works.to, zone)}`;
