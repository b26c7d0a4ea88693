import { isGoing } from '../../core/status';
import type { Customer as CustomerRow, CustomerSummary, Environment, Run } from '../../contract';
import { get, getAll } from '../../client/api';
import { count, writeDay, writeMoney, writeWhen } from '../../client/format';
import { useLive } from '../../client/live';
import { ButtonLink } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { RunLine } from '../runs/RunLine';
import { Legend } from '../shared/Legend';
import { ENVIRONMENT_TONE, ringOf, ringSays } from '../shared/words';
import styles from './Customer.module.css';

export interface CustomerData {
  readonly customer: CustomerRow;
  readonly summary: CustomerSummary;
  readonly environments: readonly Environment[];
  readonly runs: readonly Run[];
}

async function read(code: string): Promise<CustomerData> {
  const [customer, summary, environments, runs] = await Promise.all([
    get('/customers/{customer}', { customer: code }),
    get('/customers/{customer}/summary', { customer: code }),
    getAll('/customers/{customer}/environments', { customer: code }),
    get('/customers/{customer}/runs', { customer: code }, { limit: 6 }),
  ]);
  return { customer, summary, environments, runs: runs.entries };
}

/** How is this customer, what do they have, and what was done lately? */
export function Customer({
  code,
  initial,
  mayChange,
}: {
  readonly code: string;
  readonly initial: CustomerData;
  readonly mayChange: boolean;
}) {
  const { value } = useLive(
    { key: 'customer', read: () => read(code) },
    initial,
    `/customers/${code}/events`,
    (change) => change.topic !== 'clock',
  );
  const { customer, summary, runs } = value;
  const living = value.environments.filter((one) => one.state !== 'retired' && one.holds !== 'image');
  const images = value.environments.filter((one) => one.state !== 'retired' && one.holds === 'image');
  const retired = value.environments.filter((one) => one.state === 'retired');
  return (
    <div className={styles.page}>
      <h1 className="sr">Overview</h1>
      <div className={styles.top}>
        <Ring
          arcs={ringOf(summary.arcs)}
          size={240}
          label={ringSays(summary.arcs)}
          unit={`in, ${summary.seatsFree} seats free`}
        >
          {summary.peopleIn}
        </Ring>
        <div className={styles.facts}>
          <Figures>
            <Figure
              value={writeMoney(summary.soFar)}
              label="this month so far"
              note={`forecast ${writeMoney(summary.forecast)}`}
            />
            <Figure value={summary.hosts} label="hosts" note={`plan ${customer.plan}`} />
            <Figure
              value={customer.people}
              label="people"
              note={<span className="mono">{customer.realm}</span>}
            />
          </Figures>
          <Legend arcs={summary.arcs} />
          <dl className={styles.ground}>
            <div>
              <dt>Home site</dt>
              <dd>{customer.siteName}</dd>
            </div>
            <div>
              <dt>Time zone</dt>
              <dd>{customer.zone}</dd>
            </div>
            <div>
              <dt>Address block</dt>
              <dd className="mono">
                {customer.blocks.length === 0
                  ? 'none yet'
                  : customer.blocks.map((one) => `${one.cidr} ${one.site}`).join(', ')}
              </dd>
            </div>
          </dl>
          {summary.attention.map((one) => (
            <Chip key={one.says} tone={one.kind === 'approval' ? 'care' : 'bad'}>
              {one.says}
            </Chip>
          ))}
        </div>
      </div>
      <div className={styles.columns}>
        <Panel title={count(living.length, 'environment', 'environments')}>
          {living.length === 0 ? (
            <Empty
              says={isGoing(customer.state) ? 'Nothing stands here any more.' : 'Nothing stands here yet.'}
            >
              {mayChange && !isGoing(customer.state) && (
                <ButtonLink kind="main" href={`/customers/${code}/provision`}>
                  Provision the first environment
                </ButtonLink>
              )}
            </Empty>
          ) : (
            <ul className={styles.environments}>
              {living.map((one) => (
                <li key={one.id}>
                  <a href={`/customers/${code}/environments/${one.id}`}>
                    <Ring arcs={ringOf(one.arcs)} size={52} label={ringSays(one.arcs)}>
                      {one.hosts}
                    </Ring>
                    <b>{one.name}</b>
                    <Chip tone={ENVIRONMENT_TONE[one.state]}>{one.state}</Chip>
                    <span>{one.siteName}</span>
                    <span>{count(one.hosts, 'host', 'hosts')}</span>
                    <span>{count(one.people, 'person', 'people')}</span>
                    <span className={styles.from}>
                      {one.template} r{one.revision}, since {writeDay(one.createdAt, customer.zone)}
                    </span>
                  </a>
                </li>
              ))}
            </ul>
          )}
          {images.length > 0 && (
            <p className={styles.images}>
              {images.length === 1 ? 'An image' : 'Images'} of their own:{' '}
              {images.map((one, at) => (
                <span key={one.id}>
                  {at > 0 && ', '}
                  <a href={`/build/images/${one.name}`}>{one.name}</a>
                </span>
              ))}
            </p>
          )}
          {retired.length > 0 && (
            <details className={styles.retired}>
              <summary>{retired.length} retired</summary>
              <ul>
                {retired.map((one) => (
                  <li key={one.id}>
                    <a href={`/customers/${code}/environments/${one.id}`}>{one.name}</a>
                    {one.retiredAt !== null && `, ${writeWhen(one.retiredAt, customer.zone)}: its proof`}
                  </li>
                ))}
              </ul>
            </details>
          )}
        </Panel>
        <Panel title="Recent runs" side={<a href={`/customers/${code}/runs`}>All runs</a>}>
          {runs.length === 0 ? <p>No run yet.</p> : runs.map((run) => <RunLine key={run.id} run={run} />)}
        </Panel>
      </div>
    </div>
  );
}
