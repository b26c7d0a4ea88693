import { useEffect, useRef, useState } from 'react';
import type { TrailEntry } from '../../contract';
import { ChevronRight } from 'lucide-react';
import type { Money } from '../../core/money';
import { call, whyOf } from '../../client/api';
import { writeExactly, writeMoney, writeWhen } from '../../client/format';
import { Mark, type MarkLook } from '../../ui/Mark';
import styles from './Trail.module.css';

interface Props {
  /** Of the trail that it stands on. */
  readonly path: string;
  readonly entry: TrailEntry;
  readonly zone: string;
  /** Whether the entry says whose it is. */
  readonly across: boolean;
  readonly mark: MarkLook | undefined;
}

/** Who, when, what and why in a line; opened, what was before and after. */
export function Entry({ path, entry, zone, across, mark }: Props) {
  // Why says more than what; what stands below.
  const says = entry.reason === '' ? whatChanged(entry) : entry.reason;
  const details = useRef<HTMLDetailsElement>(null);
  const [isOpen, setOpen] = useState(false);
  // It may have been opened before the page came to life.
  useEffect(() => setOpen(details.current?.open === true), []);
  return (
    <details ref={details} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>
        <ChevronRight className={styles.opens} size={16} aria-hidden="true" />
        <time title={writeExactly(entry.at, zone)}>{writeWhen(entry.at, zone)}</time>
        {across && <span className={styles.whose}>{mark ? <Mark mark={mark} size={24} /> : null}</span>}
        <span className={styles.actor}>
          {entry.actor} {entry.role !== null && <small>{entry.role}</small>}
        </span>
        <span className={styles.deed}>
          <b>{deedOf(entry.action)}</b> {entry.subject}
        </span>
        <span className={styles.reason}>{says}</span>
      </summary>
      {isOpen && (
        <div className={styles.states}>
          <States path={path} entry={entry} />
          {entry.run !== null && entry.customer !== null && (
            <a href={`/customers/${entry.customer}/runs/${entry.run}`}>See the run</a>
          )}
        </div>
      )}
    </details>
  );
}

const DEEDS: Readonly<Record<string, string>> = {
  'end run': 'ended',
  'run stopped': 'stopped',
  'stop run': 'stopped',
  'resume run': 'resumed',
  'take on customer': 'took on',
  'change state': 'changed',
  'import people': 'imported people',
  'set demo clock': 'set the',
  'sign in': 'signed in as',
  'sign out': 'signed out',
  'make API token': 'made API token',
  'change password': 'changed the password of',
};

const OF_RUNS: ReadonlySet<string> = new Set(['end run', 'run stopped', 'stop run', 'resume run']);

const deedOf = (action: string): string =>
  action.startsWith('begin ') ? 'began' : (DEEDS[action] ?? action);

/** A run's end says only why it stopped: that it ran before is no news. */
const whatChanged = ({ action, before, after }: TrailEntry): string =>
  OF_RUNS.has(action) ? causeOf(after) : changesOf(before, after);

const causeOf = (after: unknown): string =>
  isRecord(after) && typeof after.cause === 'string' ? after.cause : '';

/** What is another than before, like `state active → leaving`. */
function changesOf(before: unknown, after: unknown): string {
  if (!isRecord(before) || !isRecord(after)) return '';
  return Object.keys(before)
    .filter((key) => after[key] !== undefined && written(before[key]) !== written(after[key]))
    .map((key) => `${key} ${written(before[key])} → ${written(after[key])}`)
    .join(', ');
}

/** What was before and after: what is too long for the list is fetched. */
function States({ path, entry }: Pick<Props, 'path' | 'entry'>) {
  const [whole, setWhole] = useState(entry.isLong ? undefined : entry);
  const [problem, setProblem] = useState<string>();
  useEffect(() => {
    if (whole) return;
    call<TrailEntry>('GET', `${path}/${entry.id}`).then(setWhole, (error: unknown) =>
      setProblem(whyOf(error)),
    );
  }, [path, entry.id, whole]);
  if (problem !== undefined) return <p role="alert">{problem}</p>;
  if (!whole) return <p>Reading what was …</p>;
  return (
    <>
      <State name="Before" value={whole.before} />
      <State name="After" value={whole.after} />
    </>
  );
}

function State({ name, value }: { readonly name: string; readonly value: unknown }) {
  if (!isRecord(value)) return null;
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
  if (value === null) return 'none';
  if (Array.isArray(value)) return value.map(written).join(', ');
  if (isRecord(value))
    return Object.entries(value)
      .map(([key, one]) => `${key} ${written(one)}`)
      .join(', ');
  return String(value);
}

const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const isMoney = (value: unknown): value is Money =>
  isRecord(value) && typeof value.minor === 'number' && typeof value.currency === 'string';
