import type { CustomerSummary, Site, Watch as WatchData } from '../../contract';
import type { Money } from '../../core/money';
import { count, writeMoney, writeRoundMoney } from '../../client/format';
import { get } from '../../client/api';
import { useLive } from '../../client/live';
import { Chip } from '../../ui/Chip';
import { Mark, type MarkLook } from '../../ui/Mark';
import { Empty, Figure, Figures, Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { SiteRing } from '../ground/SiteRing';
import { RunLine } from '../runs/RunLine';
import { Legend } from '../shared/Legend';
import { ringOf, ringSays } from '../shared/words';
import { WATCH } from '../shared/questions';
import styles from './Watch.module.css';

const CONCERNS = ['summary', 'run', 'ground'];

/** Is everything all right, and where not? */
export function Watch({
  initial,
  count: total,
  sites,
}: {
  readonly initial: WatchData;
  readonly count: number;
  readonly sites: readonly Site[];
}) {
  const { value } = useLive(WATCH, initial, '/events', (change) => CONCERNS.includes(change.topic));
  const { customers } = value;
  const looks = attentionOf(value);
  const atWork = value.runs.filter((run) => run.state !== 'stopped');
  return (
    <div className={styles.page}>
      <h1 className="sr">Watch</h1>
      {customers.length < total && customers === initial.customers ? (
        <p>Counting {total} customers …</p>
      ) : (
        <Summary customers={customers} />
      )}
      <div className={styles.columns}>
        <section aria-label="Customers">
          {customers.length === 0 ? (
            <Panel>
              <Empty says="You reach no customer yet." />
            </Panel>
          ) : (
            <ul className={styles.rings}>
              {customers.map((customer) => (
                <li key={customer.code}>
                  <CustomerRing customer={customer} />
                </li>
              ))}
            </ul>
          )}
          <div className={styles.legend}>
            <Legend arcs={customers.flatMap((customer) => customer.arcs)} />
          </div>
          <Sites initial={sites} />
        </section>
        <aside>
          <Panel title="Needs a look">
            {looks.length === 0 ? (
              <Chip tone="good">Nothing does.</Chip>
            ) : (
              <ul className={styles.looks}>
                {looks.map((look) => (
                  <li key={`${look.href} ${look.says}`}>
                    <a href={look.href}>
                      {look.mark ? <Mark mark={look.mark} size={26} /> : <Chip tone="bad">{''}</Chip>}
                      <span>{look.says}</span>
                    </a>
                  </li>
                ))}
              </ul>
            )}
          </Panel>
          <Panel title="Running now">
            {atWork.length === 0 ? (
              <p className={styles.quiet}>No run is under way.</p>
            ) : (
              atWork.map((run) => <RunLine key={run.id} run={run} mark={markOf(customers, run.customer)} />)
            )}
          </Panel>
          {value.lately.length > 0 && (
            <Panel title="Recent runs" side={<a href="/runs">All runs</a>}>
              {value.lately.map((run) => (
                <RunLine key={run.id} run={run} mark={markOf(customers, run.customer)} />
              ))}
            </Panel>
          )}
        </aside>
      </div>
    </div>
  );
}

/** How full the ground is on which all of them stand. */
function Sites({ initial }: { readonly initial: readonly Site[] }) {
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

function Summary({ customers }: { readonly customers: readonly CustomerSummary[] }) {
  const total = (of: (one: CustomerSummary) => number): number =>
    customers.reduce((sum, one) => sum + of(one), 0);
  return (
    <div className={styles.summary}>
      <Figures>
        <Figure
          value={total((one) => one.peopleIn)}
          label="people in"
          note={`${total((one) => one.seatsFree)} seats free`}
        />
        <Figure value={total((one) => one.hosts)} label="hosts" note={`${customers.length} customers`} />
        {totals(customers).map(({ soFar, forecast }) => (
          <Figure
            key={soFar.currency}
            value={writeRoundMoney(soFar)}
            label="charged this month"
            note={`forecast ${writeRoundMoney(forecast)}`}
          />
        ))}
      </Figures>
    </div>
  );
}

function CustomerRing({ customer }: { readonly customer: CustomerSummary }) {
  const { peopleIn, seatsFree } = customer;
  return (
    <a href={`/customers/${customer.code}`} className={styles.customer}>
      <Ring
        arcs={ringOf(customer.arcs)}
        size={104}
        label={ringSays(customer.arcs)}
        unit={peopleIn === 1 ? 'person' : 'people'}
      >
        {peopleIn}
      </Ring>
      <span className={styles.name}>
        <Mark mark={customer.mark} size={26} />
        <b>{customer.name}</b>
      </span>
      <span className={styles.facts}>
        <span>
          {customer.state === 'active' ? count(seatsFree, 'seat free', 'seats free') : customer.state}
        </span>
        <span title="this month so far">{writeMoney(customer.soFar)}</span>
      </span>
    </a>
  );
}

interface Look {
  readonly href: string;
  readonly says: string;
  readonly mark?: MarkLook | undefined;
}

function attentionOf({ customers, runs, attention }: WatchData): Look[] {
  return [
    ...attention.map((one): Look => ({ href: '/ground', says: one.says })),
    ...runs
      .filter((run) => run.state === 'stopped')
      .map((run): Look => ({
        href: `/customers/${run.customer}/runs/${run.id}`,
        says: `${run.title}: stopped, ${run.cause === 'by hand' ? 'by hand' : count(run.failed, 'step failed', 'steps failed')}`,
        mark: markOf(customers, run.customer),
      })),
    ...customers.flatMap((customer) =>
      customer.attention.map((one): Look => ({
        href: `/customers/${customer.code}`,
        says: one.says,
        mark: customer.mark,
      })),
    ),
  ];
}

const markOf = (customers: readonly CustomerSummary[], code: string): MarkLook | undefined =>
  customers.find((one) => one.code === code)?.mark;

/** One sum for each currency: amounts of different currencies are never added. */
function totals(customers: readonly CustomerSummary[]): { soFar: Money; forecast: Money }[] {
  const sums = new Map<string, { soFar: number; forecast: number }>();
  for (const { soFar, forecast } of customers) {
    const before = sums.get(soFar.currency) ?? { soFar: 0, forecast: 0 };
    sums.set(soFar.currency, {
      soFar: before.soFar + soFar.minor,
      forecast: before.forecast + forecast.minor,
    });
  }
  return [...sums].map(([currency, { soFar, forecast }]) => ({
    soFar: { minor: soFar, currency },
    forecast: { minor: forecast, currency },
  }));
}
