import styles from './Pills.module.css';

interface Pill {
  readonly value: string;
  readonly name: string;
}

interface Props {
  /** What is chosen by them. */
  readonly label: string;
  readonly pills: readonly Pill[];
  readonly chosen: string | undefined;
}

/** A few to choose one of, at a glance; one alone is no choice, and not shown. */
export const Pills = ({
  label,
  pills,
  chosen,
  onChoose,
}: Props & { readonly onChoose: (value: string) => void }) =>
  pills.length > 1 && (
    <div className={styles.pills} role="group" aria-label={label}>
      {pills.map(({ value, name }) => (
        <button key={value} type="button" aria-pressed={value === chosen} onClick={() => onChoose(value)}>
          {name}
        </button>
      ))}
    </div>
  );

/** The same, each leading to a page of its own. */
export const PillLinks = ({
  label,
  pills,
  chosen,
  hrefOf,
}: Props & { readonly hrefOf: (value: string) => string }) =>
  pills.length > 1 && (
    <nav className={styles.pills} aria-label={label}>
      {pills.map(({ value, name }) => (
        <a
          key={value}
          href={hrefOf(value)}
          {...(value === chosen ? { 'aria-current': 'page' as const } : {})}
        >
          {name}
        </a>
      ))}
    </nav>
  );
