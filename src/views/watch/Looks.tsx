import type { CustomerSummary, Look } from '../../contract';
import { Hand, Hourglass, RotateCcw } from 'lucide-react';
import { lazy, Suspense, useState } from 'react';
import { ApiProblem, send } from '../../client/api';
import { count, writeWhen } from '../../client/format';
import { Chip, type ChipTone } from '../../ui/Chip';
import { Mark } from '../../ui/Mark';
import styles from './Looks.module.css';
import { apart } from './needs';

/** Fetched when something is first put off. */
const PutOff = lazy(() => import('./PutOff'));

interface Props {
  readonly looks: readonly Look[];
  readonly customers: ReadonlyMap<string, CustomerSummary>;
  readonly mayMark: boolean;
  /** What was said of one of them is to be seen. */
  readonly onMarked: () => void;
}

/** What needs a look, those first that hit most people; each is taken on, put off, or goes by itself. */
export function Looks({ looks, customers, mayMark, onMarked }: Props) {
  const { open, off } = apart(looks);
  const [putOff, setPutOff] = useState<Look>();
  const [refused, setRefused] = useState('');
  const mark = (key: string, state: 'taken' | 'open'): void => {
    setRefused('');
    void send('PUT', '/watch/marks', {}, { body: { key, state } })
      .catch((error: unknown) =>
        setRefused(error instanceof ApiProblem ? error.message : 'That could not be kept.'),
      )
      .finally(onMarked);
  };
  const line = (look: Look) => (
    <li key={look.key}>
      <Line look={look} customers={customers} />
      {mayMark && (
        <span className={styles.acts}>
          {look.mark === null ? (
            <>
              <Act says="I am on it" about={look.says} onPress={() => mark(look.key, 'taken')}>
                <Hand size={15} aria-hidden="true" />
              </Act>
              <Act says="Put off" about={look.says} onPress={() => setPutOff(look)}>
                <Hourglass size={15} aria-hidden="true" />
              </Act>
            </>
          ) : (
            <Act says="Look again" about={look.says} onPress={() => mark(look.key, 'open')}>
              <RotateCcw size={15} aria-hidden="true" />
            </Act>
          )}
        </span>
      )}
    </li>
  );
  return (
    <>
      {refused !== '' && (
        <p role="alert" className={styles.refused}>
          {refused}
        </p>
      )}
      {open.length === 0 ? (
        <Chip tone="good">Nothing does.</Chip>
      ) : (
        <ul className={styles.looks}>{open.map(line)}</ul>
      )}
      {off.length > 0 && (
        <details className={styles.off}>
          <summary>{count(off.length, 'is put off', 'are put off')}</summary>
          <ul className={styles.looks}>{off.map(line)}</ul>
        </details>
      )}
      {putOff && (
        <Suspense>
          <PutOff
            look={putOff}
            mark={putOff.customer === null ? undefined : customers.get(putOff.customer)?.mark}
            onClose={() => setPutOff(undefined)}
            onDone={() => {
              setPutOff(undefined);
              onMarked();
            }}
          />
        </Suspense>
      )}
    </>
  );
}

function Line({
  look,
  customers,
}: {
  readonly look: Look;
  readonly customers: ReadonlyMap<string, CustomerSummary>;
}) {
  const whose = look.customer === null ? undefined : customers.get(look.customer);
  const several = whose ? [] : look.customers.flatMap((code) => customers.get(code) ?? []);
  return (
    <a href={look.href} title={look.helps === '' ? undefined : look.helps}>
      <span className={styles.whose}>
        {whose ? (
          <Mark mark={whose.mark} size={26} />
        ) : several.length === 0 ? (
          <Chip tone="bad">{''}</Chip>
        ) : null}
        {several.slice(0, MARKS).map(({ mark }) => (
          <Mark key={mark.code} mark={mark} size={several.length === 1 ? 26 : 20} />
        ))}
      </span>
      <span>
        {look.says}
        <Under look={look} zone={whose?.zone ?? 'UTC'} />
      </span>
    </a>
  );
}

/** More than so many marks say no more. */
const MARKS = 3;

const TONES: Readonly<Record<NonNullable<Look['harm']>, ChipTone>> = {
  out: 'bad',
  slow: 'care',
  soon: 'quiet',
};

/** Whom it hits, since when, and what somebody has said of it. */
function Under({
  look: { harm, people, since, mark },
  zone,
}: {
  readonly look: Look;
  readonly zone: string;
}) {
  if (harm === null && mark === null) return null;
  return (
    <small className={styles.under}>
      {harm !== null && (
        <Chip tone={TONES[harm]}>
          {harm === 'soon'
            ? 'nobody yet'
            : count(
                people,
                harm === 'out' ? 'person out' : 'person slowed',
                harm === 'out' ? 'people out' : 'people slowed',
              )}
        </Chip>
      )}
      {since !== null && <span>since {writeWhen(since, zone)}</span>}
      {mark?.state === 'taken' && <b>{mark.by} is on it</b>}
      {mark?.state === 'put off' && (
        <span>
          until {writeWhen(mark.until, zone)}, {mark.by}: {mark.reason}
        </span>
      )}
    </small>
  );
}

function Act({
  says,
  about,
  onPress,
  children,
}: {
  readonly says: string;
  readonly about: string;
  readonly onPress: () => void;
  readonly children: React.ReactNode;
}) {
  return (
    <button type="button" title={says} aria-label={`${says}: ${about}`} onClick={onPress}>
      {children}
    </button>
  );
}
