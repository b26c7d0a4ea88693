import type { CustomerSummary, Watch } from '../../contract';
import type { Money } from '../../core/money';
import { writeMoney } from '../../client/format';
import { useLive } from '../../client/live';
import { Mark } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { WATCH } from '../shared/questions';
import styles from './MoneyAcross.module.css';

/** Who is charged how much this month? One chart for each currency: their amounts are never compared. */
export function MoneyAcross({ initial }: { readonly initial: Watch }) {
  const { value } = useLive(WATCH, initial, '/events', (change) => change.topic === 'summary');
  const currencies = [...new Set(value.customers.map((one) => one.soFar.currency))];
  if (currencies.length === 0) return <Empty says="You reach no customer yet." />;
  return (
    <div className={styles.page}>
      <h1 className="sr">Money</h1>
      {currencies.map((currency) => (
        <OfCurrency
          key={currency}
          currency={currency}
          customers={value.customers.filter((one) => one.soFar.currency === currency)}
        />
      ))}
    </div>
  );
}

function OfCurrency({
  currency,
  customers,
}: {
  readonly currency: string;
  readonly customers: readonly CustomerSummary[];
}) {
  const most = Math.max(1, ...customers.map((one) => one.forecast.minor));
  const sorted = [...customers].sort((a, b) => b.forecast.minor - a.forecast.minor);
  const total = (of: (one: CustomerSummary) => Money): Money => ({
    minor: customers.reduce((sum, one) => sum + of(one).minor, 0),
    currency,
  });
  return (
    <Panel
      title={`This month in ${currency}`}
      side={
        <span>
          <b>{writeMoney(total((one) => one.soFar))}</b> so far, {writeMoney(total((one) => one.forecast))} by
          its end
        </span>
      }
    >
      <ul className={styles.bars}>
        {sorted.map((one) => (
          <li key={one.code}>
            <a href={`/customers/${one.code}/costs`}>
              <Mark mark={one.mark} size={26} />
              <span className={styles.name}>{one.name}</span>
              <span className={styles.track} aria-hidden="true">
                <span
                  className={styles.forecast}
                  style={{ width: `${(one.forecast.minor / most) * 100}%` }}
                />
                <span className={styles.soFar} style={{ width: `${(one.soFar.minor / most) * 100}%` }} />
              </span>
              <b>{writeMoney(one.soFar)}</b>
              <small>{writeMoney(one.forecast)}</small>
            </a>
          </li>
        ))}
      </ul>
    </Panel>
  );
}
