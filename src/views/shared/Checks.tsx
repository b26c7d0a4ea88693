import type { Check } from '../../core/planning';
import { Chip, type ChipTone } from '../../ui/Chip';
import styles from './Checks.module.css';

const TONE: Readonly<Record<Check['state'], ChipTone>> = { passes: 'good', warns: 'care', blocks: 'bad' };

/** Every check; those that do not pass first, each with what to do. */
export function Checks({ checks }: { readonly checks: readonly Check[] }) {
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
          </span>
        </li>
      ))}
    </ul>
  );
}
