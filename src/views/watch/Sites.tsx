import type { Site } from '../../contract';
import { get } from '../../client/api';
import { count } from '../../client/format';
import { useLive } from '../../client/live';
import { SiteRing } from '../ground/SiteRing';
import styles from './Watch.module.css';

/** How full the ground is on which all of them stand. */
export function Sites({ initial }: { readonly initial: readonly Site[] }) {
  const { value: sites } = useLive(
    { key: 'sites of Watch', read: async () => (await get('/sites', {})).sites },
    initial,
    '/events',
    (change) => change.topic === 'ground',
  );
  return (
    <ul className={styles.sites} aria-label="Sites">
      {sites.map((site) => (
        <li key={site.code}>
          <a href="/ground">
            <SiteRing site={site} size={64} />
            <span>
              <b>{site.name}</b>
              <small>
                {site.kind}, {count(site.hosts, 'host', 'hosts')}
              </small>
            </span>
          </a>
        </li>
      ))}
    </ul>
  );
}
