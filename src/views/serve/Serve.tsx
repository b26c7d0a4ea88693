import { get } from '../../client/api';
import { writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { Chip } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';

export interface SessionShort {
  readonly id: string;
  readonly customer: string;
  readonly account: string;
  readonly person: string | null;
  readonly host: string;
  readonly environment: string | null;
  readonly environmentId: string | null;
  readonly state: 'active' | 'idle';
  readonly since: number;
}

interface Props {
  readonly initial: readonly SessionShort[];
  readonly marks: Readonly<Record<string, MarkLook>>;
}

/** More than this are not read at once: the line above the table says so. */
const MOST = 1000;

/** Who is signed in where? */
export function Serve({ initial, marks }: Props) {
  const { value } = useLive<readonly SessionShort[]>(
    initial,
    async () => (await get<{ entries: SessionShort[] }>(`/sessions?limit=${MOST}`)).entries,
    '/events',
    (change) => change.topic === 'environment',
  );
  const idle = value.filter((one) => one.state === 'idle').length;
  const columns: readonly Column<SessionShort>[] = [
    {
      id: 'customer',
      title: 'Customer',
      value: (row) => row.customer,
      cell: (row) => {
        const mark = marks[row.customer];
        return mark ? <Mark mark={mark} size={26} /> : row.customer;
      },
      width: '90px',
    },
    { id: 'person', title: 'Person', value: (row) => row.person ?? row.account },
    {
      id: 'account',
      title: 'Account',
      value: (row) => row.account,
      cell: (row) => <span className="mono">{row.account}</span>,
    },
    {
      id: 'state',
      title: 'Session',
      value: (row) => row.state,
      cell: (row) => <Chip tone={row.state === 'active' ? 'good' : 'quiet'}>{row.state}</Chip>,
    },
    {
      id: 'host',
      title: 'Host',
      value: (row) => row.host,
      cell: (row) =>
        row.environmentId === null ? (
          row.host
        ) : (
          <a className="mono" href={`/customers/${row.customer}/environments/${row.environmentId}`}>
            {row.host}
          </a>
        ),
    },
    { id: 'environment', title: 'Environment', value: (row) => row.environment ?? '' },
    {
      id: 'since',
      title: 'Since (UTC)',
      value: (row) => row.since,
      cell: (row) => writeWhen(row.since, 'UTC'),
      figure: true,
    },
  ];
  return (
    <Panel
      title={
        value.length < MOST ? `${value.length} sessions, ${idle} of them idle` : `The first ${MOST} sessions`
      }
      flush
    >
      <Table
        rows={value}
        columns={columns}
        idOf={(row) => row.id}
        label="sessions"
        empty={<Empty says="Nobody is signed in at the moment." />}
        height={640}
      />
    </Panel>
  );
}
