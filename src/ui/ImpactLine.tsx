import styles from './ImpactLine.module.css';

/** What a change does, in one line; `parts` in the order in which people ask. */
export function ImpactLine({ line }: { readonly line: string }) {
  return (
    <p className={styles.line} aria-label="What this does">
      {line.split(' · ').map((part) => (
        <span key={part}>{part}</span>
      ))}
    </p>
  );
}
