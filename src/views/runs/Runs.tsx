import type { Page, Run } from '../../contract';
import { writeSpan, writeWhen } from '../../client/format';
import { useList } from '../../client/list';
import { Chip } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { RUN_TONE } from '../shared/words';
import { Empty, Panel } from '../../ui/Panel';
import { Progress } from '../../ui/Progress';
import { Table, type Column } from '../../ui/Table';

interface Props {
  /** The API path of the list, and of its live events. */
  readonly path: string;
  readonly events: string;
  readonly initial: Page<Run>;
  readonly zone: string;
  /** Marks by code: on pages across customers. */
  readonly marks?: Readonly<Record<string, MarkLook>>;
}

export function Runs({ path, events, initial, zone, marks }: Props) {
  const list = useList<Run>(path, initial, events, (change) => change.topic === 'run');
  const columns: Column<Run>[] = [
    {
      id: 'title',
      title: 'Run',
      value: (run) => run.title,
      cell: (run) => <a href={`/customers/${run.customer}/runs/${run.id}`}>{run.title}</a>,
    },
    {
      id: 'state',
      title: 'State',
      value: (run) => run.state,
      cell: (run) => (
        <Chip tone={RUN_TONE[run.state]}>
          {run.state}
          {run.cause !== null && `, ${run.cause}`}
        </Chip>
      ),
    },
    {
      id: 'steps',
      title: 'Steps',
      value: (run) => run.done / Math.max(1, run.steps),
      cell: (run) => (
        <span style={{ display: 'grid', gap: 3, minWidth: 110, fontSize: 13 }}>
          {run.done} of {run.steps}
          {run.failed > 0 && `, ${run.failed} failed`}
          <Progress
            done={run.done}
            failed={run.failed}
            total={run.steps}
            label={`${run.done} of ${run.steps} steps`}
          />
        </span>
      ),
    },
    {
      id: 'by',
      title: 'By',
      value: (run) => run.actor,
      cell: (run) => <span style={{ whiteSpace: 'nowrap' }}>{run.actor}</span>,
    },
    { id: 'reason', title: 'Why', value: (run) => run.reason },
    {
      id: 'begun',
      title: 'Begun',
      value: (run) => run.begunAt,
      cell: (run) => writeWhen(run.begunAt, zone),
      figure: true,
    },
    {
      id: 'took',
      title: 'Took',
      value: (run) => (run.endedAt ?? run.begunAt) - run.begunAt,
      cell: (run) => (run.endedAt === null ? '' : writeSpan((run.endedAt - run.begunAt) / 1000)),
      figure: true,
    },
  ];
  if (marks)
    columns.unshift({
      id: 'customer',
      title: 'Customer',
      value: (run) => run.customer,
      cell: (run) => {
        const mark = marks[run.customer];
        return mark ? <Mark mark={mark} size={26} /> : run.customer;
      },
    });
  return (
    <Panel title="Runs" flush>
      <Table
        rows={list.entries}
        find={{ text: list.find, onText: list.setFind }}
        more={list.whole ? undefined : list.more}
        columns={columns}
        idOf={(run) => run.id}
        label="runs"
        empty={<Empty says="No run yet." />}
        height={620}
      />
    </Panel>
  );
}
