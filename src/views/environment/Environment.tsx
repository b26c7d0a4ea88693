import type { Difference, EnvironmentWhole, EnvironmentWithPools, Host } from '../../contract';
import { Hand } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { MachineSize } from '../../core/machines';
import { get } from '../../client/api';
import { useLive } from '../../client/live';
import { Button, ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import type { MarkLook } from '../../ui/Mark';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { Table, type Column } from '../../ui/Table';
import { Legend } from '../shared/Legend';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import { changingHosts, HOST_CHANGES } from '../shared/host-changes';
import { deciding, overrideLines, untilSays } from '../shared/overrides';
import { arcOf, ENVIRONMENT_TONE, ringOf, ringSays, STATUS } from '../shared/words';
import { Desktops } from './Desktops';
import { Differences } from './Differences';
import styles from './Environment.module.css';
import { FromTemplate } from './FromTemplate';
import { Pools } from './Pools';

interface Props {
  readonly customer: {
    readonly code: string;
    readonly name: string;
    readonly mark: MarkLook;
    readonly zone: string;
  };
  readonly initial: EnvironmentWhole;
  /** The sizes that its site has and its plan allows. */
  readonly sizes: readonly MachineSize[];
  readonly mayChange: boolean;
}

/** What should be here, what is here, and where do they differ? */
export function Environment({ customer, initial, sizes, mayChange }: Props) {
  const path = `/customers/${customer.code}/environments/${initial.environment.id}`;
  const { id } = initial.environment;
  const { value, again } = useLive(
    {
      key: `environment ${id}`,
      read: () =>
        get('/customers/{customer}/environments/{environment}/whole', {
          customer: customer.code,
          environment: id,
        }),
    },
    initial,
    `/customers/${customer.code}/events`,
    (change) => ['environment', 'run', 'summary', 'ground'].includes(change.topic),
  );
  const [changing, setChanging] = useState<Changing>();
  const { environment, hosts, differences, origin } = value;
  // What is shown of one that is gone is the proof of it.
  useEffect(() => {
    if (environment.state === 'retired') location.reload();
  }, [environment.state]);
  const change = mayChange && !GOING.has(environment.state) ? setChanging : undefined;
  return (
    <div className={styles.page}>
      <Head environment={environment} retire={change ? `${path}/retire` : undefined} />
      <Pools
        pools={environment.pools}
        hosts={hosts}
        sizes={sizes}
        images={environment.images}
        onChange={change}
      />
      <Differences differences={differences} onChange={change} />
      <Desktops environment={environment} hosts={hosts} zone={customer.zone} onChange={change} />
      <FromTemplate origin={origin} onChange={change} />
      <Panel title="Hosts" flush>
        <Table
          rows={hosts}
          columns={columnsFor(customer, environment, differences)}
          idOf={(host) => host.id}
          label="hosts"
          empty={<Empty says="It has no hosts any more." />}
          {...(change
            ? {
                actions: (selected: readonly Host[], clear: () => void) =>
                  HOST_CHANGES.filter(({ fits }) => selected.some(fits)).map((one) => (
                    <Button
                      key={one.kind}
                      icon={<one.icon size={15} aria-hidden="true" />}
                      onPress={() =>
                        change(changingHosts(one, selected.filter(one.fits), customer.zone, clear))
                      }
                    >
                      {one.verb}
                    </Button>
                  )),
              }
            : {})}
        />
      </Panel>
      {changing && (
        <Confirm
          key={`${changing.kind} ${changing.what}`}
          customer={customer}
          environment={environment.id}
          change={changing}
          onClose={() => setChanging(undefined)}
          onBegun={again}
        />
      )}
    </div>
  );
}

const GOING: ReadonlySet<string> = new Set(['retired', 'leaving']);

function Head({
  environment,
  retire,
}: {
  readonly environment: EnvironmentWithPools;
  readonly retire: string | undefined;
}) {
  return (
    <header className={styles.head}>
      <Ring arcs={ringOf(environment.arcs)} size={152} label={ringSays(environment.arcs)} unit="people in">
        {environment.peopleIn}
      </Ring>
      <div className={styles.facts}>
        <div className={styles.title}>
          <h1>{environment.name}</h1>
          <Chip tone={ENVIRONMENT_TONE[environment.state]}>{environment.state}</Chip>
          <span className={styles.quiet}>
            {environment.siteName}
            {environment.template !== '' && `, from ${environment.template} r${environment.revision}`},
            network <span className="mono">{environment.network}</span>
          </span>
        </div>
        <Figures>
          <Figure value={environment.seatsOpen} label="seats free" />
          <Figure value={environment.hosts} label="hosts" />
          <Figure
            value={environment.drift}
            label={environment.drift === 1 ? 'differs' : 'differ'}
            note="wanted against present"
          />
        </Figures>
        <Legend arcs={environment.arcs} />
      </div>
      {retire !== undefined && (
        <ButtonLink kind="danger" href={retire}>
          Retire…
        </ButtonLink>
      )}
    </header>
  );
}

/** The hosts' columns; which pool only where there are several. */
function columnsFor(
  { code, zone }: Pick<Props['customer'], 'code' | 'zone'>,
  environment: EnvironmentWithPools,
  differences: readonly Difference[],
): readonly Column<Host>[] {
  const says = new Map<string, string[]>();
  for (const one of differences) says.set(one.key, [...(says.get(one.key) ?? []), one.says]);
  const columns = columnsSaying(code, zone, (host) => says.get(host.key) ?? []);
  return environment.pools.length > 1 ? columns : columns.filter((one) => one.id !== 'pool');
}

/** That what is wanted of a host is set otherwise, and for how long. */
function SetOtherwise({ host, zone }: { readonly host: Host; readonly zone: string }) {
  const [first] = deciding(host);
  if (!first) return null;
  const short = first.until === null ? first.cause : untilSays(first, zone);
  return (
    <small className={styles.override} title={overrideLines(host, zone).join('; ')}>
      <Hand size={13} aria-hidden="true" /> {short}
    </small>
  );
}

const columnsSaying = (
  code: string,
  zone: string,
  differs: (host: Host) => readonly string[],
): readonly Column<Host>[] => [
  {
    id: 'name',
    title: 'Host',
    value: (host) => host.name,
    cell: (host) => (
      <a className="mono" href={`/customers/${code}/hosts/${host.id}`}>
        {host.name}
      </a>
    ),
  },
  {
    id: 'status',
    title: 'Status',
    value: (host) => [STATUS[host.status].word, ...differs(host)].join(', '),
    cell: (host) => (
      <span className={styles.status}>
        <Ring arcs={ringOf([arcOf(host)])} size={22} label="" />
        <Chip tone={STATUS[host.status].tone}>{STATUS[host.status].word}</Chip>
        {differs(host).length > 0 && <Chip tone="bad">{differs(host).join(', ')}</Chip>}
        <SetOtherwise host={host} zone={zone} />
      </span>
    ),
  },
  { id: 'pool', title: 'Pool', value: (one) => one.pool },
  {
    id: 'in',
    title: 'Signed in',
    value: (host) => host.sessions,
    cell: (host) => `${host.sessions} of ${host.seats}`,
    figure: true,
  },
  {
    id: 'disk',
    title: 'Disk',
    value: (host) => host.diskGiB,
    cell: (host) => `${host.diskGiB} GiB`,
    figure: true,
  },
  {
    id: 'node',
    title: 'Node',
    value: (host) => host.node ?? '',
    cell: (host) => <span className="mono">{host.node ?? '—'}</span>,
  },
  {
    id: 'address',
    title: 'Address',
    value: (host) => host.address,
    cell: (host) => <span className="mono">{host.address}</span>,
  },
];
