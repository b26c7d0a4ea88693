import type { Orphan } from '../../contract';
import type { Money } from '../../core/money';
import { count, writeDay, writeMoney } from '../../client/format';
import { Panel } from '../../ui/Panel';
import styles from './Ground.module.css';

/** What stands at the providers and nothing wants: whose it seems to be, since when, and what it costs a month. */
export function Orphans({ orphans }: { readonly orphans: readonly Orphan[] }) {
  if (orphans.length === 0) return null;
  return (
    <Panel
      title={count(orphans.length, 'orphan', 'orphans')}
      side={<b>{totals(orphans).map(writeMoney).join(' + ')} a month</b>}
    >
      <ul className={styles.orphans}>
        {orphans.map((one) => (
          <li key={`${one.provider} ${one.ref}`}>
            <span className="mono">{one.name}</span>
            <span>
              {one.kind} at {one.site}, since {writeDay(one.madeAt, 'UTC')}
            </span>
            <Whose orphan={one} />
            <b>{one.monthly === null ? 'no price in force' : writeMoney(one.monthly)}</b>
          </li>
        ))}
      </ul>
    </Panel>
  );
}

/** What is an environment's can be mended there; what is nobody's, only where it was made. */
function Whose({ orphan }: { readonly orphan: Orphan }) {
  const { customer, environment, environmentId } = orphan;
  if (customer === null)
    return (
      <span>
        nobody’s we know; <code>{orphan.ref}</code> at the provider
      </span>
    );
  if (environmentId === null) return <a href={`/customers/${customer}`}>{customer}</a>;
  return (
    <a href={`/customers/${customer}/environments/${environmentId}`}>
      {customer} {environment}: mend it there
    </a>
  );
}

/** One sum for each currency. */
function totals(orphans: readonly Orphan[]): Money[] {
  const sums = new Map<string, number>();
  for (const { monthly } of orphans)
    if (monthly) sums.set(monthly.currency, (sums.get(monthly.currency) ?? 0) + monthly.minor);
  return [...sums].map(([currency, minor]) => ({ currency, minor }));
}
