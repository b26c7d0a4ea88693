import type { AddressRange } from '../../contract';
import { count } from '../../client/format';
import styles from './Ground.module.css';

/** A range of addresses as a strip: each block where it lies; then what is left, in numbers. */
export function Addresses({ range }: { readonly range: AddressRange }) {
  const given = count(range.given.length + range.others, 'block is given', 'blocks are given');
  const left = range.largestFree === null ? 'nothing is free' : `largest free ${range.largestFree}`;
  return (
    <div className={styles.addresses}>
      <code>{range.cidr}</code>
      <div className={styles.strip} role="img" aria-label={`${range.cidr}: ${given}, ${left}`}>
        {range.given.map((block) => (
          <span
            key={block.cidr}
            title={`${block.cidr} ${block.customer}`}
            style={{ left: `${block.from * 100}%`, width: `max(3px, ${block.part * 100}%)` }}
          />
        ))}
      </div>
      <span>
        {given}
        {range.others > 0 && ` (${range.others} to others)`}, {left}
        {range.fragmentation > 0.5 && ', the rest is scattered'}
      </span>
    </div>
  );
}
