import type { Arc, HostStatus } from '../../core/status';
import { Ring } from '../../ui/Ring';
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
          <Ring arcs={[{ look: STATUS[status].look, parts: 1, fill: 0.6 }]} size={18} label="" />
          {hosts} {STATUS[status].word}
        </li>
      ))}
    </ul>
  );
}
