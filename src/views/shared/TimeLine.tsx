import type { Lane } from '../../core/planning';
import { count, writeSpan } from '../../client/format';
import styles from './TimeLine.module.css';

/** So many of a kind are drawn one by one; of more, those that decide and as many of the others. */
const MOST = 16;
const LINE = 5;

/** When what is worked on: kind by kind, what decides how long it takes in full. */
export function TimeLine({ lanes, finish }: { readonly lanes: readonly Lane[]; readonly finish: number }) {
  if (finish === 0) return null;
  const part = (seconds: number): string => `${(seconds / finish) * 100}%`;
  return (
    <figure className={styles.line}>
      {lanes.map(({ kind, bars }) => {
        const shown = some(bars);
        const from = Math.min(...bars.map((bar) => bar.from));
        const to = Math.max(...bars.map((bar) => bar.to));
        return (
          <div
            key={kind}
            role="img"
            aria-label={`${kind.replaceAll('-', ' ')}: from ${writeSpan(from)} to ${writeSpan(to)}`}
          >
            <span>
              {bars.length === 1 ? kind.replaceAll('-', ' ') : `${bars.length} ${kind.replaceAll('-', ' ')}s`}
            </span>
            <svg height={Math.max(14, shown.length * LINE + 4)} aria-hidden="true">
              {shown.map((bar, at) => (
                <rect
                  key={at}
                  x={part(bar.from)}
                  y={2 + at * LINE + (shown.length < 3 ? 2 : 0)}
                  width={part(Math.max(bar.to - bar.from, finish / 300))}
                  height={shown.length < 3 ? LINE + 1 : LINE - 2}
                  rx="1.5"
                  data-decides={bar.isCritical || undefined}
                />
              ))}
            </svg>
          </div>
        );
      })}
      <figcaption>
        <span>0</span>
        <span className={styles.decides}>{decidingSays(lanes)}</span>
        <span>{writeSpan(finish)}</span>
      </figcaption>
    </figure>
  );
}

/** Of many, those that decide first, in the order in which they begin. */
function some(bars: Lane['bars']): Lane['bars'] {
  if (bars.length <= MOST) return bars;
  const deciding = bars.filter(({ isCritical }) => isCritical).slice(0, MOST);
  const others = bars.filter(({ isCritical }) => !isCritical);
  const step = Math.max(1, Math.floor(others.length / Math.max(1, MOST - deciding.length)));
  const chosen = others.filter((_, n) => n % step === 0).slice(0, MOST - deciding.length);
  return [...deciding, ...chosen].sort((a, b) => a.from - b.from);
}

function decidingSays(lanes: readonly Lane[]): string {
  const deciding = lanes.flatMap(({ bars }) => bars).filter(({ isCritical }) => isCritical);
  const [first] = deciding;
  if (!first) return '';
  const names = deciding.slice(-1).map(({ name }) => name);
  return deciding.length === 1
    ? `${first.name} decides how long it takes`
    : `the longest chain: ${count(deciding.length, 'thing', 'things')}, the last ${names.join('')}`;
}
