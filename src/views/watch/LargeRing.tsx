import type { ReactNode } from 'react';
import type { CustomerSummary } from '../../contract';
import { count, writeMoney } from '../../client/format';
import { Chip } from '../../ui/Chip';
import { Mark } from '../../ui/Mark';
import { Ring } from '../../ui/Ring';
import { ringOf, ringSays } from '../shared/words';
import styles from './Watch.module.css';

/** A customer where there are only a few: a ring as a page has it, and the figures beside it. */
export function LargeRing({ customer }: { readonly customer: CustomerSummary }) {
  const { code, name, mark, state, arcs, people, peopleIn, seats, seatsFree, hosts } = customer;
  return (
    <a href={`/customers/${code}`} className={styles.large}>
      <Ring arcs={ringOf(arcs)} size={188} label={ringSays(arcs)} unit={peopleIn === 1 ? 'person' : 'people'}>
        {peopleIn}
      </Ring>
      <span>
        <span className={styles.name}>
          <Mark mark={mark} size={34} />
          <b>{name}</b>
          {state !== 'active' && <Chip tone="care">{state}</Chip>}
        </span>
        <span className={styles.about}>
          <Fact title="People in">
            {peopleIn} of {people}
          </Fact>
          <Fact title="Seats free">
            {seatsFree} of {seats}
          </Fact>
          <Fact title="Hosts">{count(hosts, 'host', 'hosts')}</Fact>
          <Fact title="This month so far">{writeMoney(customer.soFar)}</Fact>
          <Fact title="Forecast">{writeMoney(customer.forecast)}</Fact>
          <Fact title="Home">
            {customer.site}, plan {customer.plan}
          </Fact>
        </span>
      </span>
    </a>
  );
}

const Fact = ({ title, children }: { readonly title: string; readonly children: ReactNode }) => (
  <span>
    <small>{title}</small>
    <b>{children}</b>
  </span>
);
