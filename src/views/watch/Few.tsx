import type { CustomerSummary, Site, Watch } from '../../contract';
import { count, writeMoney } from '../../client/format';
import { Mark } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { RunLine } from '../runs/RunLine';
import { Legend } from '../shared/Legend';
import { NoCustomer } from '../shared/NoCustomer';
import { ringOf, ringSays } from '../shared/words';
import { LargeRing } from './LargeRing';
import { Looks } from './Looks';
import { Sites } from './Sites';
import { Totals } from './Totals';
import styles from './Watch.module.css';

/** So few have room for their figures beside their rings. */
const FEWEST = 3;

/** Each customer as a large ring, what needs a look and what runs beside them. */
export function Few({
  value,
  sites,
  mayMark,
  onMarked,
}: {
  readonly value: Watch;
  readonly sites: readonly Site[];
  readonly mayMark: boolean;
  readonly onMarked: () => void;
}) {
  const { customers } = value;
  const marks = new Map(customers.map((one) => [one.code, one.mark]));
  const isFewest = customers.length <= FEWEST;
  const atWork = value.runs.filter((run) => run.state !== 'stopped');
  return (
    <>
      <Totals customers={customers} />
      <div className={styles.columns}>
        <section aria-label="Customers">
          {customers.length === 0 ? (
            <Panel>
              <NoCustomer />
            </Panel>
          ) : (
            <ul className={isFewest ? styles.largeRings : styles.rings}>
              {customers.map((customer) => (
                <li key={customer.code}>
                  {isFewest ? <LargeRing customer={customer} /> : <CustomerRing customer={customer} />}
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
            <Looks
              looks={value.looks}
              customers={new Map(customers.map((one) => [one.code, one]))}
              mayMark={mayMark}
              onMarked={onMarked}
            />
          </Panel>
          <Panel title="Running now">
            {atWork.length === 0 ? (
              <p className={styles.quiet}>No run is under way.</p>
            ) : (
              atWork.map((run) => <RunLine key={run.id} run={run} mark={marks.get(run.customer)} />)
            )}
          </Panel>
          {value.lately.length > 0 && (
            <Panel title="Recent runs" side={<a href="/runs">All runs</a>}>
              {value.lately.map((run) => (
                <RunLine key={run.id} run={run} mark={marks.get(run.customer)} />
              ))}
            </Panel>
          )}
        </aside>
      </div>
    </>
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
