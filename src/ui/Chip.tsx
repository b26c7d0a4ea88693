import type { ReactNode } from 'react';
import styles from './Chip.module.css';

export type ChipTone = 'plain' | 'good' | 'busy' | 'care' | 'bad' | 'quiet';

/** A state in a word, with a shape of its own before it. */
export function Chip({
  tone = 'plain',
  children,
}: {
  readonly tone?: ChipTone;
  readonly children: ReactNode;
}) {
  return (
    <span className={`${styles.chip} ${styles[tone]}`}>
      <svg viewBox="0 0 10 10" width="10" height="10" aria-hidden="true">
        <path d={SIGN[tone]} />
      </svg>
      {children}
    </span>
  );
}

const SIGN: Readonly<Record<ChipTone, string>> = {
  plain: 'M2 5H8',
  good: 'M1.5 5.2L4 7.7L8.5 2.5',
  busy: 'M5 1A4 4 0 1 1 1 5',
  care: 'M5 1.2L9 8.6H1Z',
  bad: 'M2 2L8 8M8 2L2 8',
  quiet: 'M5 2A3 3 0 1 1 5 8A3 3 0 1 1 5 2',
};
