import type { AddressRange, Orphan, Provider, Site, SiteNode } from '../../contract';
import type { MachineSize } from '../../core/machines';
import { writeSize } from '../../core/machines';
import { count, writeFigure } from '../../client/format';
import { get } from '../../client/api';
import { useLive } from '../../client/live';
import { ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Empty, Panel } from '../../ui/Panel';
import { Addresses } from './Addresses';
import { Orphans } from './Orphans';
import { Providers } from './Providers';
import { SiteRing } from './SiteRing';
import styles from './Ground.module.css';

interface Props {
  readonly initial: { readonly sites: readonly Site[] };
  readonly ranges: readonly AddressRange[];
  readonly orphans: readonly Orphan[];
  readonly providers: readonly Provider[];
  /** Whether who looks may connect providers. */
  readonly mayConnect: boolean;
}

/** How full is each site? */
export function Ground({
  initial,
  ranges: firstRanges,
  orphans: firstOrphans,
  providers: firstProviders,
  mayConnect,
}: Props) {
  const { value } = useLive(
    { key: 'sites', read: () => get('/sites', {}) },
    initial,
    '/events',
    (change) => change.topic === 'ground',
  );
  const { value: ranges } = useLive(
    { key: 'addresses', read: async () => (await get('/addresses', {})).ranges },
    firstRanges,
    '/events',
    (change) => change.topic === 'run',
  );
  const { value: orphans } = useLive(
    { key: 'orphans', read: async () => (await get('/orphans', {})).orphans },
    firstOrphans,
    '/events',
    // The ground is read every few seconds: often enough for what costs by the month.
    (change) => change.topic === 'ground',
  );
  const { value: providers } = useLive(
    { key: 'providers', read: async () => (await get('/providers', {})).providers },
    firstProviders,
    '/events',
    (change) => change.topic === 'ground',
  );
  if (providers.length === 0)
    return (
      <Empty says="No provider is connected yet.">
        {mayConnect && (
          <ButtonLink kind="main" href="/ground/connect">
            Connect a provider
          </ButtonLink>
        )}
      </Empty>
    );
  return (
    <div className={styles.sites}>
      <h1 className="sr">Ground</h1>
      <Orphans orphans={orphans} />
      {value.sites.map((site) => (
        <Panel
          key={site.code}
          title={site.name}
          side={<Chip tone={site.signIn.worked ? 'good' : 'bad'}>{site.signIn.says}</Chip>}
        >
          <div className={styles.site}>
            <SiteRing site={site} size={112} />
            {site.quota ? <Quotas quota={site.quota} /> : <Nodes nodes={site.nodes} />}
            <dl className={styles.offers}>
              <dt>{site.kind}</dt>
              <dd>{count(site.hosts, 'host', 'hosts')}</dd>
              <dt>Images</dt>
              <dd>{site.images.map((image) => image.name).join(', ')}</dd>
              <dt>Sizes</dt>
              <dd title={site.sizes.map(writeSize).join(', ')}>{sizesSay(site.sizes)}</dd>
            </dl>
          </div>
          {ranges
            .filter((range) => range.site === site.code)
            .map((range) => (
              <Addresses key={range.cidr} range={range} />
            ))}
        </Panel>
      ))}
      <Providers providers={providers} mayConnect={mayConnect} />
    </div>
  );
}

/** From the smallest to the largest, as the provider lists them. */
function sizesSay(sizes: readonly MachineSize[]): string {
  const [first, last] = [sizes[0], sizes.at(-1)];
  if (!first || !last) return 'none';
  return sizes.length === 1 ? writeSize(first) : `${sizes.length}, ${writeSize(first)} to ${writeSize(last)}`;
}

/** The whole quota, and those of families of sizes within it. */
function Quotas({
  quota: { vcpu, vcpuUsed, families = [] },
}: {
  readonly quota: NonNullable<Site['quota']>;
}) {
  return (
    <div className={styles.quota}>
      <Quota vcpu={vcpu} used={vcpuUsed} of="the quota" />
      {families.map((one) => (
        <Quota key={one.family} vcpu={one.vcpu} used={one.vcpuUsed} of={`${one.family} sizes`} />
      ))}
    </div>
  );
}

function Quota({ vcpu, used, of }: { readonly vcpu: number; readonly used: number; readonly of: string }) {
  return (
    <div>
      <div className={styles.wide}>
        <span style={{ width: `${Math.min(100, (used / vcpu) * 100)}%` }} />
      </div>
      <span>
        {writeFigure(used)} of {writeFigure(vcpu)} vCPU of {of}
      </span>
    </div>
  );
}

/** In a zone of more than this, nodes stand without their names. */
const NAMED = 8;

/** Many nodes as thin columns side by side; in words the fullest, the emptiest, and whatever is lost. */
function ManyNodes({ zone, nodes }: { readonly zone: string; readonly nodes: readonly SiteNode[] }) {
  const part = (node: SiteNode): number => node.memoryUsed / node.memoryGiB;
  const sorted = [...nodes].sort((a, b) => part(b) - part(a));
  const [fullest, emptiest] = [sorted[0], sorted.at(-1)];
  const lost = nodes.filter((node) => node.state !== 'up');
  const say = (node: SiteNode | undefined): string =>
    node ? `${node.id} ${Math.round(100 * part(node))} %` : '';
  return (
    <div className={styles.many}>
      <div
        className={styles.thin}
        role="img"
        aria-label={`${zone}: ${nodes.length} nodes, from ${say(emptiest)} to ${say(fullest)}`}
      >
        {sorted.map((node) => (
          <span
            key={node.id}
            data-state={node.state}
            title={`${node.id}: ${writeFigure(node.memoryUsed)} of ${writeFigure(node.memoryGiB)} GiB, ${count(node.hosts, 'host', 'hosts')}${node.dedicatedTo === null ? '' : `, ${node.dedicatedTo} only`}`}
          >
            <i style={{ height: `${Math.min(100, 100 * part(node))}%` }} />
          </span>
        ))}
      </div>
      <p>
        <b>{zone}</b> {count(nodes.length, 'node', 'nodes')}, memory {say(fullest)} to {say(emptiest)}
      </p>
      {lost.length > 0 && (
        <Chip tone="bad">
          {lost.map((node) => node.id).join(', ')} {lost.length === 1 ? 'is' : 'are'} lost
        </Chip>
      )}
    </div>
  );
}

/** Nodes as columns filled by memory, grouped by zone. */
function Nodes({ nodes }: { readonly nodes: readonly SiteNode[] }) {
  const zones = [...new Set(nodes.map((node) => node.zone))];
  const inZone = (zone: string): SiteNode[] => nodes.filter((node) => node.zone === zone);
  if (zones.some((zone) => inZone(zone).length > NAMED))
    return (
      <div className={styles.zones}>
        {zones.map((zone) => (
          <ManyNodes key={zone} zone={zone} nodes={inZone(zone)} />
        ))}
      </div>
    );
  return (
    <div className={styles.zones}>
      {zones.map((zone) => (
        <div key={zone} className={styles.zone}>
          <ul>
            {inZone(zone).map((node) => (
              <li key={node.id} data-state={node.state}>
                <div
                  className={styles.node}
                  role="img"
                  aria-label={`${node.id}: ${node.memoryUsed} of ${node.memoryGiB} GiB, ${node.vcpuUsed} of ${node.vcpu} vCPU, ${node.state}`}
                >
                  <span style={{ height: `${Math.min(100, (node.memoryUsed / node.memoryGiB) * 100)}%` }} />
                </div>
                <b>{node.id}</b>
                <small>
                  {node.memoryUsed} of {node.memoryGiB}
                </small>
                <small>
                  {node.state !== 'up'
                    ? node.state
                    : node.dedicatedTo !== null
                      ? `${node.dedicatedTo} only`
                      : count(node.hosts, 'host', 'hosts')}
                </small>
              </li>
            ))}
          </ul>
          <p>zone {zone}, memory in GiB</p>
        </div>
      ))}
    </div>
  );
}
