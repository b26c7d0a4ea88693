import type { Outlook } from '../../contract';
import { count } from '../../client/format';
import { Button } from '../../ui/Button';
import { Chip } from '../../ui/Chip';
import { CheckField, TextField } from '../../ui/Field';
import { Figure, Figures, Panel } from '../../ui/Panel';
import styles from './Items.module.css';
import type { Moves } from './moves';

interface Props {
  readonly code: string;
  readonly outlook: Outlook | undefined;
  readonly moves: Moves;
  readonly until: string;
  /** Whether pools get the licence seats that they would lack. */
  readonly withSeats: boolean;
  readonly onWithSeats: (withSeats: boolean) => void;
  readonly onUntil: (until: string) => void;
  readonly onClear: () => void;
  /** Left out: nothing may be changed. */
  readonly onChange?: (() => void) | undefined;
}

/** What would come of it for people, before it is done. */
export function OutlookPanel({
  code,
  outlook,
  moves,
  until,
  withSeats,
  onWithSeats,
  onUntil,
  onClear,
  onChange,
}: Props) {
  const chosen = moves.add.length + moves.take.length;
  if (chosen === 0)
    return (
      <Panel title="What would change">
        <p className={styles.quiet}>
          {onChange
            ? 'Press cells, as many as you like. Nothing changes before you say so.'
            : 'Engineers and leads can change who gets what.'}
        </p>
      </Panel>
    );
  const short = outlook?.pools.filter((one) => one.short > 0) ?? [];
  return (
    <Panel title="What would change">
      <div className={styles.outlook} role="status">
        <Figures>
          <Figure value={outlook?.gain ?? '–'} label="see more" />
          <Figure value={outlook?.lose ?? '–'} label="see less" />
          <Figure value={outlook?.out ?? '–'} label="see nothing there" />
        </Figures>
        {outlook && <Names title="See more" people={outlook.gaining} all={outlook.gain} code={code} />}
        {outlook && <Names title="See less" people={outlook.losing} all={outlook.lose} code={code} />}
        {outlook && outlook.inNow > 0 && (
          <Chip tone="care">{count(outlook.inNow, 'of them is in now', 'of them are in now')}</Chip>
        )}
        {short.map((one) => (
          <p key={one.pool} className={styles.short}>
            {one.pool}: {one.entitled} people for {one.licences} licence seats. {one.short} would get none.
          </p>
        ))}
        {short.length > 0 && onChange && (
          <CheckField
            label={`Take ${count(
              short.reduce((sum, one) => sum + one.short, 0),
              'more licence seat',
              'more licence seats',
            )}`}
            help="what it costs is said before it is done"
            checked={withSeats}
            onChange={(event) => onWithSeats(event.target.checked)}
          />
        )}
        {moves.add.length > 0 && (
          <TextField
            label="Last day"
            type="date"
            help="left empty: it does not end"
            value={until}
            onChange={(event) => onUntil(event.target.value)}
          />
        )}
        <div className={styles.buttons}>
          {onChange && (
            <Button kind="main" onPress={onChange}>
              Change {count(chosen, 'grant', 'grants')} for {code}
            </Button>
          )}
          <Button kind="quiet" onPress={onClear}>
            Start over
          </Button>
        </div>
      </div>
    </Panel>
  );
}

const NAMED = 6;

function Names({
  title,
  people,
  all,
  code,
}: {
  readonly title: string;
  readonly people: Outlook['gaining'];
  readonly all: number;
  readonly code: string;
}) {
  if (all === 0) return null;
  return (
    <p className={styles.names}>
      <b>{title}:</b>{' '}
      {people.slice(0, NAMED).map((one, n) => (
        <span key={one.id}>
          {n > 0 && ', '}
          <a href={`/customers/${code}/people/${one.id}`}>{one.name}</a>
        </span>
      ))}
      {all > NAMED && ` and ${all - NAMED} more`}
    </p>
  );
}
