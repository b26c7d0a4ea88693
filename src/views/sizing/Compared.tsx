import type { Sizing } from '../../contract';
import { writeSize } from '../../core/machines';
import { money } from '../../core/money';
import type { BenchPoint } from '../../core/sizing';
import { count, writeMoney } from '../../client/format';
import { Panel } from '../../ui/Panel';
import { siteName, spareName } from './words';
import styles from './Bench.module.css';

interface Props {
  /** One or two. */
  readonly points: readonly BenchPoint[];
  readonly best: string | undefined;
  readonly sizing: Sizing;
}

const ROWS: readonly {
  readonly title: string;
  readonly of: (point: BenchPoint, sizing: Sizing) => string;
}[] = [
  { title: 'Hosts', of: (point) => `${point.hosts} × ${writeSize(point.size)}` },
  { title: 'Site', of: (point, sizing) => siteName(sizing, point.site) },
  { title: 'Arrivals', of: (point) => point.arrival },
  { title: 'Seats a host', of: (point) => `${point.seats}, ${point.binding} runs out first` },
  { title: 'Hosts to spare', of: (point) => `${Math.max(0, point.spareHosts)} (${spareName(point)})` },
  { title: 'Hit by one loss', of: (point) => count(point.peopleHit, 'person', 'people') },
  { title: 'A month', of: (point) => writeMoney(point.monthly) },
  {
    title: 'A seat a month',
    of: ({ monthly, hosts, seats }) =>
      writeMoney(money(Math.round(monthly.minor / (hosts * seats)), monthly.currency)),
  },
];

/** One way, or two side by side, with what differs marked. */
export function Compared({ points, best, sizing }: Props) {
  const [one, other] = points;
  if (!one) return null;
  return (
    <Panel
      title={
        other ? 'Two side by side' : one.key === best ? 'The cheapest with a host to spare' : 'The chosen one'
      }
    >
      <table className={styles.compared}>
        <tbody>
          {ROWS.map(({ title, of }) => {
            const values = points.map((point) => of(point, sizing));
            const differs = values.length === 2 && values[0] !== values[1];
            return (
              <tr key={title} data-differs={differs || undefined}>
                <th scope="row">{title}</th>
                {values.map((value, n) => (
                  <td key={n}>{value}</td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
      {other && <p className={styles.says}>The second costs {difference(one, other)} a month.</p>}
    </Panel>
  );
}

function difference(one: BenchPoint, other: BenchPoint): string {
  const more = other.monthly.minor - one.monthly.minor;
  if (more === 0) return 'as much';
  return `${writeMoney(money(Math.abs(more), one.monthly.currency))} ${more > 0 ? 'more' : 'less'}`;
}
