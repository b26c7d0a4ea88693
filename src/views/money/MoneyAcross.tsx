import { useState } from 'react';
import type { CustomerSummary, Watch } from '../../contract';
import type { Money } from '../../core/money';
import { count as counted, writeMoney, writeRoundMoney } from '../../client/format';
import { useLive } from '../../client/live';
import { BarCell } from '../../ui/BarCell';
import { Mark } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import { NoCustomer } from '../shared/NoCustomer';
import { WATCH } from '../shared/questions';
import styles from './MoneyAcross.module.css';

/** Few enough for every currency to stand below the other. */
const FEW = 24;

/** Who is charged how much this month? Each currency by itself: their amounts are never compared. */
export function MoneyAcross({
  initial,
  count,
}: {
  readonly initial: Watch;
  /** Of many, only the first come with the page: how many there are. */
  readonly count: number;
}) {
  const { value } = useLive(WATCH, initial, '/events', (change) => change.topic === 'summary');
  const [chosen, setChosen] = useState<string>();
  const currencies = byCurrency(value.customers);
  const [first] = currencies;
  if (!first) return <NoCustomer />;
  const open = currencies.find((one) => one.currency === chosen) ?? first;
  const isWhole = value.customers.length >= count;
  return (
    <div className={styles.page}>
      <h1 className="sr">Money</h1>
      {!isWhole && <p>Counting {count} customers …</p>}
      {count > FEW && (
        <div className={styles.currencies} role="group" aria-label="Currency">
          {currencies.map((one) => (
            <button
              key={one.currency}
              type="button"
              aria-pressed={one === open}
              onClick={() => setChosen(one.currency)}
            >
              <b>{isWhole ? writeRoundMoney(sum(one.customers, (each) => each.soFar)) : one.currency}</b>
              <span>
                {isWhole && `forecast ${writeRoundMoney(sum(one.customers, (each) => each.forecast))}, `}
                {counted(one.customers.length, 'customer', 'customers')}
              </span>
            </button>
          ))}
        </div>
      )}
      {(count > FEW ? [open] : currencies).map((one) => (
        <OfCurrency key={one.currency} {...one} isWhole={isWhole} height={count > FEW ? 560 : 420} />
      ))}
    </div>
  );
}

interface InCurrency {
  readonly currency: string;
  readonly customers: readonly CustomerSummary[];
}

/** The currency of the most customers first. */
function byCurrency(customers: readonly CustomerSummary[]): InCurrency[] {
  const currencies = [...new Set(customers.map((one) => one.soFar.currency))];
  return currencies
    .map((currency) => ({
      currency,
      customers: customers
        .filter((one) => one.soFar.currency === currency)
        .sort((a, b) => b.forecast.minor - a.forecast.minor || (a.code < b.code ? -1 : 1)),
    }))
    .sort((a, b) => b.customers.length - a.customers.length || (a.currency < b.currency ? -1 : 1));
}

const sum = (customers: readonly CustomerSummary[], of: (one: CustomerSummary) => Money): Money => ({
  minor: customers.reduce((total, one) => total + of(one).minor, 0),
  currency: customers[0]?.soFar.currency ?? '',
});

const columnsFor = (most: number, total: number): readonly Column<CustomerSummary>[] => [
  {
    id: 'name',
    title: 'Customer',
    value: (row) => `${row.name} ${row.code}`,
    cell: (row) => (
      <a href={`/customers/${row.code}/costs`} className={styles.name}>
        <Mark mark={row.mark} size={26} />
        {row.name}
      </a>
    ),
  },
  {
    id: 'soFar',
    title: 'So far, and forecast',
    value: (row) => row.soFar.minor,
    cell: (row) => (
      <BarCell part={row.soFar.minor / most} more={row.forecast.minor / most}>
        {writeMoney(row.soFar)}
      </BarCell>
    ),
    figure: true,
    width: '40%',
  },
  {
    id: 'forecast',
    title: 'Forecast',
    value: (row) => row.forecast.minor,
    cell: (row) => writeMoney(row.forecast),
    figure: true,
  },
  {
    id: 'share',
    title: 'Of the total',
    value: (row) => (total === 0 ? 0 : row.forecast.minor / total),
    cell: (row) => (total === 0 ? '' : `${((100 * row.forecast.minor) / total).toFixed(1)} %`),
    figure: true,
  },
  { id: 'people', title: 'People', value: (row) => row.people, figure: true },
  {
    id: 'each',
    title: 'Per person',
    value: (row) => (row.people === 0 ? 0 : row.forecast.minor / row.people),
    cell: (row) =>
      row.people === 0
        ? ''
        : writeMoney({ ...row.forecast, minor: Math.round(row.forecast.minor / row.people) }),
    figure: true,
  },
  { id: 'plan', title: 'Plan', value: (row) => row.plan, hidden: true },
];

function OfCurrency({
  currency,
  customers,
  isWhole,
  height,
}: InCurrency & { readonly isWhole: boolean; readonly height: number }) {
  const most = Math.max(1, ...customers.map((one) => one.forecast.minor));
  const [soFar, forecast] = [sum(customers, (one) => one.soFar), sum(customers, (one) => one.forecast)];
  return (
    <Panel
      title={`This month in ${currency}`}
      side={
        isWhole && (
          <span>
            <b>{writeMoney(soFar)}</b> so far, forecast {writeMoney(forecast)}
          </span>
        )
      }
      flush
    >
      <Table
        rows={customers}
        columns={columnsFor(most, isWhole ? forecast.minor : 0)}
        idOf={(row) => row.code}
        label={`customers in ${currency}`}
        empty={<Empty says="Nobody is charged in it." />}
        height={height}
      />
    </Panel>
  );
}
