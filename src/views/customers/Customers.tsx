import type { Customer, CustomerSummary, Watch } from '../../contract';
import { count, writeMoney } from '../../client/format';
import { useLive } from '../../client/live';
import { Chip } from '../../ui/Chip';
import { Mark } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { Table, type Column } from '../../ui/Table';
import { WATCH } from '../shared/questions';
import { ringOf, ringSays } from '../shared/words';

interface Row extends Customer {
  readonly summary: CustomerSummary | undefined;
}

const COLUMNS: readonly Column<Row>[] = [
  {
    id: 'name',
    title: 'Customer',
    value: (row) => `${row.name} ${row.code}`,
    cell: (row) => (
      <a
        href={`/customers/${row.code}`}
        style={{ display: 'flex', gap: 10, alignItems: 'center', color: 'inherit' }}
      >
        <Mark mark={row.mark} size={26} />
        {row.name}
      </a>
    ),
  },
  {
    id: 'hosts',
    title: 'Hosts',
    value: (row) => row.summary?.hosts ?? 0,
    cell: (row) => (
      <span style={{ display: 'flex', gap: 8, alignItems: 'center' }}>
        <Ring arcs={ringOf(row.summary?.arcs ?? [])} size={24} label={ringSays(row.summary?.arcs ?? [])} />
        {row.summary?.hosts ?? 0}
      </span>
    ),
  },
  { id: 'in', title: 'Signed in', value: (row) => row.summary?.peopleIn ?? 0, figure: true },
  { id: 'people', title: 'People', value: (row) => row.people, figure: true },
  { id: 'plan', title: 'Plan', value: (row) => row.plan },
  { id: 'site', title: 'Home site', value: (row) => row.siteName },
  { id: 'zone', title: 'Time zone', value: (row) => row.zone, hidden: true },
  {
    id: 'state',
    title: 'Status',
    value: (row) => row.state,
    cell: (row) => <Chip tone={row.state === 'active' ? 'good' : 'care'}>{row.state}</Chip>,
  },
  {
    id: 'cost',
    title: 'This month',
    value: (row) => row.summary?.soFar.minor ?? 0,
    cell: (row) => (row.summary ? writeMoney(row.summary.soFar) : ''),
    figure: true,
  },
  {
    id: 'forecast',
    title: 'Forecast',
    value: (row) => row.summary?.forecast.minor ?? 0,
    cell: (row) => (row.summary ? writeMoney(row.summary.forecast) : ''),
    figure: true,
  },
];

export function Customers({
  facts,
  initial,
}: {
  readonly facts: readonly Customer[];
  readonly initial: Watch;
}) {
  const { value } = useLive(WATCH, initial, '/events', (change) => change.topic === 'summary');
  const summaries = new Map(value.customers.map((one) => [one.code, one]));
  const rows = facts.map((one): Row => ({ ...one, summary: summaries.get(one.code) }));
  return (
    <Panel title={count(facts.length, 'customer', 'customers')} flush>
      <Table
        rows={rows}
        columns={COLUMNS}
        idOf={(row) => row.code}
        label="customers"
        empty={<Empty says="You reach no customer yet." />}
        height={640}
      />
    </Panel>
  );
}
