import { lazy, Suspense, useState } from 'react';
import { Power, PowerOff, Undo2, UserX } from 'lucide-react';
import type { PowerChange } from '../../core/proposal';
import { get, getAll } from '../../client/api';
import { useLive } from '../../client/live';
import { Button, ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { Table, type Column } from '../../ui/Table';
import { ENVIRONMENT_TONE } from '../customer/Customer';
import { Legend } from '../standing/Legend';
import { ringSays, STANDING } from '../standing/words';
import styles from './Environment.module.css';
import type { EnvironmentData, EnvironmentFacts, HostFacts } from './facts';

/** Fetched when it is first opened. */
const ChangeHosts = lazy(() => import('./ChangeHosts'));

interface Props {
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  readonly initial: EnvironmentData;
  readonly mayChange: boolean;
}

async function read(path: string): Promise<EnvironmentData> {
  const [environment, hosts] = await Promise.all([
    get<EnvironmentFacts>(path),
    getAll<HostFacts>(`${path}/hosts`),
  ]);
  return { environment, hosts };
}

const CHANGES: readonly {
  readonly change: PowerChange;
  readonly verb: string;
  readonly icon: typeof Power;
}[] = [
  { change: 'power-on', verb: 'Power on', icon: Power },
  { change: 'power-off', verb: 'Power off', icon: PowerOff },
  { change: 'drain', verb: 'Drain', icon: UserX },
  { change: 'accept', verb: 'Put back', icon: Undo2 },
];

/** What should be here, what is here, and where do they differ? */
export function Environment({ customer, initial, mayChange }: Props) {
  const path = `/customers/${customer.code}/environments/${initial.environment.id}`;
  const { value, again } = useLive(
    initial,
    () => read(path),
    `/customers/${customer.code}/events`,
    (change) => ['environment', 'run', 'tally'].includes(change.topic),
  );
  const [changing, setChanging] = useState<{
    change: PowerChange;
    hosts: readonly HostFacts[];
    clear: () => void;
  }>();
  const { environment, hosts } = value;
  return (
    <div className={styles.page}>
      <header className={styles.head}>
        <Ring arcs={environment.arcs} size={176} label={ringSays(environment.arcs)} unit="people in">
          {environment.peopleIn}
        </Ring>
        <div className={styles.facts}>
          <div className={styles.title}>
            <h1>{environment.name}</h1>
            <Chip tone={ENVIRONMENT_TONE[environment.state]}>{environment.state}</Chip>
          </div>
          <Figures>
            <Figure value={environment.seatsOpen} label="seats free" />
            <Figure value={environment.hosts} label="hosts" note={`${environment.pool.seats} seats each`} />
            <Figure
              value={environment.drift}
              label={environment.drift === 1 ? 'differs' : 'differ'}
              note="wanted against present"
            />
          </Figures>
          <Legend arcs={environment.arcs} />
        </div>
        {mayChange && environment.state !== 'retired' && environment.state !== 'leaving' && (
          <ButtonLink kind="danger" href={`${path}/retire`}>
            Retire…
          </ButtonLink>
        )}
      </header>
      <dl className={styles.place}>
        <Fact name="Site">{environment.siteName}</Fact>
        <Fact name="From">
          {environment.template} r{environment.revision}
        </Fact>
        <Fact name="Image">{environment.pool.image}</Fact>
        <Fact name="Arrivals">{environment.pool.arrival}</Fact>
        <Fact name="Subnet">
          <span className="mono">{environment.pool.subnet}</span> in{' '}
          <span className="mono">{environment.network}</span>
        </Fact>
        <Fact name="Profiles">{environment.pool.shareGiB} GiB</Fact>
        <Fact name="Items">{environment.pool.items.map((item) => item.name).join(', ')}</Fact>
      </dl>
      <Panel title="Hosts" flush>
        <Table
          rows={hosts}
          columns={COLUMNS}
          idOf={(host) => host.id}
          label="hosts"
          empty={<Empty says="It has no hosts any more." />}
          {...(mayChange && environment.state !== 'leaving'
            ? {
                actions: (selected: readonly HostFacts[], clear: () => void) =>
                  CHANGES.map(({ change, verb, icon: Icon }) => (
                    <Button
                      key={change}
                      icon={<Icon size={15} aria-hidden="true" />}
                      onPress={() => setChanging({ change, hosts: selected, clear })}
                    >
                      {verb}
                    </Button>
                  )),
              }
            : {})}
        />
      </Panel>
      {changing && (
        <Suspense>
          <ChangeHosts
            customer={customer}
            environment={environment}
            change={changing.change}
            verb={CHANGES.find((one) => one.change === changing.change)?.verb ?? ''}
            hosts={changing.hosts}
            mark={<Mark mark={customer.mark} size={34} />}
            onClose={() => setChanging(undefined)}
            onDone={() => {
              changing.clear();
              setChanging(undefined);
              again();
            }}
          />
        </Suspense>
      )}
    </div>
  );
}

const Fact = ({ name, children }: { readonly name: string; readonly children: React.ReactNode }) => (
  <div>
    <dt>{name}</dt>
    <dd>{children}</dd>
  </div>
);

const wanted = (host: HostFacts): string =>
  host.wantedPower === 'off' ? 'off' : host.wantedAccepting ? 'on' : 'on, drained';

const COLUMNS: readonly Column<HostFacts>[] = [
  {
    id: 'name',
    title: 'Host',
    value: (host) => host.name,
    cell: (host) => <span className="mono">{host.name}</span>,
  },
  {
    id: 'standing',
    title: 'Stands',
    value: (host) => host.standing,
    cell: (host) => (
      <span style={{ display: 'flex', gap: 8, alignItems: 'center' }}>
        <Ring
          arcs={[
            { standing: host.standing, hosts: 1, fill: host.seats === 0 ? 0 : host.sessions / host.seats },
          ]}
          size={22}
          label=""
        />
        <Chip tone={STANDING[host.standing].tone}>{STANDING[host.standing].word}</Chip>
      </span>
    ),
  },
  {
    id: 'in',
    title: 'In',
    value: (host) => host.sessions,
    cell: (host) => `${host.sessions} of ${host.seats}`,
    figure: true,
  },
  { id: 'wanted', title: 'Wanted', value: wanted },
  { id: 'present', title: 'Present', value: (host) => host.present ?? 'unknown to the provider' },
  {
    id: 'drift',
    title: 'Difference',
    value: (host) => host.drift.join(', '),
    cell: (host) => (host.drift.length === 0 ? '' : <Chip tone="bad">{host.drift.join(', ')}</Chip>),
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
