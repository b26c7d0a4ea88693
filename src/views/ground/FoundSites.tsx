import type { FoundSite } from '../../contract';
import { count, writeFigure } from '../../client/format';
import { Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import styles from './Connect.module.css';

/** The sites that come with a connection: each as a ring of its nodes, with what it has. */
export function FoundSites({
  sites,
  isKnown,
}: {
  readonly sites: readonly FoundSite[];
  readonly isKnown: boolean;
}) {
  return (
    <Panel title={isKnown ? 'What it has' : 'What comes with it'}>
      {sites.length === 0 ? (
        <p className={styles.help}>
          Its sites, with their nodes or quotas, images and sizes, once it has let us in.
        </p>
      ) : (
        <ul className={styles.found}>
          {sites.map((site) => (
            <li key={site.code}>
              <Ring arcs={arcsOf(site)} size={64} label="">
                {site.kind === 'own nodes' ? site.nodes : ''}
              </Ring>
              <span>
                <b>{site.name}</b> <span className="mono">{site.code}</span>
                <small>{roomOf(site)}</small>
              </span>
              <span>
                {site.images.join(', ')}
                <small>{count(site.sizes, 'size', 'sizes')}</small>
              </span>
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}

const MOST_ARCS = 24;

/** A node an arc; a hosted region shows none. */
const arcsOf = ({ nodes }: FoundSite) =>
  Array.from({ length: Math.max(1, Math.min(nodes, MOST_ARCS)) }, () => ({
    look: 'full' as const,
    parts: 1,
    fill: 0,
  }));

const roomOf = ({ kind, nodes, zones, vcpu, memoryGiB }: FoundSite): string =>
  kind === 'own nodes'
    ? `${count(nodes, 'node', 'nodes')} in ${count(zones, 'zone', 'zones')}: ${writeFigure(vcpu)} vCPU, ${writeFigure(memoryGiB ?? 0)} GiB`
    : `hosted region: a quota of ${writeFigure(vcpu)} vCPU`;
