import type { TermDifference } from '../../core/plans';
import styles from './Plans.module.css';

/** What two sets of terms say otherwise: what becomes less is marked, with a sign and not by its colour alone. */
export function Differences({
  from,
  to,
  differences,
}: {
  readonly from: string;
  readonly to: string;
  readonly differences: readonly TermDifference[];
}) {
  if (differences.length === 0) return <p className={styles.help}>They say the same.</p>;
  return (
    <table className={styles.differences}>
      <thead>
        <tr>
          <td />
          <th scope="col">{from}</th>
          <th scope="col">{to}</th>
        </tr>
      </thead>
      <tbody>
        {differences.map((one) => (
          <tr key={one.title}>
            <th scope="row">{one.title}</th>
            <td>{one.from}</td>
            <td data-less={one.less || undefined}>
              {one.less === undefined ? '' : one.less ? '▾ ' : '▴ '}
              {one.to}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
