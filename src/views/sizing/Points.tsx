import { CartesianGrid, ResponsiveContainer, Scatter, ScatterChart, Tooltip, XAxis, YAxis } from 'recharts';
import type { Sizing } from '../../contract';
import type { BenchPoint } from '../../core/sizing';
import { count, writeMoney } from '../../client/format';
import { pointName, spareName } from './words';
import styles from './Bench.module.css';

interface Props {
  readonly points: readonly BenchPoint[];
  readonly best: string | undefined;
  readonly chosen: readonly string[];
  readonly onChoose: (key: string) => void;
  readonly sizing: Sizing;
}

interface Dot extends BenchPoint {
  readonly x: number;
  readonly y: number;
}

/** Cost a month against people hit by the loss of one host: what is low and left is good. */
export default function Points({ points, best, chosen, onChoose, sizing }: Props) {
  const data = [...points]
    .sort((a, b) => Number(b.isBeaten) - Number(a.isBeaten))
    .map((one): Dot => ({ ...one, x: one.monthly.minor, y: one.peopleHit }));
  const write = (minor: number): string => writeMoney({ minor, currency: sizing.currency });
  return (
    <>
      <div
        className={styles.chart}
        role="group"
        aria-label="Cost a month against people hit by the loss of one host"
      >
        <ResponsiveContainer width="100%" height="100%">
          <ScatterChart margin={{ top: 8, right: 12, bottom: 22, left: 4 }}>
            <CartesianGrid stroke="var(--line)" />
            <XAxis
              type="number"
              dataKey="x"
              domain={['auto', 'auto']}
              tickLine={false}
              axisLine={{ stroke: 'var(--line-2)' }}
              tick={{ fill: 'var(--ink-3)', fontSize: 12.5 }}
              tickFormatter={(minor: number) => write(minor).replace(/[.,]\d\d$/, '')}
              label={{
                value: 'a month',
                position: 'insideBottom',
                offset: -14,
                fill: 'var(--ink-2)',
                fontSize: 12.5,
              }}
            />
            <YAxis
              type="number"
              dataKey="y"
              domain={[0, (most: number) => Math.ceil(most * 1.1 + 1)]}
              width={44}
              allowDecimals={false}
              tickLine={false}
              axisLine={false}
              tick={{ fill: 'var(--ink-3)', fontSize: 12.5 }}
              label={{
                value: 'people hit by one loss',
                angle: -90,
                position: 'insideLeft',
                style: { textAnchor: 'middle' },
                fill: 'var(--ink-2)',
                fontSize: 12.5,
              }}
            />
            <Tooltip
              cursor={false}
              content={({ payload }) => (
                <Tip point={payload[0]?.payload as Dot | undefined} sizing={sizing} />
              )}
            />
            <Scatter
              data={data}
              isAnimationActive={false}
              shape={(dot: unknown) => {
                const { cx = 0, cy = 0, payload } = dot as { cx?: number; cy?: number; payload: Dot };
                return (
                  <Shape
                    point={payload}
                    cx={cx}
                    cy={cy}
                    isBest={payload.key === best}
                    isChosen={chosen.includes(payload.key)}
                    name={pointName(payload, sizing)}
                    onChoose={() => onChoose(payload.key)}
                  />
                );
              }}
            />
          </ScatterChart>
        </ResponsiveContainer>
      </div>
      <ul className={styles.legend}>
        <li>
          <Sample arrival="spread" spare={1} /> spread
        </li>
        <li>
          <Sample arrival="fill" spare={1} /> fill
        </li>
        <li>
          <Sample arrival="spread" spare={0} /> no host to spare
        </li>
        <li>
          <Sample arrival="spread" spare={1} /> N+1
        </li>
        <li>
          <Sample arrival="spread" spare={2} /> N+2
        </li>
        <li>faint: another is better in everything</li>
        <li>choose two to compare them</li>
      </ul>
    </>
  );
}

const R = 8;

/** Round: spread; square: fill. Empty: none to spare; full: one; with a ring: two. */
function Figure({ arrival, spare }: { readonly arrival: BenchPoint['arrival']; readonly spare: number }) {
  const fill = spare <= 0 ? 'var(--sheet)' : 'var(--serving)';
  return (
    <>
      {arrival === 'spread' ? (
        <circle r={R} fill={fill} stroke="var(--serving)" strokeWidth="2" />
      ) : (
        <rect
          x={-R}
          y={-R}
          width={2 * R}
          height={2 * R}
          rx="2"
          fill={fill}
          stroke="var(--serving)"
          strokeWidth="2"
        />
      )}
      {spare >= 2 && <circle r="3.5" fill="var(--sheet)" />}
    </>
  );
}

const Sample = (props: Parameters<typeof Figure>[0]) => (
  <svg viewBox="-11 -11 22 22" width="16" height="16" aria-hidden="true">
    <Figure {...props} />
  </svg>
);

function Shape({
  point,
  cx,
  cy,
  isBest,
  isChosen,
  name,
  onChoose,
}: {
  readonly point: BenchPoint;
  readonly cx: number;
  readonly cy: number;
  readonly isBest: boolean;
  readonly isChosen: boolean;
  readonly name: string;
  readonly onChoose: () => void;
}) {
  return (
    <g
      className={styles.point}
      transform={`translate(${cx} ${cy})`}
      opacity={point.isBeaten && !isChosen ? 0.22 : 1}
      role="button"
      tabIndex={point.isBeaten ? -1 : 0}
      aria-pressed={isChosen}
      aria-label={`${name}, ${spareName(point)}, ${writeMoney(point.monthly)} a month, ${count(point.peopleHit, 'person', 'people')} hit`}
      onClick={onChoose}
      onKeyDown={(event) => {
        if (event.key !== 'Enter' && event.key !== ' ') return;
        event.preventDefault();
        onChoose();
      }}
    >
      {(isBest || isChosen) && (
        <circle r="14" fill="none" stroke={isChosen ? 'var(--ink)' : 'var(--accent)'} strokeWidth="2.5" />
      )}
      <Figure arrival={point.arrival} spare={point.spareHosts} />
    </g>
  );
}

function Tip({ point, sizing }: { readonly point: BenchPoint | undefined; readonly sizing: Sizing }) {
  if (!point) return null;
  return (
    <div className={styles.tip}>
      <b>{pointName(point, sizing)}</b>
      <span>
        {spareName(point)} · {writeMoney(point.monthly)} a month
      </span>
      <span>
        {count(point.peopleHit, 'person', 'people')} hit by the loss of one host; {point.binding} runs out
        first
      </span>
    </div>
  );
}
