import type { Preview } from '../../contract';
import { count, writeFigure, writeMoney } from '../../client/format';
import { Chip } from '../../ui/Chip';
import { ImpactLine } from '../../ui/ImpactLine';
import { Mark } from '../../ui/Mark';
import { Panel } from '../../ui/Panel';
import { fieldFor } from './fields';
import styles from './Onboard.module.css';

/** What will come of what is filled in: drawn, named, counted; and what is missing, each a way to its field. */
export function Outcome({
  preview,
  name,
  isKnown,
  onGo,
}: {
  readonly preview: Preview | undefined;
  readonly name: string;
  readonly isKnown: boolean;
  readonly onGo: (field: string) => void;
}) {
  if (!preview) return <Panel>Looking what comes of it …</Panel>;
  const { mark, names, meets, holidays, missing } = preview;
  return (
    <>
      <Panel>
        <div className={styles.who}>
          {!isKnown && <Mark mark={{ ...mark, code: mark.code === '' ? '…' : mark.code }} size={56} />}
          <div>
            <h2>{name.trim() === '' ? 'A new customer' : name}</h2>
            <ImpactLine line={impactOf(preview, isKnown)} />
          </div>
        </div>
        {missing.length > 0 && (
          <ul className={styles.missing} aria-label="What is missing">
            {missing.map(({ field, says }) => (
              <li key={`${field} ${says}`}>
                <button type="button" onClick={() => onGo(fieldFor(field))}>
                  <Chip tone="care">{wordFor(field)}</Chip>
                  <span>{says}</span>
                </button>
              </li>
            ))}
          </ul>
        )}
      </Panel>
      <Panel title="Computer names">
        {names.length === 0 ? (
          <p className={styles.help}>The rule cannot be read.</p>
        ) : (
          <table className={styles.names}>
            <thead>
              <tr>
                <th scope="col">In office</th>
                <th scope="col">The first</th>
                <th scope="col">The last</th>
                <th scope="col">In all</th>
              </tr>
            </thead>
            <tbody>
              {names.map((one) => (
                <tr key={one.role}>
                  <th scope="row">{one.role}</th>
                  <td className="mono">{one.first}</td>
                  <td className="mono">{one.last}</td>
                  <td>{writeFigure(one.left)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {meets.length > 0 && (
          <Chip tone="care">
            {meets.slice(0, 4).join(', ')}
            {meets.length > 4 && ` and ${meets.length - 4} more`} could come to the same names: say{' '}
            {'{customer}'} in the rule
          </Chip>
        )}
      </Panel>
      {!isKnown && <FromDayOne preview={preview} />}
      <Panel title="Nobody works">
        {holidays.length === 0 ? (
          <p className={styles.help}>On no public holiday: choose their country.</p>
        ) : (
          <ol className={styles.holidays}>
            {holidays.map((day) => (
              <li key={`${day.date} ${day.name}`}>
                <time dateTime={day.date}>{day.date}</time> {day.name}
              </li>
            ))}
          </ol>
        )}
      </Panel>
    </>
  );
}

/** What a new customer gets and pays from the beginning. */
function FromDayOne({ preview: { block, room, monthly, missing } }: { readonly preview: Preview }) {
  return (
    <div className={styles.two}>
      <Panel title="Addresses">
        {block === null ? (
          <p className={styles.help}>
            {missing.some(({ field }) => field === 'site')
              ? 'Of their home site, once it is chosen.'
              : 'No block of this size is free at their site.'}
          </p>
        ) : (
          <p>
            <code>{block}</code>
            <small className={styles.small}>
              {writeFigure(room)} addresses; nobody else’s. They get it with their first environment.
            </small>
          </p>
        )}
      </Panel>
      <Panel title="From day one">
        <p>
          <b>{monthly === null ? '–' : writeMoney(monthly)}</b> a month for the plan
          <small className={styles.small}>and what they use, by the second, at their card’s prices</small>
        </p>
      </Panel>
    </div>
  );
}

const WORDS: Readonly<Record<string, string>> = {
  code: 'Code',
  name: 'Name',
  plan: 'Plan',
  site: 'Home site',
  zone: 'Time zone',
  card: 'Rate card',
  currency: 'Currency',
  naming: 'Naming rule',
  'calendar.country': 'Country',
  'calendar.region': 'Region',
};
const wordFor = (field: string): string => WORDS[field] ?? field;

function impactOf({ monthly, missing }: Preview, isKnown: boolean): string {
  if (missing.length > 0) return `${count(missing.length, 'thing is', 'things are')} missing`;
  if (isKnown) return 'holds from now on · nothing that stands is changed';
  const cost = monthly === null ? 'no fee' : `+${writeMoney(monthly)} a month`;
  return `1 customer · nothing is built yet · ${cost} from today`;
}
