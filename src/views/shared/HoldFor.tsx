import styles from './ChangeDialog.module.css';

const HOUR_MINUTES = 60;
const DAY_MINUTES = 24 * HOUR_MINUTES;

/** For how long a proposal is kept, in minutes. */
const TIMES: readonly { readonly minutes: number; readonly says: string }[] = [
  { minutes: HOUR_MINUTES, says: 'an hour' },
  { minutes: 4 * HOUR_MINUTES, says: 'four hours' },
  { minutes: DAY_MINUTES, says: 'a day' },
  { minutes: 3 * DAY_MINUTES, says: 'three days' },
  { minutes: 7 * DAY_MINUTES, says: 'a week' },
];
export const USUAL_HOLD = DAY_MINUTES;

/** How long a proposal is held, in the row of a dialog's buttons. */
export function HoldFor({
  minutes,
  onMinutes,
}: {
  readonly minutes: number;
  readonly onMinutes: (minutes: number) => void;
}) {
  return (
    <label className={styles.holdFor}>
      keep it for
      <select value={minutes} onChange={(event) => onMinutes(Number(event.target.value))}>
        {TIMES.map((one) => (
          <option key={one.minutes} value={one.minutes}>
            {one.says}
          </option>
        ))}
      </select>
    </label>
  );
}
