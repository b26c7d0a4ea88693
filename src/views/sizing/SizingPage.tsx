import { useState } from 'react';
import type { Sizing } from '../../contract';
import type { MarkLook } from '../../ui/Mark';
import { Bench } from './Bench';
import { Measured } from './Measured';
import { Needs } from './Needs';
import styles from './Bench.module.css';

interface Props {
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  readonly initial: Sizing;
  readonly mayChange: boolean;
}

/** So many people, of such work, so many at once: on which hosts, for how much, and what if one fails? */
export function SizingPage({ customer, initial, mayChange }: Props) {
  const [sizing, setSizing] = useState(initial);
  return (
    <div className={styles.whole}>
      <h1 className="sr">Sizing</h1>
      <Bench sizing={sizing} />
      <Measured sizing={sizing} customer={customer} mayChange={mayChange} />
      <Needs code={customer.code} sizing={sizing} mayChange={mayChange} onKept={setSizing} />
    </div>
  );
}
