import { useState } from 'react';
import type { CustomerSummary, Draft, SavedView, Watch } from '../../contract';
import { count as counted, writeMoney, writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { BarCell } from '../../ui/BarCell';
import { Chip } from '../../ui/Chip';
import { Mark } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { Table, type Column } from '../../ui/Table';
import { NoCustomer } from '../shared/NoCustomer';
import { WATCH } from '../shared/questions';
import { ringOf, ringSays } from '../shared/words';
import { Choices } from './Choices';
import { choiceOf, isChosen, queryOf, tagsOf, type Choice } from './choice';
import { Spread, type Place } from './Spread';
import styles from './Spread.module.css';

const inUse = ({ seats, seatsFree }: CustomerSummary): number => (seats === 0 ? 0 : 1 - seatsFree / seats);

const columnsFor = (most: number): readonly Column<CustomerSummary>[] => [
  {
    id: 'name',
    title: 'Customer',
    value: (row) => `${row.name} ${row.code}`,
    cell: (row) => (
      <a
        href={`/customers/${row.code}`}
        style={{ display: 'flex', gap: 10, alignItems: 'center', color: 'inherit', whiteSpace: 'nowrap' }}
      >
        <Mark mark={row.mark} size={26} />
        {row.name}
      </a>
    ),
  },
  {
    id: 'hosts',
    title: 'Hosts',
    value: (row) => row.hosts,
    cell: (row) => (
      <span style={{ display: 'flex', gap: 8, alignItems: 'center' }}>
        <Ring arcs={ringOf(row.arcs)} size={24} label={ringSays(row.arcs)} />
        {row.hosts}
      </span>
    ),
  },
  {
    id: 'people',
    title: 'People',
    value: (row) => row.people,
    cell: (row) => (
      <BarCell part={row.peopleIn / most} more={row.people / most}>
        {row.people}
      </BarCell>
    ),
    figure: true,
    width: '14%',
  },
  { id: 'in', title: 'Signed in', value: (row) => row.peopleIn, figure: true },
  {
    id: 'seats',
    title: 'Seats in use',
    value: inUse,
    cell: (row) =>
      row.seats === 0 ? '' : <BarCell part={inUse(row)}>{Math.round(100 * inUse(row))} %</BarCell>,
    figure: true,
    width: '13%',
  },
  { id: 'plan', title: 'Plan', value: (row) => row.plan },
  { id: 'site', title: 'Home site', value: (row) => row.site },
  { id: 'tags', title: 'Tags', value: (row) => tagsOf(row).join(', '), hidden: true },
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
    value: (row) => row.soFar.minor,
    cell: (row) => writeMoney(row.soFar),
    figure: true,
  },
  {
    id: 'forecast',
    title: 'Forecast',
    value: (row) => row.forecast.minor,
    cell: (row) => writeMoney(row.forecast),
    figure: true,
    hidden: true,
  },
];

/** Who are they, and how large? */
export function Customers({
  initial,
  count,
  drafts = [],
  views = [],
  query = '',
}: {
  readonly initial: Watch;
  /** Customers half filled in. */
  readonly drafts?: readonly Draft[];
  /** Of many, only the first come with the page: how many there are. */
  readonly count: number;
  /** Views of this list that whoever looks has kept. */
  readonly views?: readonly SavedView[];
  /** What is chosen, as the page's address has it. */
  readonly query?: string;
}) {
  const { value } = useLive(WATCH, initial, '/events', (change) => change.topic === 'summary');
  const [choice, setChoice] = useState(() => choiceOf(query));
  const choose = (next: Choice): void => {
    setChoice(next);
    const written = queryOf(next);
    history.replaceState(null, '', written === '' ? location.pathname : `?${written}`);
  };
  const { plan, site } = choice;
  const picked: Place | undefined = plan !== undefined && site !== undefined ? { plan, site } : undefined;
  const most = Math.max(1, ...value.customers.map((one) => one.people));
  const shown = value.customers.filter((one) => isChosen(one, choice));
  const isAll = queryOf(choice) === '';
  const isWhole = value.customers.length >= count;
  return (
    <div style={{ display: 'grid', gap: 'var(--space-4)' }}>
      {drafts.length > 0 && (
        <Panel title="Half filled in">
          <ul className={styles.drafts}>
            {drafts.map((draft) => (
              <li key={draft.id}>
                <a href={`/customers/new?draft=${draft.id}`}>{draft.title}</a>
                <small>
                  {draft.by}, {writeWhen(draft.at, 'UTC')}
                </small>
              </li>
            ))}
          </ul>
        </Panel>
      )}
      {count > 1 && (
        <Panel title="By plan and home site">
          {isWhole ? (
            <Spread
              customers={value.customers}
              picked={picked}
              onPick={(place) =>
                choose(choiceOf(queryOf({ ...choice, plan: place?.plan ?? '', site: place?.site ?? '' })))
              }
            />
          ) : (
            <p className={styles.counting}>Counting {counted(count, 'customer', 'customers')} …</p>
          )}
        </Panel>
      )}
      <Panel
        title={
          isAll
            ? counted(count, 'customer', 'customers')
            : `${shown.length} of ${counted(count, 'customer', 'customers')}`
        }
        flush
      >
        {isWhole && count > 1 && (
          <Choices customers={value.customers} choice={choice} onChoice={choose} views={views} />
        )}
        <Table
          rows={shown}
          columns={columnsFor(most)}
          idOf={(row) => row.code}
          label="customers"
          empty={<NoCustomer />}
          height={640}
        />
      </Panel>
    </div>
  );
}
