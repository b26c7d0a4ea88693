import styles from './Progress.module.css';

interface Props {
  readonly done: number;
  readonly failed?: number;
  readonly total: number;
  readonly label: string;
}

/** How far something has come; what failed is striped. */
export function Progress({ done, failed = 0, total, label }: Props) {
  const part = (n: number): string => `${total === 0 ? 0 : (n / total) * 100}%`;
  return (
    <span
      className={styles.progress}
      role="progressbar"
      aria-valuemin={0}
      aria-valuemax={total}
      aria-valuenow={done}
      aria-label={label}
    >
      <span className={styles.done} style={{ width: part(done) }} />
      <span className={styles.failed} style={{ width: part(failed) }} />
    </span>
  );
}
