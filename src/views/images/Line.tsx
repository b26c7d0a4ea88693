import type { MadeImage, MadeVersion } from '../../contract';
import { count } from '../../client/format';
import { ageOf, hostsOf, spotsOf, wordOf } from './line';
import styles from './Images.module.css';

interface Props {
  readonly image: Pick<MadeImage, 'code' | 'name' | 'versions' | 'runs'>;
  readonly now: number;
  /** The version that is shown below; chosen by a press on it. */
  readonly chosen?: number | undefined;
  readonly onChoose?: (number: number) => void;
}

/** So many of the newest are drawn. */
const MOST = 9;

/** The versions of an image in the order in which they were built: what is current, on trial, kept, and who stands on which. */
export function Line({ image, now, chosen, onChoose }: Props) {
  const shown = image.versions.slice(0, MOST);
  const spots = spotsOf(image.code, shown);
  const height = Math.max(...spots.map((one) => one.y), 44) + 66;
  const width = 70 + Math.max(3, shown.length) * 104;
  const [last] = spots.slice(-1);
  return (
    <svg
      className={styles.line}
      viewBox={`0 0 ${width} ${height}`}
      role="group"
      aria-label={`The versions of ${image.name}`}
      style={{ maxWidth: width }}
    >
      {last && <path className={styles.track} d={`M14 44H${last.x}`} />}
      {spots.map(
        (spot) =>
          spot.from &&
          spot.from.y !== spot.y && (
            <path
              key={`from ${spot.number}`}
              className={styles.track}
              d={`M${spot.from.x} ${spot.from.y}C${spot.from.x + 50} ${spot.from.y} ${spot.x - 50} ${spot.y} ${spot.x} ${spot.y}`}
            />
          ),
      )}
      {spots.map((spot) => {
        const version = shown.find((one) => one.number === spot.number);
        return (
          version && (
            <Dot
              key={spot.number}
              version={version}
              word={wordOf(image, version)}
              x={spot.x}
              y={spot.y}
              now={now}
              isChosen={chosen === spot.number}
              onChoose={onChoose}
            />
          )
        );
      })}
    </svg>
  );
}

function Dot({
  version,
  word,
  x,
  y,
  now,
  isChosen,
  onChoose,
}: {
  readonly version: MadeVersion;
  readonly word: string;
  readonly x: number;
  readonly y: number;
  readonly now: number;
  readonly isChosen: boolean;
  readonly onChoose: ((number: number) => void) | undefined;
}) {
  const { number, state } = version;
  const hosts = hostsOf(version);
  const press = onChoose && (() => onChoose(number));
  return (
    <g
      className={styles.dot}
      data-state={word === 'being built' ? 'building' : word}
      data-chosen={isChosen || undefined}
      transform={`translate(${x} ${y})`}
      {...(press
        ? {
            role: 'button',
            tabIndex: 0,
            'aria-pressed': isChosen,
            onClick: press,
            onKeyDown: (event: React.KeyboardEvent) => {
              if (event.key !== 'Enter' && event.key !== ' ') return;
              event.preventDefault();
              press();
            },
          }
        : { role: 'img' })}
      aria-label={`Version ${number}, ${word}, ${count(hosts, 'host', 'hosts')} on it`}
    >
      <circle r="20" />
      {state === 'dropped' && <path d="M-13 -13L13 13" />}
      <text y="5" className={styles.number}>
        {number}
      </text>
      <text y="38" className={styles.word}>
        {word}
      </text>
      <text y="54" className={styles.note}>
        {hosts > 0 ? count(hosts, 'host', 'hosts') : ageOf(version, now)}
      </text>
    </g>
  );
}
