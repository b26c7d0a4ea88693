import type { Arc, HostStatus } from '../../core/status';
import { Ring, type RingArc, type RingLook } from '../../ui/Ring';
import styles from './Legend.module.css';
import { STATUS } from './words';

/** What the arcs of a ring mean, only those that are in it. */
export function Legend({ arcs }: { readonly arcs: readonly Arc[] }) {
  const counts = new Map<HostStatus, number>();
  for (const arc of arcs) counts.set(arc.status, (counts.get(arc.status) ?? 0) + arc.hosts);
  return (
    <ul className={styles.legend}>
      {[...counts].map(([status, hosts]) => (
        <li key={status}>
          <Ring arcs={exampleOf(STATUS[status].look)} size={18} label="" />
          {hosts} {STATUS[status].word}
        </li>
      ))}
    </ul>
  );
}

/** A gap is seen between others only. */
const exampleOf = (look: RingLook): readonly RingArc[] =>
  look === 'gap'
    ? [
        { look: 'full', parts: 2, fill: 0.6 },
        { look, parts: 1, fill: 0 },
      ]
    : [{ look, parts: 1, fill: 0.6 }];
