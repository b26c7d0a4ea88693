import type { CustomerSummary } from '../../contract';
import { GROUPINGS, type Choice, type Grouping } from './choose';
import styles from './Many.module.css';

/** What chooses among many customers, in one line. */
export function Choices({
  choice,
  onChoice,
  customers,
}: {
  readonly choice: Choice;
  readonly onChoice: (choice: Choice) => void;
  readonly customers: readonly CustomerSummary[];
}) {
  const pick = (key: 'site' | 'plan' | 'status', label: string, values: readonly string[]) => (
    <label>
      <span>{label}</span>
      <select
        value={choice[key]}
        data-set={choice[key] !== '' || undefined}
        onChange={(event) => onChoice({ ...choice, [key]: event.target.value })}
      >
        <option value="">any</option>
        {[...new Set(values)].sort().map((value) => (
          <option key={value}>{value}</option>
        ))}
      </select>
    </label>
  );
  return (
    <div className={styles.choices} role="search">
      <input
        type="search"
        placeholder="Name or code"
        aria-label="Find among the customers"
        value={choice.find}
        onChange={(event) => onChoice({ ...choice, find: event.target.value })}
      />
      {pick(
        'site',
        'Site',
        customers.map((one) => one.site),
      )}
      {pick(
        'plan',
        'Plan',
        customers.map((one) => one.plan),
      )}
      {pick(
        'status',
        'Status',
        customers.map((one) => one.state),
      )}
      <label>
        <input
          type="checkbox"
          checked={choice.mine}
          onChange={(event) => onChoice({ ...choice, mine: event.target.checked })}
        />
        <span>Mine of late</span>
      </label>
      <label className={styles.by}>
        <span>Group by</span>
        <select
          value={choice.by}
          onChange={(event) => onChoice({ ...choice, by: event.target.value as Grouping })}
        >
          {GROUPINGS.map((by) => (
            <option key={by}>{by}</option>
          ))}
        </select>
      </label>
    </div>
  );
}
