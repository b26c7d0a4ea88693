import type { Step } from '../../contract';
import { useMemo } from 'react';
import { placesOf, tiesOf } from './graph-places';
import styles from './Graph.module.css';
import { stepWords } from './words';

const WIDTH = 124;
const HEIGHT = 34;
/** What a subject is called stands left of its row, as long as it may be in characters, and how wide one is. */
const LABEL = { most: 22, character: 8, gap: 14 };
const BOX = { width: 108, height: 24 };
/** Half of what lies between two columns, and between two rows: there the ties run, and cross no box. */
const GAP = { column: (WIDTH - BOX.width) / 2, row: (HEIGHT - BOX.height) / 2 };
/** More rows than this are not read as a picture: then only those that matter are drawn. */
const MOST_ROWS = 40;

/** From the right of one box to the left of another, between the columns and between the rows. */
function tie([x1, y1]: readonly [number, number], [x2, y2]: readonly [number, number]): string {
  if (y1 === y2 && x2 - x1 <= WIDTH) return `M${x1} ${y1}H${x2}`;
  const above = y2 - BOX.height / 2 - GAP.row;
  const direct = x2 - x1 <= 2 * GAP.column;
  const across = direct ? '' : `V${above}H${x2 - GAP.column}`;
  return `M${x1} ${y1}H${x1 + GAP.column}${across}V${y2}H${x2}`;
}

/** The steps as a graph: a row for each thing, from left to right as they need each other. */
export function Graph({ steps }: { readonly steps: readonly Step[] }) {
  const shown = useMemo(() => mattering(steps), [steps]);
  const { placed, subjects, columns } = useMemo(() => placesOf(shown), [shown]);
  const ties = useMemo(() => tiesOf(shown), [shown]);
  const at = new Map(placed.map((one) => [one.step.id, one]));
  const longest = Math.max(0, ...subjects.map((subject) => Math.min(subject.length, LABEL.most)));
  const left = longest * LABEL.character + LABEL.gap;
  const x = (column: number): number => left + column * WIDTH;
  /** In the last column nothing is to the right: there a box is as wide as its words. */
  const isLast = (column: number): boolean => column === columns - 1;
  const widthOf = (step: Step, column: number): number =>
    isLast(column) ? Math.max(BOX.width, stepWords(step).length * 7 + 34) : BOX.width;
  const widest = Math.max(0, ...placed.map(({ step, column }) => x(column) + widthOf(step, column)));
  const y = (row: number): number => row * HEIGHT + 6;
  return (
    <div className={styles.graph} tabIndex={0} role="region" aria-label="Steps as a graph">
      <svg width={widest + 2} height={y(subjects.length) + 4} aria-hidden="true">
        {placed.flatMap(({ step, row, column }) =>
          (ties.get(step.id) ?? []).flatMap((need) => {
            const from = at.get(need);
            if (!from) return [];
            const [x1, y1] = [x(from.column) + BOX.width, y(from.row) + BOX.height / 2];
            const [x2, y2] = [x(column), y(row) + BOX.height / 2];
            return [
              <path
                key={`${need} ${step.id}`}
                d={tie([x1, y1], [x2, y2])}
                className={from.step.state === 'done' ? styles.met : styles.tie}
              />,
            ];
          }),
        )}
        {subjects.map((subject, row) => (
          <text key={subject} x={0} y={y(row) + 17} className={styles.subject}>
            {subject.length > LABEL.most ? `${subject.slice(0, LABEL.most - 1)}…` : subject}
          </text>
        ))}
        {placed.map(({ step, row, column }) => (
          <g key={step.id} transform={`translate(${x(column)} ${y(row)})`} className={styles[step.state]}>
            <title>{`${stepWords(step)} ${step.subject}: ${step.state}${step.says === '' ? '' : `, ${step.says}`}`}</title>
            <rect {...BOX} width={widthOf(step, column)} rx="6" />
            {step.state === 'done' && <path d="M8 12.5L11 15.5L16.5 9" className={styles.sign} />}
            {step.state === 'failed' && <path d="M9 9L15 15M15 9L9 15" className={styles.sign} />}
            {step.state === 'working' && <circle cx="12" cy="12" r="4" className={styles.sign} />}
            <text x={step.state === 'waiting' ? 10 : 22} y="16.5">
              {isLast(column) ? stepWords(step) : shortWords(step)}
            </text>
          </g>
        ))}
      </svg>
      {shown.length < steps.length && (
        <p>
          {shown.length} of {steps.length} steps are drawn: those at work, failed or next. The list below has
          all.
        </p>
      )}
    </div>
  );
}

const shortWords = (step: Step): string => {
  const words = stepWords(step);
  return words.length > 13 ? words.slice(0, 12).trimEnd() + '…' : words;
};

function mattering(steps: readonly Step[]): readonly Step[] {
  const subjects = [...new Set(steps.map((step) => step.subject))];
  if (subjects.length <= MOST_ROWS) return steps;
  const weight = (subject: string): number => {
    const own = steps.filter((step) => step.subject === subject);
    if (own.some((step) => step.state === 'failed')) return 0;
    if (own.some((step) => step.state === 'working')) return 1;
    return own.every((step) => step.state === 'done' || step.state === 'overtaken') ? 3 : 2;
  };
  const weights = new Map(subjects.map((subject) => [subject, weight(subject)]));
  const kept = new Set(
    [...subjects].sort((a, b) => (weights.get(a) ?? 9) - (weights.get(b) ?? 9)).slice(0, MOST_ROWS),
  );
  return steps.filter((step) => kept.has(step.subject));
}
