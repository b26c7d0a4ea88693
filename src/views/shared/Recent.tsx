import type { Recent as RecentEntry } from '../../contract';
import type { ReactNode } from 'react';
import { writeWhen } from '../../client/format';
import { Panel } from '../../ui/Panel';
import styles from './Recent.module.css';

/** What happened when, the newest first: each with what it was, and a line beneath. */
export function Times({
  zone,
  of,
}: {
  readonly zone: string;
  readonly of: readonly {
    readonly key: string;
    readonly at: number;
    readonly what: ReactNode;
    readonly beneath: ReactNode;
  }[];
}) {
  return (
    <ul className={styles.times}>
      {of.map(({ key, at, what, beneath }) => (
        <li key={key}>
          <span>{writeWhen(at, zone)}</span>
          <b>{what}</b>
          <small>{beneath}</small>
        </li>
      ))}
    </ul>
  );
}

/** What was done lately; what was a run leads there. */
export const Recent = ({
  code,
  zone,
  entries,
  none,
}: {
  readonly code: string;
  readonly zone: string;
  readonly entries: readonly RecentEntry[];
  /** What is said where nothing was. */
  readonly none: string;
}) => (
  <Panel title="Lately">
    {entries.length === 0 && <p className={styles.quiet}>{none}</p>}
    <Times
      zone={zone}
      of={entries.map(({ id, at, run, action, subject, actor }) => ({
        key: id,
        at,
        what: run === null ? action : <a href={`/customers/${code}/runs/${run}`}>{action}</a>,
        beneath: `${subject}, ${actor}`,
      }))}
    />
  </Panel>
);
