import type { Facts } from '../../core/facts';
import { roomOn } from '../../core/placement';
import { hostsOf } from './hosts';
import type { Outlook } from './facts';
import styles from './Provision.module.css';

/** Where the hosts would go: nodes as columns filled by memory, what is new on top; or the quota as a bar. */
export function NodeMap({ facts, outlook }: { readonly facts: Facts; readonly outlook: Outlook }) {
  const { site } = facts;
  const hosts = hostsOf(outlook, facts);
  if (site.quota) {
    const { families = [], ...whole } = site.quota;
    const added = (family?: string): number =>
      hosts
        .filter((host) => family === undefined || host.family === family)
        .reduce((sum, host) => sum + host.vcpu, 0);
    return (
      <>
        <QuotaBar {...whole} added={added()} />
        {families
          .filter(({ family }) => added(family) > 0)
          .map((one) => (
            <QuotaBar key={one.family} {...one} added={added(one.family)} />
          ))}
      </>
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
              const own = hosts.filter((host) => host.node === node.id);
              const fresh = own.length;
              const used = node.memoryGiB - node.free.memoryGiB;
              const added = own.reduce((sum, host) => sum + host.memoryGiB, 0);
              return (
                <li
                  key={node.id}
                  data-down={node.isDown || undefined}
                  title={
                    node.isDown === true
                      ? `${node.id} is down`
                      : `${node.id}: ${used} GiB used, ${added} GiB new, of ${node.memoryGiB}`
                  }
                >
                  <div className={styles.node}>
                    <span className={styles.used} style={{ height: `${(used / node.memoryGiB) * 100}%` }} />
                    <span className={styles.added} style={{ height: `${(added / node.memoryGiB) * 100}%` }} />
                  </div>
                  <small>{node.id.split('-')[1]}</small>
                  <b>{node.isDown === true ? 'down' : fresh > 0 ? `+${fresh}` : ' '}</b>
                </li>
              );
            })}
        </ul>
      ))}
    </div>
  );
}

function QuotaBar({
  vcpu,
  vcpuUsed,
  added,
  family,
}: {
  readonly vcpu: number;
  readonly vcpuUsed: number;
  readonly added: number;
  readonly family?: string;
}) {
  const part = (amount: number): string => `${Math.min(100, (amount / Math.max(1, vcpu)) * 100)}%`;
  return (
    <div className={styles.quota}>
      <div>
        <span className={styles.used} style={{ width: part(vcpuUsed) }} />
        <span className={styles.added} style={{ width: part(added) }} />
      </div>
      <p>
        {vcpuUsed} + {added} of {vcpu} vCPU{family !== undefined && ` of ${family}`}
      </p>
    </div>
  );
}
