import type { Step } from '../../contract';
import { writeSpan, writeWhen } from '../../client/format';
import { Chip, type ChipTone } from '../../ui/Chip';
import { Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { stepWords } from './words';

const TONE: Readonly<Record<Step['state'], ChipTone>> = {
  done: 'good',
  overtaken: 'quiet',
  working: 'busy',
  failed: 'bad',
  waiting: 'quiet',
};

/** What each step did and took. */
export function StepList({ steps, zone }: { readonly steps: readonly Step[]; readonly zone: string }) {
  const columns: readonly Column<Step>[] = [
    { id: 'kind', title: 'Step', value: stepWords },
    {
      id: 'subject',
      title: 'Of',
      value: (step) => step.subject,
      cell: (step) => <span className="mono">{step.subject}</span>,
    },
    {
      id: 'state',
      title: 'State',
      value: (step) => step.state,
      cell: (step) => <Chip tone={TONE[step.state]}>{step.state}</Chip>,
    },
    {
      id: 'says',
      title: 'What it did',
      value: (step) =>
        step.attempt > 0 && step.state === 'working' ? `${step.says}, try ${step.attempt + 1}` : step.says,
    },
    {
      id: 'began',
      title: 'Began',
      value: (step) => step.beganAt ?? 0,
      cell: (step) => (step.beganAt === null ? '' : writeWhen(step.beganAt, zone)),
      figure: true,
    },
    {
      id: 'took',
      title: 'Took',
      value: (step) => (step.endedAt ?? 0) - (step.beganAt ?? 0),
      cell: (step) =>
        step.endedAt === null || step.beganAt === null ? '' : writeSpan((step.endedAt - step.beganAt) / 1000),
      figure: true,
    },
    {
      id: 'expected',
      title: 'Expected',
      value: (step) => step.expectedSeconds,
      cell: (step) => writeSpan(step.expectedSeconds),
      figure: true,
      hidden: true,
    },
  ];
  return (
    <Panel title="All steps" flush>
      <Table
        rows={steps}
        columns={columns}
        idOf={(step) => step.id}
        label="steps"
        empty={null}
        height={420}
      />
    </Panel>
  );
}
