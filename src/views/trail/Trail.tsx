import { useState } from 'react';
import type { Money } from '../../core/money';
import { get, whyOf } from '../../client/api';
import { writeExactly, writeMoney, writeWhen } from '../../client/format';
import { Button } from '../../ui/Button';
import { Empty, Panel } from '../../ui/Panel';
import styles from './Trail.module.css';

export interface TrailEntry {
  readonly id: string;
  readonly at: number;
  readonly customer: string | null;
  readonly actor: string;
  readonly action: string;
  readonly subject: string;
  readonly run: string | null;
  readonly before: unknown;
  readonly after: unknown;
  readonly reason: string;
}

export interface TrailPage {
  readonly entries: readonly TrailEntry[];
  readonly next: string | null;
}

interface Props {
  /** The API path of the trail that is shown. */
  readonly path: string;
  readonly initial: TrailPage;
  readonly zone: string;
  /** Whether entries name their customer: on pages across customers. */
  readonly across: boolean;
}

/** Who did what, newest first; each entry opens to what was before and after. */
export function Trail({ path, initial, zone, across }: Props) {
  const [pages, setPages] = useState<TrailPage>(initial);
  const [find, setFind] = useState('');
  const [problem, setProblem] = useState<string>();
  const read = async (query: string, keep: readonly TrailEntry[]): Promise<void> => {
    try {
      const next = await get<TrailPage>(`${path}?limit=60${query}`);
      setPages({ entries: [...keep, ...next.entries], next: next.next });
      setProblem(undefined);
    } catch (error) {
      setProblem(whyOf(error));
    }
  };
  const findQuery = find === '' ? '' : `&find=${encodeURIComponent(find)}`;
  return (
    <Panel title="Trail" flush>
      <form
        className={styles.find}
        onSubmit={(event) => {
          event.preventDefault();
          void read(findQuery, []);
        }}
      >
        <input
          type="search"
          aria-label="Find in the trail"
          placeholder="Find who, what or which"
          value={find}
          onChange={(event) => setFind(event.target.value)}
        />
        <Button type="submit">Find</Button>
      </form>
      {problem !== undefined && <p role="alert">{problem}</p>}
      {pages.entries.length === 0 ? (
        <Empty says="Nothing is on the trail here." />
      ) : (
        <ol className={styles.trail}>
          {pages.entries.map((entry) => (
            <li key={entry.id}>
              <Entry entry={entry} zone={zone} across={across} />
            </li>
          ))}
        </ol>
      )}
      {pages.next !== null && (
        <div className={styles.more}>
          <Button onPress={() => void read(`${findQuery}&after=${pages.next ?? ''}`, pages.entries)}>
            Earlier
          </Button>
        </div>
      )}
    </Panel>
  );
}

function Entry({
  entry,
  zone,
  across,
}: {
  readonly entry: TrailEntry;
  readonly zone: string;
  readonly across: boolean;
}) {
  return (
    <details>
      <summary>
        <time title={writeExactly(entry.at, zone)}>{writeWhen(entry.at, zone)}</time>
        {across && <span className={styles.code}>{entry.customer ?? '—'}</span>}
        <span className={styles.actor}>{entry.actor}</span>
        <b>{entry.action}</b>
        <span className={styles.subject}>{entry.subject}</span>
        <span className={styles.reason}>{entry.reason}</span>
      </summary>
      <div className={styles.states}>
        <State name="Before" value={entry.before} />
        <State name="After" value={entry.after} />
        {entry.run !== null && entry.customer !== null && (
          <a href={`/customers/${entry.customer}/runs/${entry.run}`}>See the run</a>
        )}
      </div>
    </details>
  );
}

function State({ name, value }: { readonly name: string; readonly value: unknown }) {
  if (typeof value !== 'object' || value === null) return null;
  return (
    <dl>
      <dt>{name}</dt>
      {Object.entries(value).map(([key, one]) => (
        <dd key={key}>
          <span>{key}</span>
          <code>{written(one)}</code>
        </dd>
      ))}
    </dl>
  );
}

function written(value: unknown): string {
  if (isMoney(value)) return writeMoney(value);
  if (Array.isArray(value)) return value.map(written).join(', ');
  if (typeof value === 'object' && value !== null)
    return Object.entries(value)
      .map(([key, one]) => `${key} ${written(one)}`)
      .join(', ');
  return String(value);
}

const isMoney = (value: unknown): value is Money =>
  typeof value === 'object' &&
  value !== null &&
  'minor' in value &&
  'currency' in value &&
  typeof value.minor === 'number' &&
  typeof value.currency === 'string';
