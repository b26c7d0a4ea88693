import type { CSSProperties } from 'react';
import type { AddressRange, GivenBlock, Kept, Mark } from '../../contract';
import { count } from '../../client/format';
import { addressRows } from './address-rows';
import styles from './AddressPlan.module.css';

type Entry = (GivenBlock & { readonly what: 'given' }) | (Kept & { readonly what: 'kept' });

/** So wide, as a part of its row, a block is for its customer's code to be read in it. */
const READABLE = 0.045;

/** A range, sixteen rows of equal blocks: who holds what, what is kept clear, what is free. */
export function AddressMap({
  range,
  marks,
}: {
  readonly range: AddressRange;
  readonly marks: Readonly<Record<string, Mark>>;
}) {
  const entries: Entry[] = [
    ...range.given.map((one) => ({ ...one, what: 'given' as const })),
    ...range.kept.map((one) => ({ ...one, what: 'kept' as const })),
  ];
  return (
    <div
      className={styles.map}
      data-closed={range.closed || undefined}
      role="group"
      aria-label={`${range.cidr}: ${count(range.given.length + range.others, 'block is', 'blocks are')} given`}
    >
      {addressRows(range.cidr, entries).map((row) => (
        <div key={row.cidr} className={styles.row}>
          <code>{row.cidr}</code>
          <div>
            {row.rows > 1 && <span className={styles.folded}>{row.rows} such blocks are free</span>}
            {row.pieces.map(({ entry, from, part }) => (
              <Block
                key={entry.cidr}
                entry={entry}
                from={from}
                part={part}
                mark={'customer' in entry ? marks[entry.customer] : undefined}
              />
            ))}
          </div>
        </div>
      ))}
    </div>
  );
}

function Block({
  entry,
  from,
  part,
  mark,
}: {
  readonly entry: Entry;
  readonly from: number;
  readonly part: number;
  readonly mark: Mark | undefined;
}) {
  const place: CSSProperties = { left: `${from * 100}%`, width: `max(3px, ${part * 100}%)` };
  if (entry.what === 'kept')
    return <span className={styles.kept} style={place} title={`${entry.cidr} kept clear: ${entry.name}`} />;
  const says = `${entry.cidr} ${entry.customer}, ${Math.round(entry.used * 100)} % in subnets`;
  return (
    <a
      href={`/customers/${entry.customer}`}
      className={styles.given}
      style={{ ...place, ['--hue' as string]: mark?.hue ?? 0 }}
      title={says}
      aria-label={says}
    >
      {part >= READABLE && entry.customer}
    </a>
  );
}
