import type { JoinedNetwork } from '../../contract';
import { Mark, type MarkLook } from '../../ui/Mark';
import { drawnOf, stateOf } from './joined';
import styles from './Circle.module.css';

const SIZE = 300;
const RADIUS = 116;
const HUB = 46;
const MARK = 30;

interface Props {
  readonly networks: readonly JoinedNetwork[];
  readonly marks: Readonly<Record<string, MarkLook>>;
  readonly cidr: string;
}

/** Customers around the shared services, each with two ways: out and back. None leads to another customer. */
export function Circle({ networks, marks, cidr }: Props) {
  const { drawn, others } = drawnOf(networks);
  return (
    <svg
      className={styles.circle}
      viewBox={`0 0 ${SIZE} ${SIZE}`}
      role="img"
      aria-label={`Shared services ${cidr} and ${networks.length} networks around them`}
    >
      {drawn.map((one, n) => (
        <Spoke
          key={one.customer}
          one={one}
          angle={(n / drawn.length) * 2 * Math.PI - Math.PI / 2}
          mark={marks[one.customer]}
        />
      ))}
      <circle className={styles.hub} cx={SIZE / 2} cy={SIZE / 2} r={HUB} />
      <text className={styles.name} x={SIZE / 2} y={SIZE / 2 - 4} textAnchor="middle">
        services
      </text>
      <text className={styles.small} x={SIZE / 2} y={SIZE / 2 + 14} textAnchor="middle">
        {others > 0 ? `and ${others} more` : cidr}
      </text>
    </svg>
  );
}

/** The two ways lie beside each other; what is missing is broken off in the middle, and crossed. */
function Spoke({
  one,
  angle,
  mark,
}: {
  readonly one: JoinedNetwork;
  readonly angle: number;
  readonly mark: MarkLook | undefined;
}) {
  const at = (radius: number, aside: number): [number, number] => [
    SIZE / 2 + radius * Math.cos(angle) - aside * Math.sin(angle),
    SIZE / 2 + radius * Math.sin(angle) + aside * Math.cos(angle),
  ];
  const [x, y] = at(RADIUS, 0);
  return (
    <g>
      <title>{`${one.customer} ${one.cidr}: ${stateOf(one).says}`}</title>
      {(['out', 'back'] as const).map((side) => {
        const aside = side === 'out' ? -4 : 4;
        const [from, to] = [at(HUB + 3, aside), at(RADIUS - MARK / 2 - 3, aside)];
        const middle = at((HUB + RADIUS - MARK / 2) / 2, aside);
        return (
          <g key={side} className={styles[one[side] === 'stands' ? 'stands' : 'missing']}>
            <line x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} />
            {one[side] === 'missing' && <path d={`M${middle[0] - 4} ${middle[1] - 4}l8 8m0 -8l-8 8`} />}
          </g>
        );
      })}
      <svg x={x - MARK / 2} y={y - MARK / 2} width={MARK} height={MARK}>
        {mark && <Mark mark={mark} size={MARK} />}
      </svg>
    </g>
  );
}
