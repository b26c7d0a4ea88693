import type { Mark as MarkOf, ParentPart, ParentWithParts } from '../../contract';
import { OWN_CODE } from '../../contract/own-code';
import { get, newKey, send } from '../../client/api';
import { count, writeSpan, writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { Chip, type ChipTone } from '../../ui/Chip';
import { Mark } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import type { RingArc } from '../../ui/Ring';
import { Table, type Column } from '../../ui/Table';
import { RunControls, RunHead } from '../run/RunHead';
import { ParentStatus } from './ParentStatus';
import styles from './ParentRun.module.css';

interface Props {
  readonly initial: ParentWithParts;
  readonly marks: Readonly<Record<string, MarkOf>>;
  /** Whether whoever looks may stop and resume it. */
  readonly mayControl: boolean;
}

const TONE: Readonly<Record<ParentPart['state'], ChipTone>> = {
  waiting: 'plain',
  working: 'busy',
  done: 'good',
  failed: 'bad',
};

const LOOK: Readonly<Record<ParentPart['state'], Omit<RingArc, 'parts'>>> = {
  done: { look: 'full', fill: 1 },
  working: { look: 'dashed', fill: 0 },
  failed: { look: 'crossed', fill: 0 },
  waiting: { look: 'full', fill: 0 },
};
const STATES = ['done', 'working', 'failed', 'waiting'] as const;

const PARTS = ['part', 'parts'] as const;

/** How far has it come, and which of its parts are stuck? */
export function ParentRun({ initial, marks, mayControl }: Props) {
  const here = { parent: initial.id };
  const { value: run, again } = useLive(
    { key: `parent run ${initial.id}`, read: () => get('/parent-runs/{parent}', here) },
    initial,
    '/events',
    (change) => change.topic === 'run',
  );
  const act = (verb: 'stop' | 'resume' | 'end'): Promise<unknown> =>
    send('POST', `/parent-runs/{parent}/${verb}`, here, { key: newKey(), version: run.version }).finally(
      again,
    );
  const arcs = STATES.flatMap((state) => {
    const parts = run.list.filter((part) => part.state === state).length;
    return parts === 0 ? [] : [{ ...LOOK[state], parts }];
  });
  return (
    <div className={styles.page}>
      <RunHead
        run={run}
        arcs={arcs}
        total={run.parts}
        of={PARTS}
        status={<ParentStatus run={run} />}
        now={nowSays(run)}
        zone="UTC"
      >
        {mayControl && <RunControls run={run} of={PARTS} act={act} end={() => act('end')} />}
      </RunHead>
      <Panel title="Parts" side={<span className={styles.limits}>{policySays(run)}</span>} flush>
        <Table
          rows={run.list}
          columns={columnsFor(marks)}
          idOf={(part) => `${part.customer} ${part.about} ${part.run ?? ''}`}
          label="parts"
          empty={<Empty says="None of its parts is in your reach." />}
          height={560}
        />
      </Panel>
    </div>
  );
}

const columnsFor = (marks: Props['marks']): Column<ParentPart>[] => [
  {
    id: 'customer',
    title: 'Customer',
    value: (part) => part.customer,
    cell: (part) => {
      const mark = marks[part.customer];
      if (part.customer === OWN_CODE) return part.customer;
      return (
        <a className={styles.customer} href={`/customers/${part.customer}`}>
          {mark && <Mark mark={mark} size={24} />}
          {part.customer}
        </a>
      );
    },
  },
  { id: 'about', title: 'What', value: (part) => part.about },
  {
    id: 'state',
    title: 'State',
    value: (part) => STATES.indexOf(part.state),
    cell: (part) => <Chip tone={TONE[part.state]}>{part.state}</Chip>,
  },
  {
    id: 'says',
    title: 'Says',
    value: (part) => part.says,
    cell: (part) =>
      part.run === null ? (
        part.says
      ) : (
        <a href={`/customers/${part.customer}/runs/${part.run}`}>{part.says}</a>
      ),
  },
  {
    id: 'ended',
    title: 'Ended',
    value: (part) => part.endedAt ?? 0,
    cell: (part) => (part.endedAt === null ? '' : writeWhen(part.endedAt, 'UTC')),
    figure: true,
  },
];

function nowSays(run: ParentWithParts): string {
  const working = run.list.filter(({ state }) => state === 'working');
  const failed = run.failed > 0 ? `${run.failed} failed` : '';
  const left = run.list.filter(({ state }) => state === 'waiting').length;
  if (run.cause === 'ended by hand')
    return [failed, left > 0 ? `${left} not begun` : ''].filter(Boolean).join(', ');
  if (run.state === 'done')
    return run.endedAt === null ? '' : `took ${writeSpan((run.endedAt - run.begunAt) / 1000)}`;
  if (run.state === 'stopped')
    return [failed, left > 0 ? `${left} have not begun` : ''].filter(Boolean).join(', ');
  const doing = working
    .slice(0, 4)
    .map(({ customer, about }) => `${customer} ${about}`)
    .join(', ');
  return [doing, failed].filter(Boolean).join('; ');
}

/** How it goes about them, in one line. */
function policySays({
  policy: { atATime, pilots, pauseMinutes, failureLimit },
  parts,
}: ParentWithParts): string {
  return [
    `${atATime} at a time`,
    ...(pilots > 0 ? [`the first${pilots === 1 ? '' : ` ${pilots}`} before all others`] : []),
    ...(pauseMinutes > 0 ? [`${count(pauseMinutes, 'minute', 'minutes')} between groups`] : []),
    failureLimit >= parts
      ? 'goes on past failures'
      : `stops after ${count(failureLimit, 'failure', 'failures')}`,
  ].join(', ');
}
