import type { PersonCosts } from '../../contract';
import { count, writeMoney, writeSpan } from '../../client/format';
import { Panel } from '../../ui/Panel';
import styles from './PersonPage.module.css';

type Part = PersonCosts['parts'][number];

/** What they cost this month, and of what each part is one. */
export function PersonCost({ costs }: { readonly costs: PersonCosts }) {
  return (
    <Panel title="This month" side={<b className={styles.total}>{writeMoney(costs.total)}</b>}>
      {costs.parts.length === 0 ? (
        <p className={styles.quiet}>
          Nothing yet: no licence seat, no desktop of their own, not in this month.
        </p>
      ) : (
        <ul className={styles.parts}>
          {costs.parts.map((part) => (
            <li key={`${part.environmentId} ${part.pool} ${part.by}`}>
              <span>
                <b>{TITLES[part.by]}</b>
                <small>
                  {part.pool} of {part.environment} · {says(part)}
                </small>
              </span>
              <b>{writeMoney(part.charge)}</b>
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}

const TITLES: Readonly<Record<Part['by'], string>> = {
  licence: 'Licence seat',
  desktop: 'Desktop of their own',
  time: 'Time signed in',
};

function says({ by, own, all, of }: Part): string {
  switch (by) {
    case 'licence':
      return `one of ${count(all, 'seat', 'seats')}`;
    case 'desktop':
      return `of ${writeMoney(of)} for all of them`;
    case 'time':
      return `${writeSpan(own)} of ${writeSpan(all)}, of ${writeMoney(of)}`;
  }
}
