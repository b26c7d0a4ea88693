import type { CustomerSummary } from '../../contract';
import type { Money } from '../../core/money';
import { count, writeFigure, writeRoundMoney } from '../../client/format';
import { Figure, Figures } from '../../ui/Panel';
import styles from './Many.module.css';

/** All customers together. */
export function Totals({ customers }: { readonly customers: readonly CustomerSummary[] }) {
  const total = (of: (one: CustomerSummary) => number): number =>
    customers.reduce((sum, one) => sum + of(one), 0);
  return (
    <Figures>
      <Figure
        value={total((one) => one.peopleIn)}
        label="people in"
        note={`${writeFigure(total((one) => one.seatsFree))} seats free`}
      />
      <Figure
        value={total((one) => one.hosts)}
        label="hosts"
        note={count(customers.length, 'customer', 'customers')}
      />
      {sumsOf(customers).map(({ soFar, forecast }) => (
        <Figure
          key={soFar.currency}
          value={writeRoundMoney(soFar)}
          label="charged this month"
          note={`forecast ${writeRoundMoney(forecast)}`}
        />
      ))}
    </Figures>
  );
}

/** The same on one line. */
export function TotalsInShort({ customers }: { readonly customers: readonly CustomerSummary[] }) {
  const total = (of: (one: CustomerSummary) => number): string =>
    writeFigure(customers.reduce((sum, one) => sum + of(one), 0));
  return (
    <p className={styles.short}>
      <span>
        <b>{total((one) => one.peopleIn)}</b> people in, {total((one) => one.seatsFree)} seats free
      </span>
      <span>
        <b>{total((one) => one.hosts)}</b> hosts
      </span>
      {sumsOf(customers).map(({ soFar, forecast }) => (
        <span key={soFar.currency} title={`this month so far; forecast ${writeRoundMoney(forecast)}`}>
          <b>{writeRoundMoney(soFar)}</b>
        </span>
      ))}
    </p>
  );
}

/** One sum for each currency: amounts of different currencies are never added. */
function sumsOf(customers: readonly CustomerSummary[]): { soFar: Money; forecast: Money }[] {
  const sums = new Map<string, { soFar: number; forecast: number }>();
  for (const { soFar, forecast } of customers) {
    const before = sums.get(soFar.currency) ?? { soFar: 0, forecast: 0 };
    sums.set(soFar.currency, {
      soFar: before.soFar + soFar.minor,
      forecast: before.forecast + forecast.minor,
    });
  }
  return [...sums].map(([currency, { soFar, forecast }]) => ({
    soFar: { minor: soFar, currency },
    forecast: { minor: forecast, currency },
  }));
}
