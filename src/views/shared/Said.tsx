import styles from './ActDialog.module.css';

/** What is said again and again, in a session or on a desk. */
const SAID = [
  'Please save your work: this desktop restarts soon.',
  'Please save your work, sign out, and sign in again: you come to another host.',
  'We are looking into the slowness that some of you see.',
  'The trouble of this morning is over. Thank you for waiting.',
] as const;

/** Pressed, it is what is said; it can be changed then. */
export function Said({ onSay }: { readonly onSay: (text: string) => void }) {
  return (
    <div className={styles.said} role="group" aria-label="Said before">
      {SAID.map((one) => (
        <button key={one} type="button" onClick={() => onSay(one)}>
          {one}
        </button>
      ))}
    </div>
  );
}
