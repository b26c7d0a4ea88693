import type { ChargeLine, MonthCosts } from '../../contract';
import { Download } from 'lucide-react';
import type { Money } from '../../core/money';
import { minorDigits } from '../../core/currency';
import { count, writeDay, writeMoney, writeMonth, writePrice, writeQuantity } from '../../client/format';
import { ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import styles from './Costs.module.css';
import { DayChart } from './DayChart';

interface Props {
  readonly code: string;
  readonly costs: MonthCosts;
  /** Months that can be looked at, newest first. */
  readonly months: readonly string[];
  readonly sizes: Readonly<Record<string, string>>;
}

/** What did this customer use this month, and what is charged for it? */
export function Costs({ code, costs, months, sizes }: Props) {
  const over = costs.total.minor === costs.forecast.minor;
  const columns: readonly Column<ChargeLine>[] = [
    { id: 'environment', title: 'Environment', value: (line) => line.environment },
    { id: 'pool', title: 'Pool', value: (line) => line.pool },
    {
      id: 'meter',
      title: 'Used',
      value: (line) => `${line.meter} ${line.size === null ? '' : (sizes[line.size] ?? line.size)}`,
    },
    {
      id: 'from',
      title: 'From',
      value: (line) => line.from,
      cell: (line) => writeDay(line.from, costs.zone),
      figure: true,
    },
    {
      id: 'to',
      title: 'To',
      value: (line) => line.to,
      cell: (line) => writeDay(line.to, costs.zone),
      figure: true,
    },
    {
      id: 'quantity',
      title: 'Quantity',
      value: (line) => line.quantity,
      cell: (line) => `${writeQuantity(line.quantity)} ${line.unit}s`,
      figure: true,
    },
    {
      id: 'price',
      title: 'Price',
      value: (line) => Number(line.price),
      cell: (line) => `${writePrice(line.price, line.charge.currency)} a ${line.unit}`,
      figure: true,
    },
    {
      id: 'charge',
      title: 'Charge',
      value: (line) => line.charge.minor,
      cell: (line) => writeMoney(line.charge),
      figure: true,
    },
  ];
  return (
    <div className={styles.page}>
      <header className={styles.head}>
        <Figures>
          <Figure
            value={writeMoney(costs.total)}
            label={over ? writeMonth(costs.month) : `${writeMonth(costs.month)} so far`}
          />
          {!over && (
            <Figure value={writeMoney(costs.forecast)} label="forecast" note="as the last weeks ran" />
          )}
          {poolsOf(costs.lines).map(({ pool, charge }) => (
            <Figure key={pool} value={writeMoney(charge)} label={pool} />
          ))}
        </Figures>
        <label className={styles.month}>
          <span className="sr">Month</span>
          <select value={costs.month} onChange={(event) => location.assign(`?month=${event.target.value}`)}>
            {months.map((month) => (
              <option key={month} value={month}>
                {writeMonth(month)}
              </option>
            ))}
          </select>
        </label>
      </header>
      {costs.unpriced > 0 && (
        <Chip tone="bad">
          {count(costs.unpriced, 'use has no rate and is', 'uses have no rate and are')} not charged
        </Chip>
      )}
      {costs.days.length > 0 && (
        <Panel title="Each day">
          <DayChart
            days={costs.days}
            digits={minorDigits(costs.total.currency)}
            currency={costs.total.currency}
          />
        </Panel>
      )}
      <Panel title="Charge lines" flush>
        <Table
          rows={costs.lines}
          columns={columns}
          idOf={(line) => `${line.environment} ${line.pool} ${line.meter} ${line.size ?? ''} ${line.from}`}
          label="charge lines"
          tools={
            <ButtonLink
              kind="quiet"
              icon={<Download size={16} aria-hidden="true" />}
              href={`/api/v1/customers/${code}/charges.csv?month=${costs.month}`}
            >
              CSV
            </ButtonLink>
          }
          empty={<Empty says={`Nothing was used in ${writeMonth(costs.month)}.`} />}
        />
      </Panel>
    </div>
  );
}

/** What is charged for no pool is charged for the plan; what is taken off again is in that. */
function nameOf({ environment, pool, meter, quantity }: ChargeLine): string {
  if (pool !== '') return `${environment} ${pool}`;
  return quantity < 0 ? 'included in the plan' : meter;
}

function poolsOf(lines: readonly ChargeLine[]): { pool: string; charge: Money }[] {
  const pools = new Map<string, Money>();
  for (const line of lines) {
    const name = nameOf(line);
    const before = pools.get(name)?.minor ?? 0;
    pools.set(name, { minor: before + line.charge.minor, currency: line.charge.currency });
  }
  return [...pools].map(([pool, charge]) => ({ pool, charge }));
}
