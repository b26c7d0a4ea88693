import type { AddressRange } from '../../contract';
import { count } from '../../client/format';
import { placeIn } from './address-rows';
import styles from './Ground.module.css';

/** A range of addresses as a strip: each block where it lies; then what is left, in numbers. */
export function Addresses({ range }: { readonly range: AddressRange }) {
  const given = count(range.given.length + range.others, 'block is given', 'blocks are given');
  const left = range.largestFree === null ? 'nothing is free' : `largest free ${range.largestFree}`;
  return (
    <div className={styles.addresses}>
      <a href="/ground/addresses">
        <code>{range.cidr}</code>
      </a>
      <div className={styles.strip} role="img" aria-label={`${range.cidr}: ${given}, ${left}`}>
        {range.given.map((block) => {
          const place = placeIn(range.cidr, block.cidr);
          return (
            place && (
              <span
                key={block.cidr}
                title={`${block.cidr} ${block.customer}`}
                style={{ left: `${place.from * 100}%`, width: `max(3px, ${place.part * 100}%)` }}
              />
            )
          );
        })}
      </div>
      <span>
        {given}
        {range.others > 0 && ` (${range.others} to others)`}, {left}
        {range.fragmentation > 0.5 && ', the rest is scattered'}
      </span>
    </div>
  );
}
