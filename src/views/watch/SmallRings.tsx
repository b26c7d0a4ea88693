import { memo, type KeyboardEvent } from 'react';
import type { CustomerSummary } from '../../contract';
import { Ring } from '../../ui/Ring';
import { ringOf, ringSays } from '../shared/words';
import { stepFrom, type Group } from './choose';
import styles from './Many.module.css';

/** Customers as small rings, close together: each its own link; Tab goes from group to group, arrows from ring to ring. */
export function SmallRings({
  groups,
  onRead,
}: {
  readonly groups: readonly Group[];
  readonly onRead: (customer: CustomerSummary | undefined) => void;
}) {
  return (
    <div
      onMouseLeave={() => onRead(undefined)}
      onBlur={({ currentTarget, relatedTarget }) => {
        if (!currentTarget.contains(relatedTarget)) onRead(undefined);
      }}
    >
      {groups.map(({ title, customers }) => (
        <section key={title} className={styles.group} aria-label={title}>
          <ul onKeyDown={goOn}>
            <li className={styles.title}>
              <h2>{title}</h2> <span>{customers.length}</span>
            </li>
            {customers.map((customer, n) => (
              <SmallRing key={customer.code} customer={customer} isFirst={n === 0} onRead={onRead} />
            ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

const SmallRing = memo(
  function SmallRing({
    customer,
    isFirst,
    onRead,
  }: {
    readonly customer: CustomerSummary;
    readonly isFirst: boolean;
    readonly onRead: (customer: CustomerSummary) => void;
  }) {
    const { code, name, peopleIn, arcs } = customer;
    return (
      <li>
        <a
          href={`/customers/${code}`}
          tabIndex={isFirst ? 0 : -1}
          aria-label={`${name}, ${peopleIn} in, ${ringSays(arcs)}`}
          onMouseEnter={() => onRead(customer)}
          onFocus={() => onRead(customer)}
        >
          <Ring arcs={ringOf(arcs)} size={22} label="" />
          <span>{code.slice(0, 4)}</span>
        </a>
      </li>
    );
  },
  // What a small ring does not show draws nothing anew.
  (before, now) =>
    before.isFirst === now.isFirst &&
    before.customer.peopleIn === now.customer.peopleIn &&
    JSON.stringify(before.customer.arcs) === JSON.stringify(now.customer.arcs) &&
    before.customer.soFar.minor === now.customer.soFar.minor,
);

/** Arrows go to the ring beside, above or below; Home and End to the first and the last. */
function goOn(event: KeyboardEvent<HTMLUListElement>): void {
  const rings = [...event.currentTarget.querySelectorAll('a')];
  const at = rings.indexOf(document.activeElement as HTMLAnchorElement);
  if (at === -1) return;
  // The first row begins beside the title, so the second tells how many a row holds.
  const rows = rings.flatMap((ring, n) => (ring.offsetTop === rings[n - 1]?.offsetTop ? [] : [n]));
  const aRow = (rows[2] ?? rings.length) - (rows[1] ?? 0);
  const next = stepFrom(at, event.key, aRow, rings.length);
  const ring = next === undefined ? undefined : rings[next];
  if (!ring) return;
  event.preventDefault();
  ring.focus();
}
