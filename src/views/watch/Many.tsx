import { useState } from 'react';
import type { CustomerSummary, Watch } from '../../contract';
import { count as counted, writeMoney } from '../../client/format';
import { Chip } from '../../ui/Chip';
import { Mark } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import { Ring } from '../../ui/Ring';
import { RunLine } from '../runs/RunLine';
import { Legend } from '../shared/Legend';
import { ringOf, ringSays } from '../shared/words';
import { Choices } from './Choices';
import { EVERYONE, groupsOf, isChosen, type Choice } from './choose';
import styles from './Many.module.css';
import { Looks } from './Looks';
import { needsOf, steady, type Need } from './needs';
import { SmallRings } from './SmallRings';
import { TotalsInShort } from './Totals';

/** As many as stand large beside the others. */
const LARGE = 12;
const RUNS = 3;

/** All of them on one screen as small rings; large, and in words, those that need a look. */
export function Many({
  value,
  count,
  mayMark,
  onMarked,
}: {
  readonly value: Watch;
  readonly count: number;
  readonly mayMark: boolean;
  readonly onMarked: () => void;
}) {
  const [choice, setChoice] = useState<Choice>(EVERYONE);
  const [read, setRead] = useState<CustomerSummary>();
  const { customers } = value;
  const byCode = new Map(customers.map((one) => [one.code, one]));
  // What keeps people out or slows them stands by itself, in order of how many.
  const hits = value.looks.filter((one) => one.people > 0 && one.harm !== 'soon');
  const needs = useSteady(needsOf(value));
  const atWork = value.runs.filter((run) => run.state !== 'stopped');
  const needy = new Set(needs.map((one) => one.key));
  const busy = new Set(atWork.map((run) => run.customer));
  const mine = new Set(value.mine);
  const chosen = customers.filter((one) => isChosen(one, choice, mine));
  const marks = new Map(customers.map((one) => [one.code, one.mark]));
  const isWhole = customers.length >= count;
  const isOne = (code: string): boolean => {
    const customer = byCode.get(code);
    return customer === undefined || isChosen(customer, choice, mine);
  };
  const chosenHits = hits.filter((one) => one.customers.some(isOne));
  const chosenNeeds = needs.filter((one) => !one.customer || isChosen(one.customer, choice, mine));
  return (
    <>
      <div className={styles.line} data-reads={read !== undefined || undefined}>
        {isWhole ? (
          <TotalsInShort customers={chosen} />
        ) : (
          <p className={styles.short}>Counting {count} customers …</p>
        )}
        {read && <ReadLine customer={read} />}
      </div>
      <div className={styles.columns}>
        <section aria-label="Customers" className={styles.all}>
          <Choices choice={choice} onChoice={setChoice} customers={customers} />
          <SmallRings
            groups={groupsOf(chosen, choice.by, (one) =>
              needy.has(one.code) ? 'Needs a look' : busy.has(one.code) ? 'A run at work' : 'Calm',
            )}
            onRead={setRead}
          />
          {chosen.length === 0 && isWhole && <p className={styles.quiet}>No customer is so.</p>}
          <Legend arcs={chosen.flatMap((customer) => customer.arcs)} />
          <p className={styles.quiet}>
            {chosen.length === count ? `${count} customers` : `${chosen.length} of ${count} customers`}. Point
            at a ring to read it in the first line; arrows go from one to the next.
          </p>
        </section>
        <aside>
          {chosenHits.length > 0 && (
            <Panel title="Hits people" side={<b>{chosenHits.length}</b>}>
              <Looks
                looks={chosenHits.slice(0, LARGE)}
                customers={byCode}
                mayMark={mayMark}
                onMarked={onMarked}
              />
            </Panel>
          )}
          <Panel title="Needs a look" side={<b>{chosenNeeds.length}</b>}>
            {chosenNeeds.length === 0 ? (
              <Chip tone="good">Nothing does.</Chip>
            ) : (
              <ul className={styles.needs}>
                {chosenNeeds.slice(0, LARGE).map((need) => (
                  <li key={need.key}>
                    <NeedLine need={need} />
                  </li>
                ))}
              </ul>
            )}
            {chosenNeeds.length > LARGE && (
              <p className={styles.quiet}>{chosenNeeds.length - LARGE} more stand first among the rings.</p>
            )}
          </Panel>
          <Panel title="Running now" side={<a href="/runs">{counted(atWork.length, 'run', 'runs')}</a>}>
            {atWork.length === 0 && <p className={styles.quiet}>No run is under way.</p>}
            {atWork.slice(0, RUNS).map((run) => (
              <RunLine key={run.id} run={run} mark={marks.get(run.customer)} />
            ))}
          </Panel>
        </aside>
      </div>
    </>
  );
}

/** Keeps what needs a look in the order in which it was first shown. */
function useSteady(needs: readonly Need[]): Need[] {
  const [order, setOrder] = useState<readonly string[]>([]);
  const now = steady(order, needs, (one) => one.key);
  const keys = now.map((one) => one.key);
  if (keys.join(' ') !== order.join(' ')) setOrder(keys);
  return now;
}

function NeedLine({ need: { customer, looks } }: { readonly need: Need }) {
  const [first] = looks;
  if (!first) return null;
  return (
    <a href={first.href} className={styles.need}>
      {customer ? (
        <Ring arcs={ringOf(customer.arcs)} size={44} label={ringSays(customer.arcs)} />
      ) : (
        <Chip tone="bad">{''}</Chip>
      )}
      <span>
        {customer && (
          <span className={styles.whose}>
            <Mark mark={customer.mark} size={22} />
            <b title={customer.name}>{customer.name}</b>
          </span>
        )}
        <span className={styles.why}>
          {first.says}
          {looks.length > 1 && <em> and {looks.length - 1} more</em>}
        </span>
      </span>
    </a>
  );
}

/** The one that is pointed at, in words, where all together stand else: nothing moves. */
function ReadLine({ customer }: { readonly customer: CustomerSummary }) {
  return (
    <p className={styles.read} aria-hidden="true">
      <Mark mark={customer.mark} size={24} />
      <b>{customer.name}</b>
      <span>{counted(customer.peopleIn, 'person in', 'people in')}</span>
      <span>{counted(customer.seatsFree, 'seat free', 'seats free')}</span>
      <span>{ringSays(customer.arcs)}</span>
      <span>
        {customer.site}, {customer.plan}
        {customer.state === 'active' ? '' : `, ${customer.state}`}
      </span>
      <span>{writeMoney(customer.soFar)}</span>
    </p>
  );
}
