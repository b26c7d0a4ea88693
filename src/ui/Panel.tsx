import type { ReactNode } from 'react';
import styles from './Panel.module.css';

/** A sheet with a heading; `side` stands at the heading's right. */
export function Panel({
  title,
  side,
  children,
  flush = false,
}: {
  readonly title?: string;
  readonly side?: ReactNode;
  readonly children: ReactNode;
  /** Without inner margin, for tables. */
  readonly flush?: boolean;
}) {
  return (
    <section className={styles.panel}>
      {(title !== undefined || side !== undefined) && (
        <header>
          {title !== undefined && <h2>{title}</h2>}
          {side}
        </header>
      )}
      <div className={flush ? styles.flush : styles.body}>{children}</div>
    </section>
  );
}

/** Nothing is here yet: what would be, and the next thing to do. */
export function Empty({ says, children }: { readonly says: string; readonly children?: ReactNode }) {
  return (
    <div className={styles.empty}>
      <svg viewBox="0 0 60 60" width="52" height="52" aria-hidden="true">
        <circle cx="30" cy="30" r="24" />
      </svg>
      <p>{says}</p>
      {children}
    </div>
  );
}

const FIGURES = new Intl.NumberFormat('en-GB');

/** One number with what it is. */
export function Figure({
  value,
  label,
  note,
}: {
  readonly value: ReactNode;
  readonly label: string;
  readonly note?: ReactNode;
}) {
  return (
    <div className={styles.figure}>
      <b>{typeof value === 'number' ? FIGURES.format(value) : value}</b>
      <span>{label}</span>
      {note !== undefined && <small>{note}</small>}
    </div>
  );
}

export function Figures({ children }: { readonly children: ReactNode }) {
  return <div className={styles.figures}>{children}</div>;
}
