import { useState } from 'react';
import type { MeasuredPool, Sizing } from '../../contract';
import { money } from '../../core/money';
import { count, writeMoney } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip, type ChipTone } from '../../ui/Chip';
import type { MarkLook } from '../../ui/Mark';
import { Empty, Panel } from '../../ui/Panel';
import type { Changing } from '../shared/changing';
import { Confirm } from '../shared/Confirm';
import styles from './Bench.module.css';

interface Props {
  readonly sizing: Sizing;
  readonly customer: { readonly code: string; readonly name: string; readonly mark: MarkLook };
  readonly mayChange: boolean;
}

const TONE: Readonly<Record<NonNullable<MeasuredPool['verdict']>, ChipTone>> = {
  right: 'good',
  'too big': 'care',
  'too small': 'bad',
};

/** What was measured of each pool in two weeks, and what that says of its size: with the change that makes it right. */
export function Measured({ sizing, customer, mayChange }: Props) {
  const [asked, setAsked] = useState<{ readonly environment: string; readonly change: Changing }>();
  return (
    <Panel title="Measured in the last two weeks">
      {sizing.pools.length === 0 ? (
        <Empty says="Nothing runs here yet, so nothing was measured." />
      ) : (
        <ul className={styles.measured}>
          {sizing.pools.map((pool) => (
            <li key={`${pool.environmentId} ${pool.pool}`}>
              <div className={styles.pool}>
                <a href={`/customers/${customer.code}/environments/${pool.environmentId}`}>
                  {pool.environment}, {pool.pool}
                </a>
                {pool.verdict && <Chip tone={TONE[pool.verdict]}>{pool.verdict}</Chip>}
                <small>{sayOf(pool)}</small>
                {mayChange && pool.verdict !== null && pool.verdict !== 'right' && (
                  <Button
                    onPress={() => setAsked({ environment: pool.environmentId, change: changeFor(pool) })}
                  >
                    {pool.verdict === 'too big' ? 'Take' : 'Add'}{' '}
                    {count(Math.abs(pool.hosts - pool.needed), 'host', 'hosts')}…
                  </Button>
                )}
              </div>
              <Week pool={pool} />
            </li>
          ))}
        </ul>
      )}
      {asked && (
        <Confirm
          key={`${asked.environment} ${asked.change.what}`}
          customer={customer}
          environment={asked.environment}
          change={asked.change}
          onClose={() => setAsked(undefined)}
        />
      )}
    </Panel>
  );
}

const changeFor = ({ verdict, pool, hosts, needed }: MeasuredPool): Changing => {
  const number = Math.abs(hosts - needed);
  return {
    kind: verdict === 'too big' ? 'take-hosts' : 'add-hosts',
    verb: verdict === 'too big' ? 'Take' : 'Add',
    what: `${count(number, 'host', 'hosts')} of ${pool}`,
    input: { pool, hosts: number },
  };
};

function sayOf({ peak, seats, hosts, needed, monthly, verdict }: MeasuredPool): string {
  const has = `${count(hosts, 'host', 'hosts')} of ${seats} seats`;
  if (peak === null) return `${has}; nothing was measured yet`;
  const said = `${has}; ${peak} at once at most, for which ${needed} are enough, one of them to spare`;
  if (!monthly || verdict === 'right' || verdict === null) return said;
  const amount = writeMoney(money(Math.abs(hosts - needed) * monthly.minor, monthly.currency));
  return verdict === 'too big'
    ? `${said}: ${amount} a month could be saved`
    : `${said}: ${amount} a month more`;
}

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
const WIDTH = 672;
const HEIGHT = 74;

/** A week of hours, each as high as the most that were in at once; the line is what the hosts seat with one lost. */
function Week({ pool }: { readonly pool: MeasuredPool }) {
  const seats = Math.max(0, pool.hosts - 1) * pool.seats;
  const top = Math.max(seats, ...pool.week.map((most) => most ?? 0), 1);
  const y = (value: number): number => HEIGHT - (value / top) * (HEIGHT - 12);
  return (
    <svg
      className={styles.week}
      viewBox={`0 0 ${WIDTH} ${HEIGHT + 18}`}
      role="img"
      aria-label={`At most ${pool.peak ?? 0} at once; with one host lost ${seats} seats are left`}
    >
      {pool.week.map((most, hour) =>
        most === null ? null : (
          <rect
            key={hour}
            x={hour * 4}
            y={y(most)}
            width="3.4"
            height={Math.max(1, HEIGHT - y(most))}
            className={most > seats ? styles.over : styles.bar}
          />
        ),
      )}
      <path className={styles.seats} d={`M0 ${y(seats)}H${WIDTH}`} />
      {DAYS.map((day, n) => (
        <g key={day}>
          {n > 0 && <path className={styles.day} d={`M${n * 96} 4V${HEIGHT}`} />}
          <text x={n * 96 + 48} y={HEIGHT + 14}>
            {day}
          </text>
        </g>
      ))}
    </svg>
  );
}
