import type { CustomerSummary } from '../../contract';
import type { Money } from '../../core/money';
import { count, writeRoundMoney } from '../../client/format';
import { Figure, Figures } from '../../ui/Panel';

/** All customers together. */
export function Totals({ customers }: { readonly customers: readonly CustomerSummary[] }) {
  const total = (of: (one: CustomerSummary) => number): number =>
    customers.reduce((sum, one) => sum + of(one), 0);
  return (
    <Figures>
      <Figure
        value={total((one) => one.peopleIn).toLocaleString('en')}
        label="people in"
        note={`${total((one) => one.seatsFree).toLocaleString('en')} seats free`}
      />
      <Figure
        value={total((one) => one.hosts).toLocaleString('en')}
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
