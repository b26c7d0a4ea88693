import type { Arc, HostStanding } from '../../core/standing';
import { Ring } from '../../ui/Ring';
import styles from './Legend.module.css';
import { STANDING } from './words';

/** What the arcs of a ring mean, only those that are in it. */
export function Legend({ arcs }: { readonly arcs: readonly Arc[] }) {
  const counts = new Map<HostStanding, number>();
  for (const arc of arcs) counts.set(arc.standing, (counts.get(arc.standing) ?? 0) + arc.hosts);
  return (
    <ul className={styles.legend}>
      {[...counts].map(([standing, hosts]) => (
        <li key={standing}>
          <Ring arcs={[{ standing, hosts: 1, fill: 0.6 }]} size={18} label="" />
          {hosts} {STANDING[standing].word}
        </li>
      ))}
    </ul>
  );
}
