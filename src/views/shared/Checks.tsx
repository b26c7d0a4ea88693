import type { Check } from '../../core/planning';
import { writeClock } from '../../client/format';
import { Chip, type ChipTone } from '../../ui/Chip';
import styles from './Checks.module.css';
import { fixOf } from './fixes';

const TONE: Readonly<Record<Check['state'], ChipTone>> = { passes: 'good', warns: 'care', blocks: 'bad' };

/** Every check; those that do not pass first, each with what to do and the way to where that is done. */
export function Checks({
  checks,
  customer,
  zone = 'UTC',
}: {
  readonly checks: readonly Check[];
  /** The code of whom they are about. */
  readonly customer: string;
  /** In which the hour is told at which something was asked. */
  readonly zone?: string;
}) {
  const order = ['blocks', 'warns', 'passes'];
  const sorted = [...checks].sort((a, b) => order.indexOf(a.state) - order.indexOf(b.state));
  return (
    <ul className={styles.checks}>
      {sorted.map((check) => (
        <li key={check.key} data-state={check.state}>
          <Chip tone={TONE[check.state]}>{check.title}</Chip>
          <span>
            {check.says}
            {check.do !== undefined && check.do !== '' && <b>{check.do}</b>}
            {check.evidence !== undefined && check.at !== undefined && (
              <small>
                {check.evidence}, {writeClock(check.at, zone)}
              </small>
            )}
          </span>
          <Mend check={check} customer={customer} />
        </li>
      ))}
    </ul>
  );
}

function Mend({ check, customer }: { readonly check: Check; readonly customer: string }) {
  const fix = fixOf(check, customer);
  return (
    fix && (
      <a className={styles.fix} href={fix.href}>
        {fix.says}
      </a>
    )
  );
}
