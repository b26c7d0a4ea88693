import type { ReactNode } from 'react';
import styles from './BarCell.module.css';

/** A figure with a bar behind it, for the cell of a table: `part` of the whole is solid, `more` is outlined beyond it. */
export function BarCell({
  part,
  more,
  children,
}: {
  /** From 0 to 1. */
  readonly part: number;
  /** From 0 to 1, and no less than `part` to be seen. */
  readonly more?: number;
  readonly children: ReactNode;
}) {
  const width = (of: number): string => `${Math.round(1_000 * Math.max(0, Math.min(1, of))) / 10}%`;
  return (
    <span className={styles.cell}>
      <span className={styles.track} aria-hidden="true">
        {more !== undefined && more > 0 && <i className={styles.more} style={{ width: width(more) }} />}
        {part > 0 && <i className={styles.part} style={{ width: width(part) }} />}
      </span>
      <span>{children}</span>
    </span>
  );
}
