import type { SiteGround } from '../../core/ground';
import { roomOn } from '../../core/placement';
import type { ProvisionProposal } from '../../core/proposal';
import styles from './Provision.module.css';

/** Where the hosts would go: nodes as columns filled by memory, what is new on top; or the quota as a bar. */
export function NodeMap({
  site,
  proposal,
}: {
  readonly site: SiteGround;
  readonly proposal: ProvisionProposal;
}) {
  const size = proposal.chosen?.size;
  if (site.quota) {
    const added = proposal.hosts.length * (size?.vcpu ?? 0);
    const part = (vcpu: number): string => `${Math.min(100, (vcpu / (site.quota?.vcpu ?? 1)) * 100)}%`;
    return (
      <div className={styles.quota}>
        <div>
          <span className={styles.used} style={{ width: part(site.quota.vcpuUsed) }} />
          <span className={styles.added} style={{ width: part(added) }} />
        </div>
        <p>
          {site.quota.vcpuUsed} + {added} of {site.quota.vcpu} vCPU
        </p>
      </div>
    );
  }
  const zones = [...new Set(site.nodes.map((node) => node.zone))];
  const nodes = roomOn(site.nodes, site.present);
  return (
    <div className={styles.zones}>
      {zones.map((zone) => (
        <ul key={zone} aria-label={`zone ${zone}`}>
          {nodes
            .filter((node) => node.zone === zone)
            .map((node) => {
              const fresh = proposal.hosts.filter((host) => host.node === node.id).length;
              const used = node.memoryGiB - node.free.memoryGiB;
              const added = fresh * (size?.memoryGiB ?? 0);
              return (
                <li
                  key={node.id}
                  title={`${node.id}: ${used} GiB used, ${added} GiB new, of ${node.memoryGiB}`}
                >
                  <div className={styles.node}>
                    <span className={styles.used} style={{ height: `${(used / node.memoryGiB) * 100}%` }} />
                    <span className={styles.added} style={{ height: `${(added / node.memoryGiB) * 100}%` }} />
                  </div>
                  <small>{node.id.split('-')[1]}</small>
                  <b>{fresh > 0 ? `+${fresh}` : ' '}</b>
                </li>
              );
            })}
        </ul>
      ))}
    </div>
  );
}
