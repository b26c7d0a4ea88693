import { useState } from 'react';
import { Link2, Network, Radar, Wrench } from 'lucide-react';
import type { JoinedNetwork, Networks as NetworksData, SiteNetworks } from '../../contract';
import { OWN_CODE } from '../../contract/own-code';
import { get, whyOf } from '../../client/api';
import { count } from '../../client/format';
import { useLive } from '../../client/live';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import { Table, type Column } from '../../ui/Table';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import { Circle } from './Circle';
import { isJoined, stateOf } from './joined';
import styles from './Networks.module.css';

interface Props {
  readonly initial: NetworksData;
  readonly marks: Readonly<Record<string, MarkLook>>;
  readonly names: Readonly<Record<string, string>>;
  readonly mayChange: boolean;
  /** Whether what is the MSP's own is theirs to reach. */
  readonly reachesAll: boolean;
}

/** A change that is about to be made, and whose. */
interface Asked {
  readonly customer: string;
  readonly environment?: string;
  readonly change: Changing;
}

/** Whose network reaches the shared services, whose does not, and what mends it? */
export function Networks({ initial, marks, names, mayChange, reachesAll }: Props) {
  const { value, again } = useLive(
    { key: 'networks', read: () => get('/ground/networks', {}) },
    initial,
    '/events',
    (change) => ['environment', 'run', 'ground'].includes(change.topic),
  );
  const [asked, setAsked] = useState<Asked>();
  const ask = mayChange ? setAsked : undefined;
  return (
    <div className={styles.page}>
      <h1 className="sr">Networks</h1>
      {value.sites.map((site) => (
        <Site
          key={site.site}
          site={site}
          networks={value.networks.filter((one) => one.site === site.site)}
          marks={marks}
          ask={ask}
          reachesAll={reachesAll}
        />
      ))}
      {asked && (
        <Confirm
          key={`${asked.customer} ${asked.change.what}`}
          customer={{
            code: asked.customer,
            name: names[asked.customer] ?? 'us',
            mark: marks[asked.customer] ?? { code: asked.customer, hue: 0, shape: 0, pattern: 0 },
          }}
          {...(asked.environment === undefined ? {} : { environment: asked.environment })}
          change={asked.change}
          onClose={() => setAsked(undefined)}
          onBegun={again}
        />
      )}
    </div>
  );
}

type Ask = ((asked: Asked) => void) | undefined;

function Site({
  site,
  networks,
  marks,
  ask,
  reachesAll,
}: {
  readonly site: SiteNetworks;
  readonly networks: readonly JoinedNetwork[];
  readonly marks: Props['marks'];
  readonly ask: Ask;
  readonly reachesAll: boolean;
}) {
  const { services } = site;
  const joined = networks.filter(isJoined).length;
  const side = services ? (
    <span className={styles.quiet}>
      {joined} of {count(networks.length, 'network', 'networks')} joined
    </span>
  ) : undefined;
  return (
    <Panel title={site.name} {...(side ? { side } : {})}>
      {services ? (
        <div className={styles.site}>
          <Circle networks={networks} marks={marks} cidr={services.cidr} />
          <div className={styles.beside}>
            <dl className={styles.facts}>
              <dt>Shared services</dt>
              <dd>
                <span className="mono">{services.cidr}</span>{' '}
                <Chip tone={services.state === 'serving' ? 'good' : 'busy'}>{services.state}</Chip>{' '}
                {reachesAll && (
                  <a href={`/customers/${OWN_CODE}/environments/${services.environment}`}>what is there</a>
                )}
              </dd>
              <dt>Name servers</dt>
              <dd className="mono">{services.nameServers.join(', ')}</dd>
              <dt>Directories</dt>
              <dd className="mono">{services.directory}</dd>
              <dt>Gateways</dt>
              <dd className="mono">{services.gateway}</dd>
            </dl>
            <List networks={networks} own={services.nameServers} marks={marks} ask={ask} />
          </div>
        </div>
      ) : (
        <Empty says="No shared services here: hosts at this site reach no directory of ours over a network of their own.">
          {ask && reachesAll && (
            <Button
              kind="main"
              icon={<Network size={16} aria-hidden="true" />}
              onPress={() =>
                ask({
                  customer: OWN_CODE,
                  change: {
                    kind: 'provide-services',
                    verb: 'Provide',
                    what: `shared services at ${site.name}`,
                    input: { site: site.site },
                  },
                })
              }
            >
              Provide shared services
            </Button>
          )}
        </Empty>
      )}
    </Panel>
  );
}

function List({
  networks,
  own,
  marks,
  ask,
}: {
  readonly networks: readonly JoinedNetwork[];
  /** The name servers of the shared services. */
  readonly own: readonly string[];
  readonly marks: Props['marks'];
  readonly ask: Ask;
}) {
  const [tried, setTried] = useState<Readonly<Record<string, string>>>({});
  const tryIt = async ({ customer, site }: JoinedNetwork): Promise<void> => {
    const note = (says: string): void => setTried((before) => ({ ...before, [customer]: says }));
    note('trying …');
    try {
      const { route } = await get('/customers/{customer}/networks/{site}/route', { customer, site });
      note(route ? `${route.worked ? '✓' : '✗'} ${route.says}` : 'there is no way to try');
    } catch (error) {
      note(whyOf(error));
    }
  };
  const columns: readonly Column<JoinedNetwork>[] = [
    {
      id: 'customer',
      title: 'Customer',
      value: (one) => one.customer,
      cell: (one) => {
        const mark = marks[one.customer];
        return (
          <a className={styles.who} href={`/customers/${one.customer}`}>
            {mark && <Mark mark={mark} size={26} />} {one.customer}
          </a>
        );
      },
    },
    {
      id: 'network',
      title: 'Network',
      value: (one) => one.cidr,
      cell: (one) => <span className="mono">{one.cidr}</span>,
    },
    {
      id: 'joined',
      title: 'Joined',
      value: (one) => stateOf(one).says,
      cell: (one) => <Chip tone={stateOf(one).tone}>{stateOf(one).says}</Chip>,
    },
    {
      id: 'asks',
      title: 'Asks',
      value: (one) => asks(one.nameServers, own),
      cell: (one) => asks(one.nameServers, own),
    },
    {
      id: 'do',
      title: 'Do',
      value: () => '',
      cell: (one) => (
        <span className={styles.actions}>
          {ask && one.environment !== null && one.out === 'not asked for' && (
            <Button
              icon={<Link2 size={15} aria-hidden="true" />}
              onPress={() => ask(joining(one, one.environment ?? ''))}
            >
              Join
            </Button>
          )}
          {ask && one.environment !== null && one.differences.length > 0 && (
            <Button
              kind="main"
              icon={<Wrench size={15} aria-hidden="true" />}
              onPress={() => ask(mending(one, one.environment ?? ''))}
            >
              Mend
            </Button>
          )}
          {one.out !== 'not asked for' && (
            <Button
              kind="quiet"
              icon={<Radar size={15} aria-hidden="true" />}
              onPress={() => void tryIt(one)}
            >
              Try
            </Button>
          )}
          {tried[one.customer] !== undefined && (
            <small role="status" className={styles.tried}>
              {tried[one.customer]}
            </small>
          )}
        </span>
      ),
    },
  ];
  return (
    <Table
      rows={networks}
      columns={columns}
      idOf={(one) => one.customer}
      label="networks"
      empty={<Empty says="Nobody has a network here yet: the first environment at this site makes one." />}
    />
  );
}

const asks = (servers: readonly string[], own: readonly string[]): string =>
  servers.join() === own.join() ? 'ours' : servers.length === 0 ? 'whatever it is told' : servers.join(', ');

const mending = (one: JoinedNetwork, environment: string): Asked => ({
  customer: one.customer,
  environment,
  change: {
    kind: 'mend',
    verb: 'Mend',
    what: 'the network',
    input: {
      differences: one.differences.map(({ key, attribute }) => ({
        key,
        ...(attribute === null ? {} : { attribute }),
        how: 'as wanted',
      })),
    },
  },
});

const joining = (one: JoinedNetwork, environment: string): Asked => ({
  customer: one.customer,
  environment,
  change: { kind: 'join-services', verb: 'Join', what: 'with the shared services', input: {} },
});
